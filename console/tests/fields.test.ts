import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/svelte";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import ActBar from "../src/features/release/ActBar.svelte";
import NowPane from "../src/features/delivery/NowPane.svelte";
import FieldInput from "../src/features/content/fields/FieldInput.svelte";
import type { Entry, FieldSpec, Setup } from "../src/lib/api";
import { session } from "../src/lib/state/session.svelte";
import { answering, entry, spec } from "./made";
import { opened } from "./opened";

afterEach(cleanup);

const kind = {
  section: false,
  single: false,
  translated: true,
  confidential: false,
  sets: [],
  internal: "",
  pinned: "",
  dated: "",
  search_title: "",
  meta_description: "",
  search_picture: "",
  schema_type: "",
  site: false,
  common: false,
  menu: false,
  layout: "",
  retired: false,
  read_only: false,
  policy: { past: "refuse" as const, hour: "", needs_date: false, needs_end: false, needs_note: false },
  public: true,
};

beforeEach(() => {
  session.me = {
    handle: "wim",
    name: "Wim",
    kind: "person",
    language: "",
    zone: "Europe/London",
    roles: ["writer"],
    verbs: ["read", "write", "release"],
    factor_wanted: false,
  };
  session.setup = {
    locales: [
      { tag: "en", name: "English", rtl: false, direction: "" },
      { tag: "ar", name: "العربية", rtl: true, direction: "" },
    ],
    types: [
      {
        name: "notice",
        label: "Notice",
        title: "title",
        version: 1,
        workflow: "standard",
        ...kind,
        help: "",
        fields: [],
      },
      {
        name: "person",
        label: "Person",
        title: "title",
        version: 1,
        workflow: "short",
        ...kind,
        help: "",
        fields: [],
      },
    ],
    sets: [],
    kinds: [],
    workflows: [],
    bureaus: ["Salt"],
    site: "http://site.example",
    crops: [],
    sites: [],
    choices: [],
    checks: [],
    formats: [],
    machine: false,
  } satisfies Setup;
});

function field(
  part: Partial<FieldSpec>,
  value: unknown,
  more: Partial<{ readonly: boolean; lacking: boolean; on: Entry }> = {},
) {
  const onType = vi.fn();
  render(FieldInput, {
    spec: spec(part),
    entry: more.on ?? entry(),
    value,
    readonly: more.readonly ?? false,
    lacking: more.lacking ?? false,
    onType,
    version: 0,
  });
  return onType;
}

describe("a field", () => {
  it("has its label, its help and its marks", () => {
    field({ required: true, shared: true, help: "As in the register." }, "PH 1");
    const input = screen.getByLabelText<HTMLInputElement>("Thing");
    expect(input.value).toBe("PH 1");
    expect(screen.getByText("required")).toBeTruthy();
    expect(screen.getByText("all languages")).toBeTruthy();
    expect(document.getElementById(input.getAttribute("aria-describedby")!)!.textContent).toBe(
      "As in the register.",
    );
  });

  it("says how long it may still grow, near its limit", async () => {
    field({ limit: 10 }, "12345");
    expect(screen.queryByRole("status")).toBeNull();
    cleanup();
    field({ limit: 10 }, "123456789");
    expect(screen.getByRole("status").textContent).toContain("9 of 10");
  });

  it("runs in the direction of its language, and shows the source beside", () => {
    field({}, "مرحبا", { on: { ...entry(), locale: "ar", source_fields: { x: "Hello" } } });
    const input = screen.getByLabelText("Thing");
    expect(input.getAttribute("dir")).toBe("rtl");
    expect(input.getAttribute("lang")).toBe("ar");
    expect(screen.getByText("Hello").closest("[lang]")!.getAttribute("lang")).toBe("en");
  });

  it.each([
    ["number", "4.5", 4.5],
    ["number", "", null],
    ["line", "words", "words"],
    ["text", "two\nlines", "two\nlines"],
    ["slug", "a-slug", "a-slug"],
  ])("of kind %s gives what was typed as the service takes it", async (kind, typed, given) => {
    const onType = field({ kind: kind as FieldSpec["kind"] }, kind === "number" ? 1 : "before");
    await fireEvent.input(screen.getByLabelText("Thing"), { target: { value: typed } });
    expect(onType).toHaveBeenLastCalledWith(given);
  });

  it.each([
    ["boolean", "yes", true],
    ["boolean", "no", false],
    ["boolean", "", null],
    ["choice", "b", "b"],
    ["choice", "", null],
  ])("of kind %s is chosen", async (kind, chosen, given) => {
    const onType = field(
      { kind: kind as FieldSpec["kind"], choices: ["a", "b"] },
      kind === "choice" ? "a" : undefined,
    );
    await fireEvent.change(screen.getByLabelText("Thing"), { target: { value: chosen } });
    expect(onType).toHaveBeenLastCalledWith(given);
  });

  it.each([
    ["date", "31 March 2027", "2027-03-31"],
    ["date", "", null],
    ["instant", "31.3.2027 14:30", { wall: "2027-03-31T14:30", zone: "UTC" }],
  ])("of kind %s is typed as %s", async (kind, typed, given) => {
    const before = kind === "instant" ? { wall: "2027-01-01T00:00", zone: "UTC" } : "2027-01-01";
    const onType = field({ kind: kind as FieldSpec["kind"] }, before);
    await fireEvent.input(screen.getByLabelText("Thing"), { target: { value: typed } });
    expect(onType).toHaveBeenLastCalledWith(given);
  });

  it.each(["line", "text", "number", "date"])("of kind %s cannot be typed into by who may not", (kind) => {
    field({ kind: kind as FieldSpec["kind"] }, "", { readonly: true });
    expect(screen.getByLabelText<HTMLInputElement>("Thing").readOnly).toBe(true);
  });
});

