import type { Node } from '../ir/node.ts';
import { axisHash, corner } from './lattice.ts';
import { cellsParameter, lattice, seedNode, seedParameter, wholeCells } from './noise.ts';
import { flow, shows, type Operation } from './operation.ts';
import { directionOf, parameter, smoothRise } from './shared.ts';

/**
 * How far a speck travels in its life, in cells; with its first place inside its cell it stays within the neighbours.
 */
const TRAVEL = 0.6;

export const specks: Operation = {
  name: 'specks',
  family: 'noise',
  result: 'number',
  lattice,
  summary: 'Scattered particles that appear and disappear within the loop',
  uses: 'particles, sparks, dust, snow, rain, glitter, fireflies',
  help: 'One speck a cell, each with its own place and its own moment. It appears, drifts along the heading while it lives and fades before it is gone; in whole laps every speck is back where it was when the loop ends.',
  parameters: [
    flow('at', 'vec2'),
    { ...cellsParameter, default: 8 },
    parameter('size', 'number', 'Radius, in cells.', { default: 0.25, range: [0.02, 0.4] }),
    parameter('rate', 'rate', 'Lifetimes of each speck per loop or second.', { default: 1, range: [0, 8] }),
    parameter('heading', 'angle', 'The direction in which they drift.', { default: 0.25, range: [0, 1] }),
    parameter('life', 'number', 'Fraction of its lifetime in which a speck is visible.', {
      default: 0.6,
      range: [0.05, 1],
    }),
    seedParameter,
  ],
  example: shows('uv |> specks(cells: 8, size: 0.25, rate: 2 laps)'),
  lower: (c, a) => {
    const cycles = c.b.mul(a.node('rate'), c.loops);
    const cells = wholeCells(c, a, 2);
    const drift = directionOf(c, a.node('heading'));
    // Fractions of a cycle are all that matters; whole ones would cost precision.
    const moment = c.b.fract(cycles);
    const inner = (b: typeof c.b, position: Node, n: Node, seed: Node): Node => {
      const at = b.mul(b.fract(position), n);
      const low = b.floor(at);
      const within = b.sub(at, low);
      const line = (axis: number, step: number): Node => {
        const index = b.add(b.swizzle(low, axis), step);
        return axisHash(b, axis, b.mod(index, b.swizzle(n, axis)));
      };
      let most = b.number(0);
      for (const dy of [-1, 0, 1]) {
        for (const dx of [-1, 0, 1]) {
          const h = corner(b, b.xor(b.xor(seed, line(0, dx)), line(1, dy)));
          const random = (shift: number): Node => b.mul(b.convert('f', b.and(b.shr(h, shift), 1023)), 1 / 1024);
          const age = b.div(b.fract(b.add(moment, random(20))), a.node('life'));
          const alive = b.mul(smoothRise(c, 0, 0.3, age), b.sub(1, smoothRise(c, 0.6, 1, age)));
          const from = b.vec(b.add(random(0), dx), b.add(random(10), dy));
          const away = b.sub(b.add(from, b.mul(drift, b.mul(b.sub(age, 0.5), TRAVEL))), within);
          const disc = b.sub(1, smoothRise(c, b.mul(a.node('size'), 0.5), a.node('size'), b.length(away)));
          most = b.max(most, b.mul(disc, alive));
        }
      }
      return most;
    };
    return inner(c.b, a.flow, cells, seedNode(c, a, 0));
  },
};
