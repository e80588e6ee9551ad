/**
 * The name under which a component of the library takes no colours of its own: those come from our tokens, which have a
 * light and a dark side, so that nothing is said twice.
 */
export const OURS = "ours" as never;
/** Where the focus is, for the library hides its own. */
const RING = "focus-visible:outline-3 focus-visible:outline-offset-2 focus-visible:outline-slate";
/**
 * What is typed or chosen in: the box, its edge and its focus. Some of the library’s fields have colours for the dark whatever they
 * are told, which are taken back here.
 */
export const BOX = `${RING} rounded-md border border-edge bg-sheet px-2.5 py-1.5 text-base text-ink placeholder:text-moss focus:border-slate focus:ring-0 dark:border-edge dark:bg-sheet dark:text-ink dark:placeholder-moss dark:focus:border-slate dark:focus:ring-0 disabled:cursor-not-allowed disabled:opacity-60`;
/** What is ticked. */
export const TICK =
  "size-4 shrink-0 border-edge bg-sheet text-tick focus:ring-2 focus:ring-slate focus:ring-offset-0 dark:border-edge dark:bg-sheet dark:focus:ring-slate disabled:cursor-not-allowed disabled:opacity-60";
export type Look = "plain" | "main" | "quiet" | "row" | "link";
const ANY = `cursor-pointer focus-within:ring-0 ${RING} disabled:cursor-not-allowed disabled:opacity-60`;
const ACT = `${ANY} min-h-9 gap-1.5 rounded-md border px-3 py-1 text-[0.95rem] font-semibold`;
/** How acts look. */
export const LOOKS: Record<Look, string> = {
  plain: `${ACT} border-edge bg-sheet text-ink hover:not-disabled:bg-wash aria-pressed:bg-wash aria-pressed:shadow-[inset_0_-3px_0_var(--hedge)]`,
  main: `${ACT} border-hedge bg-hedge text-hedge-ink hover:not-disabled:brightness-110`,
  quiet: `${ANY} min-h-8 min-w-8 gap-1 rounded px-2 py-0.5 text-[length:inherit] font-normal text-inherit hover:not-disabled:bg-wash`,
  row: `${ANY} min-h-8 w-full justify-start gap-2 rounded px-3 py-1.5 text-start text-[length:inherit] font-normal text-inherit hover:not-disabled:bg-wash`,
  link: `${ANY} min-h-6 justify-start p-0 text-start text-[length:inherit] font-normal text-hedge underline`,
};
