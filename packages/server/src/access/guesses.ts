/** How long wrong guesses of an address are remembered, in milliseconds. */
const REMEMBERED = 60_000;
/** Wrong guesses in that time after which no more are looked at. */
const MOST_GUESSES = 20;
/** Most addresses that are remembered. */
const MOST_ADDRESSES = 2000;
/** The first wrong guess is answered after so many milliseconds, each further one after twice as many, at most. */
const FIRST_WAIT = 100;
const LONGEST_WAIT = 3000;

/** Slows down who guesses tokens, by address. */
export class Guesses {
  readonly #wrong = new Map<string, number[]>();

  /** Whether an address has guessed so often that it must wait. */
  isShut(address: string, now = Date.now()): boolean {
    return this.#recent(address, now).length >= MOST_GUESSES;
  }

  /** Takes down a wrong guess; gives the milliseconds after which it is to be answered. */
  wrong(address: string, now = Date.now()): number {
    const recent = [...this.#recent(address, now), now];
    this.#wrong.delete(address);
    this.#wrong.set(address, recent);
    for (const oldest of this.#wrong.keys()) if (this.#wrong.size > MOST_ADDRESSES) this.#wrong.delete(oldest);
    return Math.min(FIRST_WAIT * 2 ** (recent.length - 1), LONGEST_WAIT);
  }

  #recent(address: string, now: number): number[] {
    return (this.#wrong.get(address) ?? []).filter((at) => now - at < REMEMBERED);
  }
}
