import { saysIn } from "../i18n";
import { inOrder, speak } from "../language";
import { moment } from "./moment.svelte";
import { api, Problem, sure, type Me, type Setup } from "../api";

const typedIn = (storage: Storage): string[] =>
  Array.from({ length: storage.length }, (_, n) => storage.key(n) ?? "").filter((key) =>
    key.startsWith("hawthorn:typed:"),
  );

/** Who is logged in, and what there is to work with. */
class Session {
  me = $state<Me | null>(null);
  setup = $state<Setup | null>(null);
  asked = $state(false);

  async look(): Promise<void> {
    try {
      this.me = await sure(api.GET("/api/me"));
      saysIn(this.me.zone);
      if (this.me.language) speak(this.me.language);
      // Whoever has yet to set up a second factor is told of nothing else.
      if (this.me.factor_wanted) return void (this.asked = true);
      const setup = await sure(api.GET("/api/setup"));
      setup.kinds.sort((a, b) => inOrder(a.label, b.label));
      this.setup = setup;
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

  /** How many texts lie in this browser that somebody typed and did not save. */
  unsaved(storage: Storage = localStorage): number {
    return typedIn(storage).length;
  }

  /** Log out; what was typed here leaves the browser with whoever typed it. */
  async logOut(storage: Storage = localStorage): Promise<void> {
    await sure(api.DELETE("/api/session"));
    for (const key of typedIn(storage)) storage.removeItem(key);
    this.me = null;
  }

  /** Go to the provider; the page that one was at is kept for the way back. */
  async leave(storage: Storage = sessionStorage): Promise<void> {
    const { address } = await sure(api.POST("/api/session/provider/begin"));
    const here = location.pathname + location.search;
    storage.setItem("hawthorn:left", location.pathname === "/log-in" ? "/" : here);
    location.assign(address);
  }

  /** Log in with what the provider sent back, and go on where one was before. */
  async comeBack(back: URLSearchParams, storage: Storage = sessionStorage): Promise<void> {
    // What came along is of no more use, and need not stay in the address.
    history.replaceState(null, "", "/log-in");
    const [code, state, issuer] = ["code", "state", "iss"].map((name) => back.get(name) ?? "") as [
      string,
      string,
      string,
    ];
    await sure(api.POST("/api/session/provider", { body: { code, state, issuer } }));
    location.replace(storage.getItem("hawthorn:left") ?? "/");
  }

  /** Go on into the console with a session that was just opened by an address with a token. */
  async arrive(): Promise<void> {
    // The token is of no more use; it need not stay in the address either.
    history.replaceState(null, "", "/");
    await this.look();
    if (!this.me) location.assign("/");
  }

  type(name: string) {
    return this.setup?.types.find((type) => type.name === name);
  }

  locale(tag: string) {
    return this.setup?.locales.find((locale) => locale.tag === tag);
  }

  /** Whether a verb is granted somewhere; at another instant than now nothing is but to look. */
  may(verb: string): boolean {
    if (moment.at && verb !== "read") return false;
    return this.me?.verbs.includes(verb) ?? false;
  }
}

export const session = new Session();
