/** What the timetable is narrowed to; empty narrows nothing. */
export interface Narrowing {
  state: "" | "open" | "held" | "failed" | "planned" | "gone" | "undone" | "cancelled";
  person: string;
  type: string;
  locale: string;
  section: string;
}
export const ALL: Narrowing = { state: "", person: "", type: "", locale: "", section: "" };

/** The same without what is empty, as a question takes it. */
export function given(narrowing: Narrowing): Partial<Narrowing> {
  return Object.fromEntries(Object.entries(narrowing).filter(([, value]) => value));
}

/** The same without states, for what is due. */
export function aboutOf(narrowing: Narrowing): Partial<Narrowing> {
  return given({ ...narrowing, state: "" });
}
