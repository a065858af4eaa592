/** What was asked for last, at most so many things: each is made once for as long as it is kept. */
export class Recent<Value> {
  readonly #kept = new Map<string, Value>();

  constructor(readonly most: number) {}

  get(key: string, make: () => Value): Value {
    const value = this.#kept.has(key) ? (this.#kept.get(key) as Value) : make();
    // The one that was asked for last is the last to go.
    this.#kept.delete(key);
    this.#kept.set(key, value);
    for (const oldest of this.#kept.keys()) if (this.#kept.size > this.most) this.#kept.delete(oldest);
    return value;
  }

  drop(key: string): void {
    this.#kept.delete(key);
  }
}