describe("a reference", () => {
  const referring: Entry = {
    ...entry(),
    references: { "u-1": { id: "u-1", type: "person", title: "Edmund Vane", file: "" } },
  };

  it("shows what it refers to by name and lets it go", async () => {
    const onType = field({ kind: "reference", types: ["person"] }, "u-1", { on: referring });
    expect(screen.getByRole("link", { name: "Edmund Vane" })).toBeTruthy();
    await fireEvent.click(screen.getByRole("button", { name: "Remove Edmund Vane" }));
    expect(onType).toHaveBeenCalledWith(null);
  });

  it("finds by title, leaves out what is chosen, and adds in order", async () => {
    const asked = answering({
      status: 200,
      body: {
        items: [
          { id: "u-1", type: "person", title: "Edmund Vane" },
          { id: "u-2", type: "person", title: "Edda Prow" },
        ],
        next: "",
      },
    });
    const onType = field({ kind: "reference", types: ["person"], many: true }, ["u-1"], { on: referring });
    await fireEvent.input(screen.getByPlaceholderText("Search by title"), { target: { value: "ed" } });
    const found = await screen.findByRole("button", { name: "Edda Prow" });
    expect(asked[0]!.url).toContain("type=person");
    expect(asked[0]!.url).toContain("words=ed");
    expect(screen.queryByRole("button", { name: "Edmund Vane" })).toBeNull();
    await fireEvent.click(found);
    expect(onType).toHaveBeenCalledWith(["u-1", "u-2"]);
  });

  it("makes what is missing on the spot", async () => {
    const asked = answering(
      { status: 200, body: { items: [], next: "" } },
      { status: 201, body: { ...entry({ title: "Ada Keel" }), id: "u-9", type: "person" } },
    );
    const onType = field({ kind: "reference", types: ["person"] }, undefined, { on: referring });
    await fireEvent.input(screen.getByPlaceholderText("Search by title"), { target: { value: "Ada Keel" } });
    await fireEvent.click(await screen.findByRole("button", { name: "Make “Ada Keel”" }));
    await waitFor(() => expect(onType).toHaveBeenCalledWith("u-9"));
    expect(asked[1]!.body).toMatchObject({ type: "person", fields: { title: "Ada Keel" } });
    expect(asked[1]!.headers.get("Idempotency-Key")).toBeTruthy();
  });
});

const offers = (allowed: string[]): Entry["acts"] =>
  (["submit", "take-back", "sign", "send-back", "release", "withdraw", "commission"] as const).map((act) => ({
    act,
    allowed: allowed.includes(act),
    why: allowed.includes(act) ? "" : `No ${act} here.`,
  }));

describe("the acts", () => {
  it("are those that fit; the others say why not", async () => {
    render(ActBar, {
      entry: { ...entry(), acts: offers(["submit"]) },
      dirty: false,
      onEntry: vi.fn(),
      onChange: vi.fn(),
    });
    expect(screen.getByRole("button", { name: "Submit" })).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Sign off" })).toBeNull();
    await opened(screen.getByRole("button", { name: "Why not?" }));
    expect(screen.getByText("No sign here.")).toBeTruthy();
  });

  it("wait until what was typed is saved", () => {
    render(ActBar, {
      entry: { ...entry(), acts: offers(["submit", "release"]) },
      dirty: true,
      onEntry: vi.fn(),
      onChange: vi.fn(),
    });
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Submit" }).disabled).toBe(true);
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Release or plan…" }).disabled).toBe(true);
  });
});

describe("what stands beside the text", () => {
  it("says what is missing, who sent it back and why, and what a sign-off covers", () => {
    render(NowPane, {
      entry: {
        ...entry(),
        missing: [
          { field: "body", label: "Text" },
          { field: "number", label: "Number" },
        ],
        review: {
          stage: "review",
          revision: 3,
          by: "Wim",
          at: "2026-11-20T09:00:00Z",
          note: "",
          outcome: "sent back",
          decided_by: "Oda",
          decided_at: "2026-11-21T09:00:00Z",
          reason: "Say when.",
        },
        sign_offs: [
          {
            by: "Rhea",
            at: "2026-11-19T09:00:00Z",
            stage: "release",
            revision: 2,
            covers_head: false,
            covers_common: true,
            note: "Dates fit.",
          },
          ...["facts", "release"].map((stage) => ({
            by: "Oda",
            at: "2026-11-20T10:00:00Z",
            stage,
            revision: 3,
            covers_head: true,
            covers_common: stage === "facts",
            note: "",
          })),
        ],
        path: "/en/lamp",
      },
      onEntry: vi.fn(),
      onChange: vi.fn(),
    });
    expect(screen.getByText("Missing: Text, Number.")).toBeTruthy();
    expect(screen.getByText(/Oda sent back revision 3/)).toBeTruthy();
    expect(screen.getByText("“Say when.”")).toBeTruthy();
    expect(screen.getByText(/Signed off by Rhea.*on revision 2/)).toBeTruthy();
    expect(screen.getByText(/The draft has moved on since; what goes out is revision 2/)).toBeTruthy();
    expect(screen.getAllByText(/Signed off by Oda.*on revision 3/)).toHaveLength(2);
    expect(screen.getByText("The draft is exactly what was signed off.")).toBeTruthy();
    expect(screen.getByText(/the shared fields have moved on since/)).toBeTruthy();
    expect(screen.getByRole<HTMLAnchorElement>("link", { name: "/en/lamp" }).href).toBe(
      "http://site.example/en/lamp",
    );
  });
});
