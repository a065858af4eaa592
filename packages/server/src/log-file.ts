import { open, type FileHandle } from 'node:fs/promises';

/** Most that waits to be written, in characters. */
const ROOM = 4_000_000;

/**
 * A log file that never keeps anyone waiting: lines are written in the background, and those that cannot be, because
 * the disk is full or too slow, are dropped. How many were is the first line that is written again.
 */
export class LogFile {
  #file: Promise<FileHandle> | undefined;
  #waiting: string[] = [];
  #room = ROOM;
  #dropped = 0;
  #writing: Promise<void> | undefined;
  constructor(readonly path: string) {}

  write(line: string): void {
    if (line.length > this.#room) {
      this.#dropped++;
      return;
    }
    this.#room -= line.length;
    this.#waiting.push(line);
    this.#writing ??= this.#drain();
  }

  /** Writes what waits, and closes the file. */
  async close(): Promise<void> {
    await this.#writing;
    const file = await this.#file?.catch(() => undefined);
    await file?.close().catch(() => undefined);
  }

  async #drain(): Promise<void> {
    while (this.#waiting.length > 0) {
      const lines = this.#waiting;
      this.#waiting = [];
      this.#room = ROOM;
      const lost = this.#dropped;
      const note =
        lost === 0
          ? ''
          : `${JSON.stringify({ level: 40, time: Date.now(), msg: `${String(lost)} lines could not be written to this log` })}\n`;
      try {
        const file = await (this.#file ??= open(this.path, 'a'));
        await file.appendFile(note + lines.join(''));
        this.#dropped -= lost;
      } catch {
        this.#dropped += lines.length;
        if (await this.#file?.then(() => false).catch(() => true)) this.#file = undefined;
      }
    }
    this.#writing = undefined;
  }
}
