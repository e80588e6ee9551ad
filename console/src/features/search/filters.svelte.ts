import { searchParams } from "sv-router";
import { keepInAddress } from "../../lib/address";
import { t } from "../../lib/i18n";
import type { Filters } from "./queries";
import { session } from "../../lib/state/session.svelte";

/** What asks for nothing. */
export const BLANK: Filters = {
  type: "",
  locale: "",
  stage: "",
  person: "",
  words: "",
  topic: "",
  tag: "",
  since: "",
  until: "",
  validity: "",
  archived: "",
  incomplete: false,
  behind: false,
  planned: false,
  sort: "",
};
const NAMES = Object.keys(BLANK) as (keyof Filters)[];

/** What a list asks for, as it stands in the address: a list can be handed on, and is there again after going back. */
export class Asking {
  filters = $state<Filters>({ ...BLANK });

  constructor() {
    this.look();
  }

  /** Take what the address asks for. */
  look(): void {
    const said = NAMES.flatMap((name) => {
      const value = searchParams.get(name);
      if (value === null) return [];
      return [[name, typeof BLANK[name] === "boolean" ? value === true || value === "yes" : String(value)]];
    });
    this.filters = { ...this.filters, ...(Object.fromEntries(said) as Partial<Filters>) };
  }

  /** What is asked for, without what is empty. */
  get given(): Partial<Filters> {
    const asked = $state.snapshot(this.filters) as Filters;
    // What is found by words has an order of its own.
    if (asked.words.trim()) asked.sort = "";
    return Object.fromEntries(Object.entries(asked).filter(([, value]) => value)) as Partial<Filters>;
  }

  /** Ask for this and nothing else. */
  open(query: Partial<Filters>): void {
    this.filters = { ...BLANK, ...query };
  }

  /** Write into the address what is asked for. */
  keep(): void {
    const given = this.given;
    for (const name of NAMES) keepInAddress(name, given[name]);
  }

  /** What narrows the list, in words, each with what takes it away. */
  chips(names: { people: Map<string, string>; topics: Map<string, string>; stages: Map<string, string> }) {
    const f = this.filters;
    const words: [keyof Filters, string][] = [
      ["type", session.type(f.type)?.label ?? f.type],
      ["locale", session.locale(f.locale)?.name ?? f.locale],
      ["stage", f.stage && `${t("list.at")} ${names.stages.get(f.stage) ?? f.stage}`],
      ["person", f.person && `${t("list.by")} ${names.people.get(f.person) ?? f.person}`],
      ["words", f.words && `“${f.words}”`],
      ["topic", f.topic && `${t("list.topic")} ${names.topics.get(f.topic) ?? ""}`],
      ["tag", f.tag && `${t("list.tag")} ${f.tag}`],
      ["since", f.since && `${t("list.since")} ${f.since}`],
      ["until", f.until && `${t("list.until")} ${f.until}`],
      ["validity", f.validity && t(`list.valid_${f.validity}`)],
      ["archived", f.archived && t(`list.archived_${f.archived}`)],
      ["incomplete", f.incomplete ? t("list.incomplete") : ""],
      ["behind", f.behind ? t("list.behind") : ""],
      ["planned", f.planned ? t("list.planned") : ""],
    ];
    return words
      .filter(([, said]) => said)
      .map(([name, said]) => ({
        name,
        said,
        drop: () => (this.filters = { ...this.filters, [name]: BLANK[name] }),
      }));
  }
}
