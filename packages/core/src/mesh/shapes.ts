import { gridOf, mergeMeshes, withUvs, type MeshData, type Surface } from './mesh.ts';
import type { Vector } from './vector.ts';

const TAU = 2 * Math.PI;

/** A shape that is made here: about a metre, in the middle of the Stage. */
export interface Shape {
  readonly label: string;
  /** One line: what it is for. */
  readonly about: string;
  /** About how many quads lie across it unless asked otherwise. */
  readonly subdivisions: number;
  /** `detail` is about how many quads lie across it. */
  readonly make: (detail: number) => MeshData;
  /** Width over height of what its UV square covers, in metres. */
  readonly aspect: number;
  /** Where it is seen from at first, in metres, if the usual place shows too little of it. */
  readonly seenFrom?: Vector;
}

const plane: Surface = (u, v) => [u - 0.5, 0.5 - v, 0];
/** A sheet that comes over a lip and falls: level at its top, upright below, leaning out a little. */
const fall: Surface = (u, v) => {
  const [flat, bend] = [0.28, 0.2];
  const x = u - 0.5;
  const s = v * 1.35;
  const out = 0.05 * Math.sin(u * Math.PI);
  if (s < flat) return [x, 0.45, -0.45 + s];
  const arc = (bend * Math.PI) / 2;
  if (s < flat + arc) {
    const angle = (s - flat) / bend;
    return [x, 0.45 - bend * (1 - Math.cos(angle)), -0.45 + flat + bend * Math.sin(angle)];
  }
  const down = s - flat - arc;
  return [x, 0.45 - bend - down, -0.45 + flat + bend + out * down * 2];
};
const ball =
  (radius: number): Surface =>
  (u, v) => {
    const [around, down] = [u * TAU, v * Math.PI];
    return [
      radius * Math.sin(down) * Math.sin(around - Math.PI),
      radius * Math.cos(down),
      radius * Math.sin(down) * Math.cos(around - Math.PI),
    ];
  };
const cylinder: Surface = (u, v) => [
  0.35 * Math.sin(u * TAU - Math.PI),
  0.55 - v * 1.1,
  0.35 * Math.cos(u * TAU - Math.PI),
];
/** The middle line of the tube, in the plane of x and y. */
const wind = (t: number): readonly [number, number] => [t * 1.6 - 0.8, 0.26 * Math.sin(t * TAU)];
const tube: Surface = (u, v) => {
  // Along u, around v.
  const [x, y] = wind(u);
  const [dx, dy] = [1.6, 0.26 * TAU * Math.cos(u * TAU)];
  const long = Math.hypot(dx, dy);
  const [a, r] = [-v * TAU, 0.13];
  return [x - (dy / long) * r * Math.cos(a), y + (dx / long) * r * Math.cos(a), r * Math.sin(-a)];
};
const ribbon: Surface = (u, v) => {
  const turn = u * TAU * 1.25;
  return [
    u * 1.8 - 0.9,
    (0.5 - v) * 0.34 * Math.cos(turn * 0.25),
    0.12 * Math.sin(turn) + (0.5 - v) * 0.34 * Math.sin(turn * 0.25),
  ];
};
/** Around along u, against the clock, and outward along v. */
const disc: Surface = (u, v) => [0.55 * v * Math.cos(u * TAU), 0.55 * v * Math.sin(u * TAU), 0];
const torus: Surface = (u, v) => {
  const [around, over] = [u * TAU - Math.PI, v * TAU];
  const r = 0.42 + 0.17 * Math.cos(over);
  return [r * Math.sin(around), -r * Math.cos(around), -0.17 * Math.sin(over)];
};

/** The six faces of a cube, each with the whole UV square. */
function cube(detail: number): MeshData {
  const h = 0.4;
  const faces: Surface[] = [
    (u, v) => [(u * 2 - 1) * h, (1 - v * 2) * h, h],
    (u, v) => [(1 - u * 2) * h, (1 - v * 2) * h, -h],
    (u, v) => [h, (1 - v * 2) * h, (1 - u * 2) * h],
    (u, v) => [-h, (1 - v * 2) * h, (u * 2 - 1) * h],
    (u, v) => [(u * 2 - 1) * h, h, (v * 2 - 1) * h],
    (u, v) => [(u * 2 - 1) * h, -h, (1 - v * 2) * h],
  ];
  return mergeMeshes(faces.map((f) => gridOf(f, Math.ceil(detail / 2), Math.ceil(detail / 2))));
}

