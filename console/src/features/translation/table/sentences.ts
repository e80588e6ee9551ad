/** Words, or a tag that stands among them by its number. */
export type Piece = string | { id: string; how: "open" | "close" | "empty"; of: string };

const TAG = /<(\/?)([^\s<>/]+)(?: of="([^"<>]*)")?(\/?)>/g;
const plain = (text: string): string => text.replace(/&(lt|amp);/g, (_, name) => (name === "lt" ? "<" : "&"));
const escaped = (text: string): string => text.replaceAll("&", "&amp;").replaceAll("<", "&lt;");

/** A sentence as the service writes it, `It <1>burned</1> oil.`, taken apart. */
export function pieces(written: string): Piece[] {
  const out: Piece[] = [];
  let end = 0;
  for (const found of written.matchAll(TAG)) {
    if (found.index > end) out.push(plain(written.slice(end, found.index)));
    end = found.index + found[0].length;
    out.push({
      id: found[2]!,
      how: found[1] ? "close" : found[4] ? "empty" : "open",
      of: found[3] ?? "",
    });
  }
  if (end < written.length) out.push(plain(written.slice(end)));
  return out;
}

/** The way back; what differs only in how a character is written comes out alike. */
export function written(some: readonly Piece[]): string {
  return some
    .map((one) => {
      if (typeof one === "string") return escaped(one);
      if (one.how === "close") return `</${one.id}>`;
      return `<${one.id}${one.of ? ` of="${one.of}"` : ""}${one.how === "empty" ? "/" : ""}>`;
    })
    .join("");
}

/** The words of a sentence without its tags. */
export function wordsIn(sentence: string): string {
  return pieces(sentence)
    .filter((one) => typeof one === "string")
    .join("");
}

/** A piece of a sentence, or words of it that a glossary knows. */
export type Marked = Piece | { word: string };

/** A sentence taken apart, with the words marked that stand from one character of its words to another (counted as code points). */
export function marked(sentence: string, words: readonly { start: number; end: number }[]): Marked[] {
  const out: Marked[] = [];
  let at = 0;
  for (const piece of pieces(sentence)) {
    if (typeof piece !== "string") {
      out.push(piece);
      continue;
    }
    const letters = [...piece];
    let done = 0;
    for (const one of words) {
      const start = Math.max(one.start - at, done);
      const end = Math.min(one.end - at, letters.length);
      if (start >= end) continue;
      if (start > done) out.push(letters.slice(done, start).join(""));
      out.push({ word: letters.slice(start, end).join("") });
      done = end;
    }
    if (done < letters.length) out.push(letters.slice(done).join(""));
    at += letters.length;
  }
  return out;
}

/** The first word of a glossary that what is typed does not have yet; the first of all when it has each. */
export function nextWord(
  line: { words: { targets: { text: string; status: string }[] }[] },
  typed: string,
): string | undefined {
  const have = wordsIn(typed).toLocaleLowerCase();
  const wanted = line.words
    .map((one) => one.targets.find((term) => term.status !== "deprecated")?.text)
    .filter((text) => text !== undefined);
  return wanted.find((text) => !have.includes(text.toLocaleLowerCase())) ?? wanted[0];
}

/** Whether two sentences say the same, however their characters are written. */
export function same(one: string, other: string): boolean {
  return written(pieces(one)) === written(pieces(other));
}

/** What a chip shows: what it is, and on which side its words are. */
export function face(name: string, how: string): string {
  return how === "open" ? `${name} ▸` : how === "close" ? `◂ ${name}` : name;
}
