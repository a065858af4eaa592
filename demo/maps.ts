import type { FlowDrawing, PathDrawing } from '@estela/core';

/** The way the sap takes: in at the left edge and out at the right, so that it tiles across. */
const sapWay: PathDrawing = {
  closed: false,
  size: 512,
  points: [
    { x: 0, y: 0.5, width: 0.16 },
    { x: 0.2, y: 0.3, width: 0.13 },
    { x: 0.42, y: 0.42, width: 0.18 },
    { x: 0.55, y: 0.7, width: 0.13 },
    { x: 0.8, y: 0.7, width: 0.15 },
    { x: 1, y: 0.5, width: 0.16 },
  ],
};

/** A closed way round the fern, for the motes that circle it. */
const fernRing: PathDrawing = {
  closed: true,
  size: 512,
  points: [
    { x: 0.5, y: 0.1, width: 0.09 },
    { x: 0.78, y: 0.2, width: 0.07 },
    { x: 0.86, y: 0.5, width: 0.09 },
    { x: 0.74, y: 0.78, width: 0.07 },
    { x: 0.5, y: 0.86, width: 0.09 },
    { x: 0.24, y: 0.76, width: 0.07 },
    { x: 0.14, y: 0.48, width: 0.09 },
    { x: 0.24, y: 0.2, width: 0.07 },
  ],
};

/** Points of a stroke along a curve, as a hand would leave them. */
const drawn = (count: number, at: (t: number) => readonly [number, number]): { x: number; y: number }[] =>
  Array.from({ length: count }, (_, i) => {
    const [x, y] = at(i / (count - 1));
    return { x: Math.round(x * 1000) / 1000, y: Math.round(y * 1000) / 1000 };
  });

/** Water creeping over the moss: down at the left, round, and up at the right. */
const mossFlow: FlowDrawing = {
  size: 256,
  smooth: 0.04,
  strokes: [
    {
      radius: 0.2,
      strength: 0.9,
      points: drawn(24, (t) => [0.5 - 0.3 * Math.cos(t * Math.PI), -0.05 + 0.75 * Math.sin(t * Math.PI)]),
    },
    {
      radius: 0.13,
      strength: 0.6,
      points: drawn(16, (t) => [0.5 + 0.14 * Math.cos(t * 5.2), 0.2 + 0.14 * Math.sin(t * 5.2)]),
    },
    { radius: 0.12, strength: 0.5, points: drawn(14, (t) => [0.05 + t * 0.9, 0.88 + 0.04 * Math.sin(t * 6.28)]) },
  ],
};

/** Path maps and flow maps of the demo, by the name its materials use. */
export const paths: Readonly<Record<string, PathDrawing>> = { 'sap-way.png': sapWay, 'fern-ring.png': fernRing };
export const flows: Readonly<Record<string, FlowDrawing>> = { 'moss-flow.png': mossFlow };
