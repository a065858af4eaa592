import { pictureSize } from '../bake/bands.ts';
import { PHRASES } from '../ops/phrases.ts';
import type { BakePlan } from './bake-plan.ts';

/**
 * A material that plays a sheet, as an engine would: each frame until the next, or mixed with it. `source` is the name that
 * it reads the sheet by. The plan must be of a sheet whose frames are evenly spaced.
 */
export function flipbookText(plan: BakePlan, source: string, blended: boolean): string {
  const { loop, surface, frames, cells, recipe, pictures, images } = plan;
  const { columns } = pictures[0]!;
  const [width, height] = recipe.size;
  const sheet = pictureSize(pictures[0]!, images[0]!.options, cells);
  const along = (cell: string, of: 'x' | 'y'): string => {
    const [side, whole] = of === 'x' ? [width, sheet.width] : [height, sheet.height];
    return `(${cell} * ${String(side + 2 * cells.bleed)} + ${String(cells.bleed)} + ${PHRASES.within(`uv.${of}`)} * ${String(side)}) / ${String(whole)}`;
  };
  const read = (frame: string): string =>
    PHRASES.read(
      `(${along(PHRASES.remainder(frame, String(columns)), 'x')}, ${along(PHRASES.whole(`(${frame} + 0.5) / ${String(columns)}`), 'y')})`,
      'sheet',
    );
  // What a mask cuts is in the sheet already.
  const mode = surface.mode === 'mask' ? 'blend' : surface.mode;
  const shown = blended ? PHRASES.mixed('here', 'there', PHRASES.within('moment')) : 'here';
  return `material "Flipbook"
loop ${String(loop.seconds)}s at ${String(loop.fps)}fps
surface ${surface.lit ? 'lit' : 'unlit'} ${mode} two-sided
image sheet = "${source}" clamp linear color

moment = phase * ${String(frames.length)} + 0.0001
first = ${PHRASES.whole('moment')}
second = ${PHRASES.remainder('first + 1', String(frames.length))}
here = ${read('first')}
there = ${read('second')}
shown = ${shown}
out color = shown.rgb
${mode === 'opaque' ? '' : 'out opacity = shown.a\n'}`;
}
