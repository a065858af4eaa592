/**
 * Runs writes one after the other. SQLite takes one writer at a time, and Sequelize opens a
 * connection for each transaction, so that concurrent ones would fail as busy.
 */
export class WriteQueue {
  #last: Promise<unknown> = Promise.resolve();

  run<T>(write: () => Promise<T>): Promise<T> {
    const result = this.#last.then(write, write);
    this.#last = result.catch(() => undefined);
    return result;
  }
}
