import { t } from "../i18n";
import { spoken } from "../language";
import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type Entry = Schemas["Entry"];
export type EntryLine = Schemas["EntryLine"];
export type Notifications = Schemas["Notifications"];
export type SavedList = Schemas["SavedList"];
export type Bead = Schemas["Bead"];
export type Planned = Schemas["Planned"];
export type FieldSpec = Schemas["FieldSpec"];
export type TypeSpec = Schemas["TypeSpec"];
export type Setup = Schemas["Setup"];
export type Me = Schemas["Me"];
export type Named = Schemas["Named"];
export type Comparison = Schemas["Comparison"];
export type DiffPart = Schemas["DiffPart"];
export type Conflict = Schemas["Conflict"];
export type Dispatch = Schemas["Dispatch"];
export type DispatchCheck = Schemas["DispatchCheck"];
export type MoveLine = Schemas["MoveLine"];
export type QuietPeriod = Schemas["QuietPeriod"];
export type Package = Schemas["Package"];
export type RowMapping = Schemas["RowMapping"];
export type PackageReport = Schemas["PackageReport"];
export type SetupDifference = Schemas["SetupDifference"];
export type Webhook = Schemas["Webhook"];
export type CalendarMade = Schemas["CalendarMade"];
export type WhenAsk = Schemas["WhenAsk"];
export type CoverageTotal = Schemas["CoverageTotal"];
export type CoverageState = GridCell["state"];
export type DueText = Schemas["DueText"];
export type GridCell = Schemas["GridCell"];
export type GridLine = Schemas["GridLine"];
export type ImportResult = Schemas["ImportResult"];
export type Job = Schemas["Job"];
export type JobLine = Schemas["JobLine"];
export type Reassigned = Schemas["Reassigned"];
export type Task = Schemas["Task"];
export type SegmentLine = Schemas["SegmentLine"];
export type SegmentTag = Schemas["SegmentTag"];
export type Finding = Schemas["Finding"];
export type MemoryMatch = Schemas["MemoryMatch"];
export type Memory = Schemas["Memory"];
export type Known = Schemas["Known"];
export type FileImport = Schemas["FileImport"];
export type CommissionChange = Partial<Schemas["CommissionChange"]>;
export type CommissionDetails = Schemas["CommissionDetails"];
export type CommissionLine = Schemas["CommissionLine"];
export type EntryCount = Schemas["EntryCount"];
export type LeftOut = Schemas["LeftOut"];
export type Glossary = Schemas["Glossary"];
export type Concept = Schemas["Concept"];
export type ArchiveResult = Schemas["ArchiveResult"];
export type OwnFile = Schemas["OwnFile"];
export type Question = Schemas["Question"];
export type JobUnit = Schemas["JobUnit"];
export type WorkLine = Schemas["WorkLine"];
export type Comment = Schemas["Comment"];
export type Present = Schemas["Present"];
export type WorkflowSpec = Schemas["WorkflowSpec"];
export type StageSpec = Schemas["StageSpec"];
export type WorkflowChoice = Schemas["WorkflowChoice"];
export type WorkflowImpact = Schemas["WorkflowImpact"];
export type RoleSpec = Schemas["RoleSpec"];
export type GrantSpec = Schemas["GrantSpec"];
export type Person = Schemas["Person"];
export type Why = Schemas["Why"];
export type AssistantUndone = Schemas["AssistantUndone"];
export type LogEvent = Schemas["Event"];
export type FileValue = Schemas["FileValue"];
export type PageAddress = Schemas["PageAddress"];
export type PreviewLink = Schemas["Link"];
export type OutlineLine = Schemas["OutlineLine"];
export type OutlineLevel = Schemas["OutlineLevel"];
export type LibraryLine = Schemas["LibraryLine"];
export type Folder = Schemas["Folder"];
export type CropSpec = Schemas["CropSpec"];
export type LocaleAsk = Schemas["LocaleAsk"];
export type Bureau = Schemas["Bureau"];
export type StandingCommission = Schemas["StandingCommission"];
export type StandingCommissions = Schemas["StandingCommissions"];
export type LocaleChange = Schemas["LocaleChange"];
export type SiteSpec = Schemas["SiteSpec"];
export type SiteTrial = Schemas["SiteTrial"];
export type SearchAndSharing = Schemas["SearchAndSharing"];

/** A refusal of the service, as problem details say it (RFC 9457). */
export class Problem extends Error {
  readonly slug: string;
  readonly status: number;
  readonly remedy: string;
  readonly facts: Record<string, unknown>;

  constructor(status: number, body: Record<string, unknown>) {
    super(String(body.detail || body.title || "The service did not answer."));
    this.status = status;
    this.slug = String(body.type ?? "").replace("urn:hawthorn:problem:", "");
    this.remedy = String(body.remedy ?? "");
    this.facts = body;
  }
}

export const api = createClient<paths>({
  baseUrl: globalThis.location?.origin ?? "",
  headers: { "Accept-Language": spoken },
});

/** Give up waiting for `call` as a `Problem` when the service refuses or cannot be reached. */
export async function sure<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let answer;
  try {
    answer = await call;
  } catch {
    throw new Problem(0, {
      type: "unreachable",
      detail: t("live.unreachable"),
      remedy: t("live.keptHere"),
    });
  }
  if (!answer.response.ok) {
    throw new Problem(answer.response.status, (answer.error ?? {}) as Record<string, unknown>);
  }
  return answer.data as T;
}

type PageOf<T> = { items: T[]; next: string };
type Asked = { limit: number; cursor: string };

/** The pages of a list as one, all of them or so many; `next` is empty when nothing is left. */
export async function pages<T, P extends PageOf<T>>(
  page: (asked: Asked) => Promise<{ data?: P; error?: unknown; response: Response }>,
  most = Infinity,
  limit = 500,
): Promise<P> {
  const first = await sure(page({ limit, cursor: "" }));
  const items = [...first.items];
  let next = first.next;
  for (let n = 1; next && n < most; n++) {
    const found = await sure(page({ limit, cursor: next }));
    items.push(...found.items);
    next = found.next;
  }
  return { ...first, items, next };
}

/** A header that makes a repeated request harmless. */
export function once(): { "Idempotency-Key": string } {
  return { "Idempotency-Key": crypto.randomUUID() };
}

/** Send a file as it is; what the service says of it comes back, or a `Problem`. */
export async function sendFile<T>(address: string, file: File, type: string): Promise<T> {
  const answer = await fetch(address, { method: "PUT", headers: { "Content-Type": type }, body: file });
  const body = await answer.json();
  if (!answer.ok) throw new Problem(answer.status, body);
  return body as T;
}
