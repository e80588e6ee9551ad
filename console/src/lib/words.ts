/** Words as they are compared: without capitals, and without the marks above and below letters. */
const compared = (text: string): string => text.normalize("NFKD").replace(/\p{M}/gu, "").toLocaleLowerCase();

/** Whether each word of what is wanted is somewhere in a text; where nothing is wanted, it is. */
export const within = (text: string, wanted: string): boolean =>
  compared(wanted)
    .trim()
    .split(/\s+/)
    .every((word) => compared(text).includes(word));
