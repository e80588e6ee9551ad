import { searchParams } from "sv-router";

/** Write into the address what is asked for under a name, in place of what stood there; nothing takes it out. */
export function keepInAddress(name: string, value: string | boolean | undefined): void {
  const before = searchParams.get(name);
  if (!value) {
    if (before !== null) searchParams.delete(name, undefined, { replace: true });
  } else if (String(before) !== String(value)) searchParams.set(name, value, { replace: true });
}
