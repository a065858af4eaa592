import { drawPathMap, packChannels, paintFlowMap, tileByPatching, type PixelImage } from '@estela/core';
import { drawings } from './drawings.ts';
import { flows, paths } from './maps.ts';

/** Masks of the fern, one a channel. */
export const FERN_MASKS = ['fern-front.png', 'fern-sway.png', 'fern-spores.png'] as const;
/** Width of the edge over which the cut of moss is made to tile. */
export const MOSS_BAND = 0.14;

/** What is made of other pictures: channels packed, a cut picture made tileable. */
const made: Readonly<Record<string, () => PixelImage>> = {
  'fern-masks.png': () => {
    const pick = { channel: 0, invert: false, constant: 0 } as const;
    const parts = FERN_MASKS.map((name) => drawings[name]!());
    const [{ width, height }] = parts as [PixelImage];
    return packChannels([...parts.map((image) => ({ ...pick, image })), { ...pick, constant: 1 }], width, height, 8);
  },
  'moss.png': () => tileByPatching(drawings['moss-cut.png']!(), { band: MOSS_BAND }),
};

/** A picture of the demo by its name; undefined where there is none such. */
export function pictureNamed(name: string): PixelImage | undefined {
  const drawn = drawings[name] ?? made[name];
  if (drawn) return drawn();
  if (paths[name]) return drawPathMap(paths[name]);
  return flows[name] && paintFlowMap(flows[name]);
}
