/**
 * A transform as KHR_texture_transform has it: coordinates are scaled, then turned by so many radians (counter-clockwise
 * as seen, with v running down), then moved.
 */
export interface TextureTransform {
  readonly offset: readonly [number, number];
  readonly rotation: number;
  readonly scale: readonly [number, number];
}

/** Rows of a matrix that takes (u, v, 1) to (u, v). */
export type TextureMatrix = readonly [readonly [number, number, number], readonly [number, number, number]];

export function matrixOf({ offset, rotation, scale }: TextureTransform): TextureMatrix {
  const [c, s] = [Math.cos(rotation), Math.sin(rotation)];
  return [
    [scale[0] * c, scale[1] * s, offset[0]],
    [-scale[0] * s, scale[1] * c, offset[1]],
  ];
}

const WHOLE = 2 * Math.PI;

/**
 * A matrix whose columns are square to each other as a transform: of those that say the same, the one nearest to `near`,
 * so that what lies between two moments does not go the long way round.
 */
export function transformOf([[a, b, x], [d, e, y]]: TextureMatrix, near?: TextureTransform): TextureTransform {
  const size = Math.hypot(a, d);
  // Where u is shrunk to nothing, v still tells the turn.
  const angle = size > 0 ? Math.atan2(-d, a) : Math.atan2(b, e);
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const other = b * s + e * c;
  const wanted = near?.rotation ?? 0;
  const ways = [
    { rotation: angle, scale: [size, other] },
    { rotation: angle + Math.PI, scale: [-size, -other] },
  ] as const;
  const [nearest] = ways
    .map(({ rotation, scale }) => ({
      offset: [x, y] as const,
      rotation: rotation + WHOLE * Math.round((wanted - rotation) / WHOLE),
      scale,
    }))
    // Without a transform before it, nothing is mirrored that needs not be.
    .sort((one, two) => costOf(one, near) - costOf(two, near));
  return nearest!;
}

const costOf = ({ rotation, scale }: TextureTransform, near: TextureTransform | undefined): number =>
  near
    ? Math.abs(rotation - near.rotation) + Math.abs(scale[0] - near.scale[0]) + Math.abs(scale[1] - near.scale[1])
    : scale.filter((v) => v < 0).length;

/** A transform between two, each of its numbers by itself, as animations are played. */
export function between(one: TextureTransform, two: TextureTransform, part: number): TextureTransform {
  const mixed = (a: number, b: number): number => a + (b - a) * part;
  return {
    offset: [mixed(one.offset[0], two.offset[0]), mixed(one.offset[1], two.offset[1])],
    rotation: mixed(one.rotation, two.rotation),
    scale: [mixed(one.scale[0], two.scale[0]), mixed(one.scale[1], two.scale[1])],
  };
}

/** How far two matrices read from each other within the square, at most, in UV units. */
export function distance(one: TextureMatrix, two: TextureMatrix): number {
  const corners = [0, 1].flatMap((u) => [0, 1].map((v) => [u, v, 1] as const));
  const at = (row: readonly [number, number, number], [u, v]: readonly [number, number, number]): number =>
    row[0] * u + row[1] * v + row[2];
  return Math.max(
    ...corners.map((corner) =>
      Math.hypot(at(one[0], corner) - at(two[0], corner), at(one[1], corner) - at(two[1], corner)),
    ),
  );
}
