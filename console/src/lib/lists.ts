/** A list with a value in it if it was not, and without it if it was. */
export function toggled<T>(list: readonly T[] | undefined, value: T): T[] {
  return list?.includes(value) ? list.filter((one) => one !== value) : [...(list ?? []), value];
}

/** Things by something about them, in the order in which each comes first. */
export function grouped<Item, Key>(items: Item[], key: (item: Item) => Key): Map<Key, Item[]> {
  const out = new Map<Key, Item[]>();
  for (const item of items) out.set(key(item), [...(out.get(key(item)) ?? []), item]);
  return out;
}

/** The names in a line of them, with commas or spaces between. */
export function listed(line: string): string[] {
  return line.split(/[,\s]+/).filter(Boolean);
}