/** Upright cards through one axis. */
function cards(detail: number): MeshData {
  const turned =
    (angle: number): Surface =>
    (u, v) => [(u - 0.5) * 0.9 * Math.cos(angle), 0.5 - v, (u - 0.5) * 0.9 * Math.sin(angle)];
  return mergeMeshes([0, 1, 2].map((i) => gridOf(turned((i * Math.PI) / 3), Math.ceil(detail / 2), detail)));
}

export const SHAPES = {
  plane: {
    label: 'Plane',
    about: 'Flat, seen from anywhere',
    subdivisions: 1,
    aspect: 1,
    make: (d) => gridOf(plane, d, d),
  },
  fall: {
    label: 'Bent sheet',
    about: 'Falls over a lip, v along it',
    subdivisions: 48,
    aspect: 0.74,
    seenFrom: [1.1, 0.55, 2],
    make: (d) => gridOf(fall, d, d),
  },
  sphere: {
    label: 'Sphere',
    about: 'Around along u, pole to pole along v',
    subdivisions: 64,
    aspect: 2,
    make: (d) => gridOf(ball(0.5), d, Math.ceil(d / 2)),
  },
  cube: {
    label: 'Cube',
    about: 'The whole square on each face',
    subdivisions: 4,
    aspect: 1,
    seenFrom: [1.15, 0.85, 1.75],
    make: cube,
  },
  cylinder: {
    label: 'Cylinder',
    about: 'Open ends; around along u',
    subdivisions: 48,
    aspect: 2,
    seenFrom: [0.4, 0.85, 2.15],
    make: (d) => gridOf(cylinder, d, Math.ceil(d / 4)),
  },
  tube: {
    label: 'Tube',
    about: 'Along a curve, u along it',
    subdivisions: 64,
    aspect: 2.4,
    make: (d) => gridOf(tube, d * 2, Math.ceil(d / 2)),
  },
  ribbon: {
    label: 'Ribbon',
    about: 'A strip that waves, u along it',
    subdivisions: 48,
    aspect: 5,
    make: (d) => gridOf(ribbon, d, Math.ceil(d / 8)),
  },
  disc: {
    label: 'Disc',
    about: 'The square cut to a circle',
    subdivisions: 48,
    aspect: 1,
    make: (d) =>
      withUvs(gridOf(disc, d, Math.ceil(d / 4)), (u, v) => [
        0.5 + 0.5 * v * Math.cos(u * TAU),
        0.5 - 0.5 * v * Math.sin(u * TAU),
      ]),
  },
  radial: {
    label: 'Radial disc',
    about: 'Around along u, outward along v',
    subdivisions: 64,
    aspect: 3.1,
    make: (d) => gridOf(disc, d, Math.ceil(d / 2)),
  },
  torus: {
    label: 'Torus',
    about: 'Upright, closed both ways; around along u',
    subdivisions: 64,
    aspect: 2.5,
    make: (d) => gridOf(torus, d, Math.ceil(d / 2)),
  },
  shells: {
    label: 'Nested shells',
    about: 'Three spheres in each other',
    subdivisions: 48,
    aspect: 2,
    make: (d) => mergeMeshes([0.3, 0.4, 0.5].map((r) => gridOf(ball(r), d, Math.ceil(d / 2)))),
  },
  cards: {
    label: 'Crossed cards',
    about: 'Three cards through one axis',
    subdivisions: 2,
    aspect: 0.9,
    seenFrom: [0.9, 0.7, 1.9],
    make: cards,
  },
} as const satisfies Record<string, Shape>;
export type ShapeName = keyof typeof SHAPES;

/** Most subdivisions that may be asked for. */
export const SUBDIVISION_LIMIT = 256;

/** A shape's mesh; `subdivisions` about as many quads as lie across it. */
export function shapeMesh(name: ShapeName, subdivisions?: number): MeshData {
  const shape: Shape = SHAPES[name];
  return shape.make(Math.min(Math.max(Math.round(subdivisions ?? shape.subdivisions), 1), SUBDIVISION_LIMIT));
}
