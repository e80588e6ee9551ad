/** A choice about how the console looks, which this browser remembers. What is forbidden to be kept holds for the page at least. */
export class Kept<Value> {
  #key: string;
  #value: Value = $state.raw()!;

  constructor(name: string, first: Value) {
    this.#key = `hawthorn:${name}`;
    this.#value = first;
    try {
      const text = localStorage.getItem(this.#key);
      if (text !== null) this.#value = JSON.parse(text) as Value;
    } catch {
      // What cannot be read is chosen anew.
    }
  }

  get value(): Value {
    return this.#value;
  }

  set value(value: Value) {
    this.#value = value;
    try {
      localStorage.setItem(this.#key, JSON.stringify(value));
    } catch {
      // A full or forbidden storage keeps nothing.
    }
  }
}
