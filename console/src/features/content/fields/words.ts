/** How many words a text has, as its language divides them, so that languages without spaces are counted too. */
export function wordsOf(text: string, lang?: string): number {
  let count = 0;
  for (const part of new Intl.Segmenter(lang || undefined, { granularity: "word" }).segment(text))
    if (part.isWordLike) count++;
  return count;
}
