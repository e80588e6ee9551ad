import type { Entry, FieldSpec } from "../../../lib/api";

/** What every field editor is given. `version` grows when the value was replaced from outside. */
export interface FieldProps {
  spec: FieldSpec;
  entry: Entry;
  value: unknown;
  readonly: boolean;
  onType: (value: unknown) => void;
  id: string;
  version: number;
}
