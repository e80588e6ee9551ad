import { t } from "../i18n";
import { session } from "./session.svelte";
import { toasts } from "./toasts.svelte";

/** Log out, once whoever has text that was not saved agrees to lose it; whether that was done. What goes wrong is said. */
export async function logOut(): Promise<boolean> {
  if (session.unsaved() && !confirm(t("login.unsaved"))) return false;
  try {
    await session.logOut();
    return true;
  } catch (error) {
    toasts.wrong(error);
    return false;
  }
}
