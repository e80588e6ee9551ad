import type { Entry, FieldSpec } from "../src/lib/api";

/** An entry as the service would give it. */
export function entry(fields: Record<string, unknown> = {}, etag = '"1-1"'): Entry {
  return {
    id: "00000000-0000-7000-8000-000000000001",
    type: "notice",
    type_label: "Visitor notice",
    locale: "en",
    source_locale: "en",
    title: String(fields.title ?? ""),
    section: null,
    etag,
    strand: "draft",
    strands: [],
    internal: "",
    derived: {},
    shown_date: null,
    exists: true,
    fields,
    source_fields: {},
    shared: [],
    missing: [],
    revision: null,
    common_revision: null,
    rail: [],
    planned: [],
    review: null,
    workflow: { name: "standard", label: "Standard", why: "“Standard”, as the type says." },
    gate: null,
    deciders: [],
    overrides: [],
    signed_before: null,
    assignment: null,
    comments_open: 0,
    assisted: false,
    sign_offs: [],
    locales: [],
    acts: [],
    references: {},
    referred_by: [],
    path: null,
    page: false,
    menus: [],
    layout: null,
    search: null,
    warnings: [],
    created_at: "2026-11-01T00:00:00Z",
    archived_at: null,
    limit: { way: "", audiences: [], has_phrase: false },
    planned_fields: [],
    at: null,
    jobs: [],
  };
}

/** Answers of the service, in the order in which they are asked for; what was asked is kept. */
export function answering(...answers: { status: number; body: unknown }[]) {
  const asked: { url: string; method: string; headers: Headers; body: unknown }[] = [];
  const answer = async (input: Request) => {
    const text = await input.clone().text();
    asked.push({
      url: input.url,
      method: input.method,
      headers: input.headers,
      body: text ? JSON.parse(text) : null,
    });
    const next = answers.shift();
    if (!next) throw new TypeError("no connection");
    return new Response(JSON.stringify(next.body), {
      status: next.status,
      headers: { "Content-Type": next.status < 400 ? "application/json" : "application/problem+json" },
    });
  };
  Object.assign(globalThis, { answer });
  return asked;
}

/** A field as a type defines it, plain but for what is given. */
export function spec(part: Partial<FieldSpec> = {}): FieldSpec {
  return {
    name: "x",
    kind: "line",
    label: "Thing",
    required: false,
    shared: false,
    many: false,
    limit: null,
    help: "",
    types: [],
    choices: [],
    follows: "",
    derives: "",
    fields: [],
    blocks: [],
    set: "",
    move: "",
    payload: {},
    counts_as_alt: false,
    option: false,
    region: false,
    read_only: false,
    confidential: false,
    filter: false,
    schema_property: "",
    public: true,
    translate: true,
    ...part,
  };
}
