import {
  flowPlaces,
  heldArgument,
  type FlowPlaces,
  type HandleFact,
  type HeldArgument,
  type Program,
  type TextEdit,
  lapsText,
} from '@estela/core';
import { callsOf, type CallOfLine, type LineStatement } from '../card/calls.ts';
import type { Look } from '../../material/look.ts';

type Place = readonly [number, number];

/**
 * A vector that a hand drags from its start: where the picture goes and how fast, in laps; or how far it is moved, in
 * its own size.
 */
export interface ArrowHandle {
  readonly kind: 'arrow';
  readonly label: string;
  /** To the right and upwards. */
  readonly vector: Place;
  /** UV units the arrow is long for each unit of the vector. */
  readonly scale: number;
  readonly moves: boolean;
  readonly words: string;
  /** `free` leaves laps unsnapped, `straight` snaps the heading to 15 degrees. */
  readonly drag: (vector: Place, how: { readonly straight: boolean; readonly free: boolean }) => TextEdit[];
}

/** A point of what flows in. */
export interface PointHandle {
  readonly kind: 'point';
  readonly label: string;
  readonly at: Place;
  readonly words: string;
  readonly drag: (at: Place) => TextEdit[];
}

/** Turns about a point. */
export interface ArcHandle {
  readonly kind: 'arc';
  readonly label: string;
  readonly pivot: Place;
  readonly turns: number;
  readonly moves: boolean;
  readonly words: string;
  readonly drag: (turns: number, how: { readonly straight: boolean; readonly free: boolean }) => TextEdit[];
}

/** A box whose corner is dragged: one tile of the square, or the square grown about its pivot. */
export interface BoxHandle {
  readonly kind: 'box';
  readonly label: string;
  readonly origin: Place;
  readonly corner: Place;
  readonly words: string;
  readonly drag: (corner: Place) => TextEdit[];
}

export type Handle = ArrowHandle | PointHandle | ArcHandle | BoxHandle;

/** UV units an arrow is long for one lap, and turns an arc is wide for one. */
export const ARROW_PER_LAP = 0.12;
export const ARC_PER_LAP = 0.125;

const rounded = (v: number, step: number): number => Number((Math.round(v / step) * step).toFixed(6));
const laps = (held: HeldArgument, v: number, free: boolean): number =>
  rounded(v, held.laps && !free ? 1 : free ? 0.01 : 0.05);
const figure = (v: number): string => String(Number(v.toFixed(2)));

interface Context {
  readonly of: CallOfLine;
  readonly held: (name: string) => HeldArgument | undefined;
  readonly places: FlowPlaces | undefined;
}

/** Several writes as one, counted in the same text. Arguments that are new to a call stand behind each other. */
const both = (...edits: TextEdit[][]): TextEdit[] => edits.flat();

type Fact<K extends HandleFact['kind']> = Extract<HandleFact, { kind: K }>;

function travel({ held, of }: Context, fact: Fact<'travel'>): Handle[] {
  const [rate, heading, right, up] = [held(fact.rate), held(fact.heading), held(fact.right), held(fact.up)];
  const label = `Motion of ${of.call.callee.name}`;
  if (right || up) {
    const [x, y] = [right?.value[0] ?? 0, up?.value[0] ?? 0];
    return [
      {
        kind: 'arrow',
        label,
        vector: [x, y],
        scale: ARROW_PER_LAP,
        moves: true,
        words: `${lapsText(figure(x))} right, ${figure(y)} up`,
        drag: ([r, u], { free }) =>
          both(right ? right.write([laps(right, r, free)]) : [], up ? up.write([laps(up, u, free)]) : []),
      },
    ];
  }
  if (!rate) return [];
  const turns = heading?.value[0] ?? 0;
  const length = rate.value[0] ?? 0;
  const angle = turns * 2 * Math.PI;
  return [
    {
      kind: 'arrow',
      label,
      vector: [Math.cos(angle) * length, Math.sin(angle) * length],
      scale: ARROW_PER_LAP,
      moves: true,
      words: `${lapsText(figure(length))}, ${figure(turns * 360)}deg`,
      drag: ([x, y], { straight, free }) => {
        const speed = Math.hypot(x, y);
        const pointed = rounded((Math.atan2(y, x) * 180) / Math.PI, straight ? 15 : 1);
        return both(
          rate.write([laps(rate, speed, free)]),
          speed < 0.3 || !heading ? [] : heading.write([(((pointed % 360) + 360) % 360) / 360]),
        );
      },
    },
  ];
}

