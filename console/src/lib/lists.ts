/** A list with a value in it if it was not, and without it if it was. */
export function toggled<T>(list: readonly T[] | undefined, value: T): T[] {
  return list?.includes(value) ? list.filter((one) => one !== value) : [...(list ?? []), value];
}
