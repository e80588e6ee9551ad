/** What a page's help is called in the catalogue, how many paragraphs it has, and the guides that say more. */
export interface Help {
  name: string;
  paragraphs: number;
  guides: string[];
}

const PAGES: [path: RegExp, name: string, paragraphs: number, ...guides: string[]][] = [
  [/^\/$/, "myWork", 3, "console", "collaboration"],
  [/^\/entries$/, "entries", 3, "console", "writing"],
  [/^\/entries\/import$/, "import", 2, "exchange", "writing"],
  [/^\/entries\/.*\/proposal$/, "proposal", 2, "writing"],
  [/^\/entries\/.*\/compare$/, "compare", 2, "writing"],
  [/^\/entries\//, "entry", 4, "console", "writing", "collaboration", "workflows"],
  [/^\/preview\//, "preview", 1, "preview"],
  [/^\/outline/, "outline", 3, "pages"],
  [/^\/differences/, "differences", 1, "going-out"],
  [/^\/timetable\/./, "dispatch", 3, "going-out", "workflows"],
  [/^\/timetable/, "timetable", 2, "going-out", "workflows"],
  [/^\/translation\/commissions\/./, "commission", 3, "translation"],
  [/^\/translation\/[^/]+\/table/, "table", 3, "translation"],
  [/^\/translation\/./, "job", 2, "bureaus"],
  [/^\/translation/, "translation", 2, "bureaus"],
  [/^\/library/, "library", 2, "pages"],
  [/^\/figures/, "figures", 2, "figures"],
  [/^\/set-up\/(types|field-sets)\//, "types", 2, "types"],
  [/^\/set-up\/workflows/, "workflows", 2, "workflows"],
  [/^\/set-up\/quiet-periods/, "quietPeriods", 2, "going-out"],
  [/^\/set-up\/webhooks/, "webhooks", 2, "webhooks"],
  [/^\/set-up\/people/, "people", 2, "people"],
  [/^\/set-up\/keys/, "keys", 1, "people", "reading"],
  [/^\/set-up\/bureaus/, "bureaus", 1, "bureaus"],
  [/^\/set-up\/log-ins/, "logIns", 1, "people"],
  [/^\/set-up\/log/, "log", 1, "security"],
  [/^\/set-up\/languages/, "languages", 1, "set-up"],
  [/^\/set-up\/in-and-out/, "exchange", 2, "exchange"],
  [/^\/set-up\/sites/, "sites", 1, "preview", "pages"],
  [/^\/set-up/, "setUp", 1, "set-up", "types"],
  [/^\/search-and-sharing/, "searchAndSharing", 1, "pages"],
  [/^\/account/, "account", 1, "people", "languages", "security"],
];

/** The help of the page at an address. */
export function helpOf(path: string): Help {
  const [, name, paragraphs, ...guides] = PAGES.find(([pattern]) => pattern.test(path)) ?? PAGES[0]!;
  return { name, paragraphs, guides };
}