function turning({ held, of }: Context, { angle, about, moves }: Fact<'turning'>): Handle[] {
  const turned = held(angle);
  if (!turned) return [];
  const [value = 0] = turned.value;
  const [x = 0.5, y = 0.5] = held(about)?.value ?? [0.5, 0.5];
  return [
    {
      kind: 'arc',
      label: `${moves ? 'Turning' : 'Angle'} of ${of.call.callee.name}`,
      pivot: [x, y],
      turns: moves ? value * ARC_PER_LAP : value,
      moves,
      words: moves ? lapsText(figure(value)) : `${figure(value * 360)}deg`,
      drag: (turns, { straight, free }) =>
        moves
          ? turned.write([laps(turned, turns / ARC_PER_LAP, free)])
          : turned.write([rounded(turns * 360, straight ? 15 : 1) / 360]),
    },
  ];
}

function point({ held, of }: Context, { at, label }: Fact<'point'>): Handle[] {
  const position = held(at);
  if (position?.value.length !== 2) return [];
  const [x = 0, y = 0] = position.value;
  return [
    {
      kind: 'point',
      label: `${label} of ${of.call.callee.name}`,
      at: [x, y],
      words: `${figure(x)}, ${figure(y)}`,
      drag: ([u, v]) => position.write([rounded(u, 0.01), rounded(v, 0.01)]),
    },
  ];
}

function tiles({ held }: Context, fact: Fact<'tiles'>): Handle[] {
  const [n, m] = [held(fact.across), held(fact.down)];
  if (!n) return [];
  const [across = 1] = n.value;
  const [down = across] = m?.value ?? [];
  const count = (size: number): number => Math.min(Math.max(Math.round(1 / Math.max(size, 0.02)), 1), 64);
  return [
    {
      kind: 'box',
      label: 'One tile',
      origin: [0, 0],
      corner: [1 / across, 1 / down],
      words: `${figure(across)} x ${figure(down)}`,
      drag: ([x, y]) => both(n.write([count(x)]), m ? m.write([count(y)]) : []),
    },
  ];
}

function size({ held, of }: Context, fact: Fact<'size'>): Handle[] {
  const factor = held(fact.factor);
  if (!factor) return [];
  const [fx = 1, fy = fx] = factor.value;
  const [x = 0.5, y = 0.5] = held(fact.about)?.value ?? [0.5, 0.5];
  const corner: Place = [x + (1 - x) * fx, y + (1 - y) * fy];
  const factorFor = (to: number, pivot: number): number =>
    Math.max(rounded((to - pivot) / Math.max(1 - pivot, 0.01), 0.05), 0.05);
  return [
    {
      kind: 'box',
      label: `Size of ${of.call.callee.name}`,
      origin: [x - x * fx, y - y * fy],
      corner,
      words: fx === fy ? figure(fx) : `${figure(fx)}, ${figure(fy)}`,
      drag: ([u, v]) =>
        factor.write(
          factor.value.length === 2 ? [factorFor(u, x), factorFor(v, y)] : [Math.max(factorFor(u, x), factorFor(v, y))],
        ),
    },
  ];
}

function offset({ held }: Context, fact: Fact<'offset'>): Handle[] {
  const [right, up] = [held(fact.right), held(fact.up)];
  if (!right) return [];
  const [x, y] = [right.value[0] ?? 0, up?.value[0] ?? 0];
  return [
    {
      kind: 'arrow',
      label: 'Offset',
      vector: [x, y],
      scale: 1,
      moves: false,
      words: `${figure(x)} right, ${figure(y)} up`,
      drag: ([r, u]) => both(right.write([rounded(r, 0.01)]), up ? up.write([rounded(u, 0.01)]) : []),
    },
  ];
}

/** How each fact of an operation's record becomes a hand. */
const HANDS: { readonly [K in HandleFact['kind']]: (context: Context, fact: Fact<K>) => Handle[] } = {
  travel,
  offset,
  turning,
  point,
  tiles,
  size,
};

/** What a hand can take hold of on the Stage for a step, with where each call's coordinates lie. */
export function handlesOf(
  program: Program,
  look: Look,
  statement: LineStatement,
  index: number,
  variant: string | undefined,
): { readonly handle: Handle; readonly places: FlowPlaces | undefined; readonly key: string }[] {
  const step = program.steps[index];
  if (!step || step.off) return [];
  const calls = callsOf(statement.value);
  return calls.flatMap((of, i) => {
    if (of.stage?.off || !of.operation) return [];
    const held = (name: string): HeldArgument | undefined =>
      heldArgument(program, statement, of.call, of.flows, name, variant);
    const alike = calls.filter((c) => c.call.callee.name === of.call.callee.name).sort((a, b) => a.call.to - b.call.to);
    const known = flowPlaces(look.graph, index, of.operation.name, alike.indexOf(of), {
      time: 0,
      dials: look.values.dials,
    });
    const context: Context = { of, held, places: known };
    const handles = (of.operation.handles ?? []).flatMap((fact) => {
      const hand = HANDS[fact.kind] as (context: Context, fact: HandleFact) => Handle[];
      return hand(context, fact);
    });
    return handles.map((handle, k) => ({
      handle,
      places: known,
      key: `${String(i)} ${String(k)}`,
    }));
  });
}
