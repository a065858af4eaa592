/** Shares of full resolution that are drawn at. */
const SCALES = [1, 0.75, 0.5, 0.35] as const;
/** Frames slower than this, in ms, ask for fewer pixels; faster than the second, for more. */
const SLOW = 45;
const QUICK = 20;
/** Milliseconds between two readings of the frame time. */
const READING = 500;

/** Watches how long frames take: tells at which share of full resolution to draw, and the mean time of a frame now and then. */
export class FramePace {
  #step = 0;
  #slow = 0;
  #quick = 0;
  #sum = 0;
  #count = 0;
  #readAt = 0;

  get scale(): number {
    return SCALES[this.#step] ?? 1;
  }

  /** A frame followed the last one after `passed` ms, at a moment in ms. Fewer pixels while frames come slowly, more once they come quickly again. Gives the mean of the last half second when it is over. */
  frame(passed: number, now: number): number | undefined {
    if (passed > SLOW) {
      this.#quick = 0;
      if (++this.#slow >= 8 && this.#step < SCALES.length - 1) {
        this.#step++;
        this.#slow = 0;
      }
    } else {
      this.#slow = 0;
      this.#quick = passed < QUICK ? this.#quick + 1 : 0;
      if (this.#quick >= 180 && this.#step > 0) {
        this.#step--;
        this.#quick = 0;
      }
    }
    this.#sum += passed;
    this.#count++;
    if (now - this.#readAt < READING) return undefined;
    const mean = this.#sum / this.#count;
    [this.#sum, this.#count, this.#readAt] = [0, 0, now];
    return mean;
  }
}
