/**
 * Gives out names, each once in a scope and in those around it: the wanted one where it is free and legal, else with a
 * number behind.
 */
export class Names {
  readonly #used = new Set<string>();
  /** Where counting goes on for a name that was wanted before. */
  readonly #next = new Map<string, number>();

  /**
   * `reserved` are words that the target keeps to itself; `around` is the scope that this one stands in: what is taken
   * there afterwards may hide what is here.
   */
  constructor(
    readonly reserved: ReadonlySet<string>,
    readonly around?: Names,
  ) {}

  /** A scope within this one. */
  within(): Names {
    return new Names(this.reserved, this);
  }

  has(name: string): boolean {
    return this.#used.has(name) || (this.around?.has(name) ?? false);
  }

  take(wanted: string): string {
    const base = wanted.replace(/_+/g, '_').replace(/^gl_/, 'g_').replace(/_$/, '');
    let name = base === '' || this.reserved.has(base) ? `${base}_1` : base;
    let n = this.#next.get(base) ?? 2;
    while (this.has(name)) name = `${base}_${String(n++)}`;
    this.#next.set(base, n);
    this.#used.add(name);
    return name;
  }
}
