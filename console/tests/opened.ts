import { fireEvent } from "@testing-library/svelte";

/** Open what a button opens below itself, as a browser does: this environment has no popovers of its own. */
export async function opened(act: HTMLElement): Promise<HTMLElement> {
  const sheet = document.getElementById(act.getAttribute("popovertarget")!)!;
  await fireEvent(sheet, Object.assign(new Event("toggle"), { newState: "open" }));
  return sheet;
}
