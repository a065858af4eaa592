/**
 * Runs writes one after the other. SQLite takes one writer at a time, and Sequelize opens a
 * connection for each transaction, so that concurrent ones would fail as busy.
 */
export class WriteQueue {
  #last: Promise<unknown> = Promise.resolve();

  #ended = false;

  run<T>(write: () => Promise<T>): Promise<T> {
    if (this.#ended) return Promise.reject(new Error('The server ends; nothing more is written.'));
    const result = this.#last.then(write, write);
    this.#last = result.catch(() => undefined);
    return result;
  }

  /** Takes no more writes, and waits for those that it has taken. */
  async end(): Promise<void> {
    this.#ended = true;
    await this.#last;
  }
}
