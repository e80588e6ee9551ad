import { api, Problem, sure, type Me, type Setup } from "../api";

/** Who is logged in, and what there is to work with. */
class Session {
  me = $state<Me | null>(null);
  setup = $state<Setup | null>(null);
  asked = $state(false);

  async look(): Promise<void> {
    try {
      this.me = await sure(api.GET("/api/me"));
      this.setup = await sure(api.GET("/api/setup"));
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      this.me = null;
    }
    this.asked = true;
  }

  async logIn(handle: string, password: string, code = ""): Promise<void> {
    await sure(api.POST("/api/session", { body: { handle, password, code } }));
    await this.look();
  }

  async logOut(): Promise<void> {
    await sure(api.DELETE("/api/session"));
    this.me = null;
  }

  type(name: string) {
    return this.setup?.types.find((type) => type.name === name);
  }

  locale(tag: string) {
    return this.setup?.locales.find((locale) => locale.tag === tag);
  }

  may(verb: string): boolean {
    return this.me?.verbs.includes(verb) ?? false;
  }
}

export const session = new Session();
