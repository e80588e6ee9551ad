import type { Folder } from "../../lib/api";

/** A folder, and how deep it lies. */
export interface Placed {
  folder: Folder;
  depth: number;
}

/** Folders below one another. */
export function below(items: Folder[], parent: string | null = null, depth = 0): Placed[] {
  return items
    .filter((one) => (one.parent ?? null) === parent)
    .flatMap((folder) => [{ folder, depth }, ...below(items, folder.id, depth + 1)]);
}
