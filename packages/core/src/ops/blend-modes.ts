import type { Builder } from '../ir/builder.ts';
import type { Node } from '../ir/node.ts';

/**
 * The blend functions B(base, layer) of the W3C's "Compositing and Blending Level 1", on colours without
 * alpha, each 0..1. Hyphens of their names are underscores in Wake. `add` is the plus operator.
 */
type BlendFunction = (b: Builder, base: Node, layer: Node) => Node;

const screen: BlendFunction = (b, base, layer) => b.sub(b.add(base, layer), b.mul(base, layer));
const hardLight: BlendFunction = (b, base, layer) =>
  b.select(b.le(layer, 0.5), b.mul(base, b.mul(layer, 2)), screen(b, base, b.sub(b.mul(layer, 2), 1)));

/** The standard's own weights of a colour's luminosity. */
const WEIGHTS = [0.3, 0.59, 0.11] as const;
const lum = (b: Builder, color: Node): Node => b.dot(color, b.constant('f3', WEIGHTS));
const least = (b: Builder, c: Node): Node => b.min(b.min(b.x(c), b.y(c)), b.z(c));
const most = (b: Builder, c: Node): Node => b.max(b.max(b.x(c), b.y(c)), b.z(c));
const sat = (b: Builder, c: Node): Node => b.sub(most(b, c), least(b, c));

/** ClipColor: towards its luminosity until it lies within 0..1. */
function clipColor(b: Builder, color: Node): Node {
  const l = lum(b, color);
  const away = b.sub(color, l);
  const n = least(b, color);
  const raised = b.select(b.lt(n, 0), b.add(l, b.div(b.mul(away, l), b.sub(l, n))), color);
  const x = most(b, raised);
  return b.select(b.lt(1, x), b.add(l, b.div(b.mul(b.sub(raised, l), b.sub(1, l)), b.sub(x, l))), raised);
}

/** SetLum: the same hue and saturation at another luminosity. */
const setLum = (b: Builder, color: Node, l: Node): Node => clipColor(b, b.add(color, b.sub(l, lum(b, color))));

/** SetSat: least becomes 0, greatest the saturation, the middle one keeps its place; grey becomes black. */
const setSat = (b: Builder, color: Node, s: Node): Node =>
  b.div(b.mul(b.sub(color, least(b, color)), s), sat(b, color));

export const BLEND_MODES = {
  normal: (_, __, layer) => layer,
  multiply: (b, base, layer) => b.mul(base, layer),
  screen,
  overlay: (b, base, layer) => hardLight(b, layer, base),
  darken: (b, base, layer) => b.min(base, layer),
  lighten: (b, base, layer) => b.max(base, layer),
  color_dodge: (b, base, layer) =>
    b.select(b.le(base, 0), 0, b.select(b.le(1, layer), 1, b.min(b.div(base, b.sub(1, layer)), 1))),
  color_burn: (b, base, layer) =>
    b.select(b.le(1, base), 1, b.select(b.le(layer, 0), 0, b.sub(1, b.min(b.div(b.sub(1, base), layer), 1)))),
  hard_light: hardLight,
  soft_light: (b, base, layer) => {
    const dark = b.mul(b.add(b.mul(b.sub(b.mul(base, 16), 12), base), 4), base);
    const d = b.select(b.le(base, 0.25), dark, b.sqrt(base));
    const twice = b.mul(layer, 2);
    return b.select(
      b.le(layer, 0.5),
      b.sub(base, b.mul(b.mul(b.sub(1, twice), base), b.sub(1, base))),
      b.add(base, b.mul(b.sub(twice, 1), b.sub(d, base))),
    );
  },
  difference: (b, base, layer) => b.abs(b.sub(base, layer)),
  exclusion: (b, base, layer) => b.sub(b.add(base, layer), b.mul(b.mul(base, layer), 2)),
  hue: (b, base, layer) => setLum(b, setSat(b, layer, sat(b, base)), lum(b, base)),
  saturation: (b, base, layer) => setLum(b, setSat(b, base, sat(b, layer)), lum(b, base)),
  color: (b, base, layer) => setLum(b, layer, lum(b, base)),
  luminosity: (b, base, layer) => setLum(b, base, lum(b, layer)),
} as const satisfies Record<string, BlendFunction>;
export type BlendMode = keyof typeof BLEND_MODES;

const rgb = (b: Builder, c: Node): Node => b.swizzle(c, 0, 1, 2);

/** Source-over of a layer on a base, both straight, with the layer's colour blended where the base is. */
export function composite(b: Builder, base: Node, layer: Node, mode: BlendMode | 'add', amount: Node | number): Node {
  const below = b.w(base);
  const above = b.mul(b.w(layer), amount);
  if (mode === 'add') {
    const light = b.add(b.mul(rgb(b, base), below), b.mul(rgb(b, layer), above));
    const alpha = b.clamp(b.add(below, above), 0, 1);
    return b.vec(b.div(light, alpha), alpha);
  }
  const blended =
    mode === 'normal'
      ? rgb(b, layer)
      : b.mix(rgb(b, layer), BLEND_MODES[mode](b, b.clamp(rgb(b, base), 0, 1), b.clamp(rgb(b, layer), 0, 1)), below);
  const alpha = b.add(above, b.mul(below, b.sub(1, above)));
  // The layer's share of what is seen: 0 where nothing is.
  return b.vec(b.mix(rgb(b, base), blended, b.div(above, alpha)), alpha);
}
