/** How finely a picture is drawn: its share of full resolution, and how many samples a pixel of a mesh has. */
export interface Quality {
  readonly scale: number;
  readonly samples: number;
}

/** What a still picture is drawn with, which is drawn once. */
export const FULL: Quality = { scale: 1, samples: 4 };
/** From fine to coarse. */
const QUALITIES: readonly Quality[] = [
  FULL,
  { scale: 1, samples: 0 },
  ...[0.75, 0.5, 0.35].map((scale) => ({ scale, samples: 0 })),
];
/** About how long a picture takes, as compared with others. */
const cost = ({ scale, samples }: Quality): number => scale * scale * (samples > 0 ? 2 : 1);

/** Frames slower than this, in ms, ask for a coarser picture; faster than the second, for a finer one. */
const SLOW = 45;
const QUICK = 20;
/** Slow frames in a row that are enough; or a few of them, where they are as slow as this together, in ms. */
const SLOW_FRAMES = 8;
const SLOW_FEW = 3;
const SLOW_TIME = 600;
/** Quick frames in a row that are enough at first; twice as many each time that a finer picture was soon too slow. */
const QUICK_FRAMES = 180;
const QUICK_MOST = QUICK_FRAMES * 32;
/** Frames within which it was soon. */
const SOON = 60;
/** Milliseconds between two readings of the frame time. */
const READING = 500;

/** Watches how long frames take: tells how finely to draw, and the mean time of a frame now and then. */
export class FramePace {
  #step = 0;
  #slow = 0;
  #slowTime = 0;
  #quick = 0;
  #patience = QUICK_FRAMES;
  #sinceFiner = Infinity;
  #sum = 0;
  #count = 0;
  #readAt = 0;

  get quality(): Quality {
    return QUALITIES[this.#step] ?? FULL;
  }

  /**
   * A frame followed the last one after `passed` ms, at a moment in ms. Coarser while frames come slowly, finer once
   * they come quickly again. Gives the mean of the last half second when it is over.
   */
  frame(passed: number, now: number): number | undefined {
    this.#sinceFiner++;
    if (passed > SLOW) this.#isSlow(passed);
    else this.#isQuick(passed < QUICK);
    this.#sum += passed;
    this.#count++;
    if (now - this.#readAt < READING) return undefined;
    const mean = this.#sum / this.#count;
    [this.#sum, this.#count, this.#readAt] = [0, 0, now];
    return mean;
  }

  #isSlow(passed: number): void {
    this.#quick = 0;
    this.#slow++;
    this.#slowTime += passed;
    if (this.#slow < SLOW_FRAMES && (this.#slow < SLOW_FEW || this.#slowTime < SLOW_TIME)) return;
    const mean = this.#slowTime / this.#slow;
    [this.#slow, this.#slowTime] = [0, 0];
    const last = QUALITIES.length - 1;
    if (this.#step === last) return;
    // As coarse as this many times too slow asks for.
    const bearable = (cost(this.quality) * SLOW) / mean;
    const step = QUALITIES.findIndex((q, i) => i > this.#step && cost(q) <= bearable);
    this.#step = step < 0 ? last : step;
    if (this.#sinceFiner < SOON) this.#patience = Math.min(this.#patience * 2, QUICK_MOST);
  }

  #isQuick(quick: boolean): void {
    [this.#slow, this.#slowTime] = [0, 0];
    this.#quick = quick ? this.#quick + 1 : 0;
    if (this.#quick < this.#patience || this.#step === 0) return;
    this.#step--;
    this.#quick = 0;
    this.#sinceFiner = 0;
  }
}
