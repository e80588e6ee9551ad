/** Words as they are compared: without capitals, and without the marks above and below letters. */
const compared = (text: string): string => text.normalize("NFKD").replace(/\p{M}/gu, "").toLocaleLowerCase();

/** Whether each word of what is wanted is somewhere in a text; where nothing is wanted, it is. */
export function within(text: string, wanted: string): boolean {
  const here = compared(text);
  return compared(wanted)
    .trim()
    .split(/\s+/)
    .every((word) => here.includes(word));
}
