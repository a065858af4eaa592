import type { Builder, Operand } from '../ir/builder.ts';
import type { Node } from '../ir/node.ts';
import type { Accepts, LowerContext, OperationParameter } from './operation.ts';

export const TAU = 2 * Math.PI;

/**
 * A hair: added so that a moment or place at which something starts, reached by division, counts as its start. Far below
 * what is seen, far above what rounding leaves.
 */
export const HAIR = 1e-6;

/** Things turn about the middle of the UV square unless told otherwise; its corner is the default nowhere. */
export const MIDDLE = [0.5, 0.5] as const;

export const parameter = (
  name: string,
  accepts: Accepts | readonly Accepts[],
  help: string,
  more: Partial<OperationParameter> = {},
): OperationParameter => ({
  name,
  accepts: typeof accepts === 'string' ? [accepts] : accepts,
  help,
  ...more,
});

export const centerParameter = parameter('center', 'vec2', 'The centre.', { default: MIDDLE, range: [0, 1] });
/** A hand on the centre. */
export const centred = { handles: [{ kind: 'point', at: 'center', label: 'Centre' }] } as const;
/** A hand on the pivot. */
export const onPivot = { kind: 'point', at: 'pivot', label: 'Pivot' } as const;

export const pivotParameter = parameter('pivot', 'vec2', 'The point that does not move.', {
  default: MIDDLE,
  range: [0, 1],
});

/** The direction in coordinates (v runs down) in which a picture with this heading travels. */
export function directionOf({ b }: LowerContext, heading: Node): Node {
  const angle = b.mul(heading, TAU);
  return b.vec(b.cos(angle), b.neg(b.sin(angle)));
}

/**
 * Where to look so that the picture appears turned counter-clockwise by `angle` turns about a pivot.
 * Quarter turns are exact: sine and cosine are taken of the angle's distance to them.
 */
export function rotateAbout({ b }: LowerContext, at: Node, angle: Node, pivot: Node): Node {
  const radians = b.mul(b.fract(angle), TAU);
  const [c, s] = [b.cos(radians), b.sin(radians)];
  const d = b.sub(at, pivot);
  const [x, y] = [b.x(d), b.y(d)];
  return b.add(b.vec(b.sub(b.mul(x, c), b.mul(y, s)), b.add(b.mul(x, s), b.mul(y, c))), pivot);
}

/** t * t * (3 - 2t): 0..1 to 0..1, level at both ends (Hermite). */
export const smoothCurve = (b: Builder, t: Node): Node => b.mul(b.mul(t, t), b.sub(3, b.mul(t, 2)));

/** `smoothCurve` of the place of `x` between `low` and `high`, clamped: GLSL's smoothstep. */
export function smoothRise({ b }: LowerContext, low: Operand, high: Operand, x: Node): Node {
  const t = b.clamp(
    b.div(b.sub(x, low), typeof low === 'number' && typeof high === 'number' ? high - low : b.sub(high, low)),
    0,
    1,
  );
  return smoothCurve(b, t);
}
