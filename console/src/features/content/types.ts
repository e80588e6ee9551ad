import type { Draft } from "../../lib/types";

/** How entries of a type go out. */
export interface Policy {
  past?: "refuse" | "next" | "now";
  hour?: string;
  needs_date?: boolean;
  needs_end?: boolean;
  needs_note?: boolean;
}

/** A content type or a set of fields while it is being changed. */
export interface Definition {
  name: string;
  label?: string;
  help?: string;
  workflow?: string;
  title?: string;
  section?: boolean;
  single?: boolean;
  translated?: boolean;
  sets?: string[];
  internal?: string;
  pinned?: string;
  dated?: string;
  search_title?: string;
  meta_description?: string;
  search_picture?: string;
  schema_type?: string;
  site?: boolean;
  common?: boolean;
  menu?: boolean;
  layout?: string;
  retired?: boolean;
  read_only?: boolean;
  confidential?: boolean;
  filter?: boolean;
  schema_property?: string;
  public?: boolean;
  translate?: boolean;
  policy?: Policy;
  version?: number;
  fields: Draft[];
}
