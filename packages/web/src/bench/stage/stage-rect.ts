import { recall, remember } from '../../ui/memory.ts';

/** Where the canvas of the Stage lies in a window, in CSS pixels. */
export interface StageRect {
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
}
interface Kept extends StageRect {
  readonly window: readonly [width: number, height: number];
}

const KEY = 'estela.stage-rect';

/** Remembers where the canvas lies, for as long as the window has this size. */
export function keepStageRect(canvas: HTMLCanvasElement): void {
  const { left, top, width, height } = canvas.getBoundingClientRect();
  if (width > 0 && height > 0) remember(KEY, { left, top, width, height, window: [innerWidth, innerHeight] });
}

/** Where the canvas will lie: as it did in a window of this size, else as the Bench is laid out at first. */
export function stageRect(): StageRect {
  const { window: size, left, top, width, height } = recall<Kept>(KEY);
  const kept = { left, top, width, height };
  if (size?.[0] === innerWidth && size[1] === innerHeight && Object.values(kept).every(Number.isFinite))
    return kept as StageRect;
  // The bars of Bench and Stage, and the shares that Bench.tsx gives to Score, Stage and deck.
  const [bar, stageBar] = [44, 36];
  const [across, down] = [Math.max(innerWidth, 800), Math.max(innerHeight - bar, 560)];
  const from = Math.ceil((across - 1) * 0.46 + 1);
  const stage = Math.floor((down - 1) * 0.78 * 0.6);
  return { left: from, top: bar + stageBar, width: across - from, height: stage - stageBar };
}
