/** Passkeys: asking the browser, which asks the device (Web Authentication, level 3). Loaded when somebody comes with one. */
import { Problem } from "./api";
import { t } from "./i18n";

type Options = Record<string, unknown>;
type Answer = Record<string, unknown>;

/** Whether the browser knows of passkeys at all. */
export const known = (): boolean => typeof window.PublicKeyCredential === "function";

/** Let the device make one; what it answers. */
export async function made(options: Options): Promise<Answer> {
  const { startRegistration } = await import("@simplewebauthn/browser");
  return said(() => startRegistration({ optionsJSON: options as never }));
}

/** Let the device show one; what it answers. */
export async function shown(options: Options): Promise<Answer> {
  const { startAuthentication } = await import("@simplewebauthn/browser");
  return said(() => startAuthentication({ optionsJSON: options as never }));
}

/** What a browser throws says little to people: it is said in our words, with what to do. */
async function said(ask: () => Promise<unknown>): Promise<Answer> {
  try {
    return (await ask()) as Answer;
  } catch (caught) {
    const name = caught instanceof Error ? caught.name : "";
    const why =
      name === "InvalidStateError"
        ? "there"
        : ["NotAllowedError", "AbortError"].includes(name)
          ? "stopped"
          : "cannot";
    throw new Problem(0, { detail: t(`passkeys.${why}`), remedy: t(`passkeys.${why}Then`) });
  }
}
