/** The languages of the console, each as it calls itself; the catalogues of each stand in `src/messages`. */
export const LANGUAGES = { en: "English", de: "Deutsch", fr: "Français", ar: "العربية" };
export type Language = keyof typeof LANGUAGES;

/** How each writes days and numbers: with figures that everybody types, in Arabic as well. */
const WRITTEN: Record<Language, string> = { en: "en-GB", de: "de-DE", fr: "fr-FR", ar: "ar-EG-u-nu-latn" };
const KEPT = "hawthorn:language";

const isOurs = (tag: string): tag is Language => tag in LANGUAGES;

/** The first of some languages (BCP 47) that the console has; English where it has none of them. */
export function firstOf(tags: readonly string[]): Language {
  return tags.map((tag) => tag.toLowerCase().split("-")[0]!).find(isOurs) ?? "en";
}

/** The language that is spoken: whoever was here last chose it, else the browser did. */
export const spoken: Language = firstOf([localStorage.getItem(KEPT) ?? "", ...navigator.languages]);

/** How days, times and numbers are written (BCP 47). */
export const language = WRITTEN[spoken];

/** Whether it is written from right to left. */
export const rtl = spoken === "ar";

/** Speak what somebody chose, or (empty) what their browser says; the console begins anew where that is another language. */
export function speak(chosen: string): void {
  if (isOurs(chosen)) localStorage.setItem(KEPT, chosen);
  else localStorage.removeItem(KEPT);
  if (firstOf([chosen, ...navigator.languages]) !== spoken) location.reload();
}

const collator = new Intl.Collator(language, { numeric: true });

/** Which of two names comes first, as the language sorts them. */
export const inOrder = (a: string, b: string): number => collator.compare(a, b);
