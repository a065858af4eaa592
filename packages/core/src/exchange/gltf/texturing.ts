import type { Step } from '../../check/program.ts';
import { evaluateFrame } from '../../ir/evaluate.ts';
import { dependsOnTime, inOrder, irType, widthOf, type Node } from '../../ir/node.ts';
import { substitute } from '../../ir/substitute.ts';
import type { Graph } from '../../lower/lower.ts';
import {
  atom,
  exactOf,
  fractionIn,
  isNearZero,
  isZero,
  negated,
  product,
  quotient,
  sum,
  type Exact,
} from '../../prove/exact.ts';
import { Shifts, type Setting } from '../../prove/shifts.ts';
import { flatOf, isPlaced, placeWords } from './flat.ts';
import { isFlat, Planes, type Plane } from './planes.ts';
import { reasons } from '../../diagnostics/reasons.ts';

/** Where a picture is read from as time goes on: rows of a matrix that takes (u, v, 1) to the picture's own (u, v). */
export interface TextureMotion {
  readonly rows: readonly [Plane, Plane];
  /** Turn and size stand still, and the place moves evenly: two keys say it exactly. */
  readonly isEven: boolean;
}

/** Why something cannot be said, as a sentence, and the step that is why. */
export interface Unsaid {
  readonly why: string;
  readonly step: Step | undefined;
}

/** How what goes into one slot of glTF can be said by a texture, its transform and its factors. */
export type Texturing = Told & {
  /** What it depends on that no texture knows: the rest is told as it is on a flat square that is seen straight on. */
  readonly leftOut?: Unsaid | undefined;
};
type Told =
  /** The picture itself does not change; the factors, of each component, may. */
  | { readonly kind: 'still'; readonly picture: readonly Node[]; readonly factors: readonly Node[] }
  /** A picture that does not change is read from where the motion says. */
  | {
      readonly kind: 'moving';
      readonly picture: readonly Node[];
      readonly factors: readonly Node[];
      readonly motion: TextureMotion;
      /** It is read beyond its edges, and is not known to go on there as it begins at the other side. */
      readonly isBeyond: boolean;
    }
  /** It changes in another way: it must be baked, with what no texture knows left out. */
  | ({ readonly kind: 'changing'; readonly roots: readonly Node[] } & Unsaid);

/**
 * Whether what some outputs put out together is a picture that does not change in itself, seen through a moving
 * transform that KHR_texture_transform can say (scale, then rotation, then translation: no shear), times factors that
 * depend on time alone. Told from the graph with exact arithmetic.
 */
export function texturingOf(graph: Graph, roots: readonly Node[], setting: Setting): Texturing {
  return new Reading(graph, setting).of(roots);
}

type Seen = Omit<Extract<Told, { kind: 'moving' }>, 'kind' | 'factors'>;

/** A plane at one moment. */
type Triple = [u: number, v: number, c: number];

class Reading {
  readonly #b;
  readonly #planes: Planes;
  /** Nodes with the dials as they are set. */
  readonly #set = new Map<Node, Node>();
  readonly #worths = new Map<Node, Exact | undefined>();
  readonly #weighed = new Set<Node>();

  constructor(
    readonly graph: Graph,
    readonly setting: Setting,
  ) {
    this.#b = graph.builder;
    this.#planes = new Planes(this.#b);
  }

  of(given: readonly Node[]): Texturing {
    const set = given.map((root) => this.#withDials(root));
    const placed = inOrder(set).filter(isPlaced);
    const [first] = placed;
    if (!first) return this.#told(set);
    const flat = new Map(placed.map((node) => [node, flatOf(this.#b, node)]));
    return {
      ...this.#told(set.map((root) => substitute(this.#b, root, flat))),
      leftOut: {
        why: reasons.dependsOn(placeWords(first)),
        step: this.#stepOf(first),
      },
    };
  }

  #told(roots: readonly Node[]): Told {
    const parts = roots.flatMap((root) =>
      Array.from({ length: widthOf(root.type) }, (_, i) => this.#factored(root, i)),
    );
    const rests = parts.map(({ rest }) => rest);
    const factors = parts.map(({ factor }) => factor);
    if (!dependsOnTime(rests)) return { kind: 'still', picture: rests, factors };
    const found = this.#uses(rests);
    if ('wrong' in found)
      return {
        kind: 'changing',
        roots,
        why: reasons.valuesChange,
        step: this.#stepOf(found.wrong),
      };
    const seen = this.#seenThrough(rests, found.uses);
    if (typeof seen !== 'string') return { kind: 'moving', factors, ...seen };
    return { kind: 'changing', roots, why: seen, step: this.#stepOf(found.uses.find((n) => dependsOnTime([n]))!) };
  }

  /** The picture that does not change, and the motion through which all uses see it; or why there is none. */
  #seenThrough(rests: readonly Node[], uses: readonly Node[]): Seen | string {
    const rows = this.#rowsOf(uses);
    if (!rows) return reasons.noScale;
    let found: Seen | string = reasons.shears;
    // As pictures are read, else as they lie on the square at first: only one of the two may tile.
    for (const tried of [rows, this.#fromItsStart(rows)]) {
      if (!this.#isRight(tried)) continue;
      const picture = this.#picture(rests, uses, tried);
      if (!picture) return reasons.twoMotions;
      const isBeyond = !this.#tiles(picture, tried) && !this.#isImage(picture);
      found = { picture, motion: { rows: tried, isEven: this.#isEven(tried) }, isBeyond };
      if (!isBeyond) return found;
    }
    return found;
  }

  /** Whether a picture goes on beyond its edges where the motion reads there. */
  #tiles(picture: readonly Node[], rows: readonly [Plane, Plane]): boolean {
    return (['tile_u', 'tile_v'] as const).every((shift, axis) => {
      const { u, v, c } = rows[axis]!;
      const [along, across] = axis === 0 ? [u, v] : [v, u];
      if (isNumber(along, 1) && isNumber(across, 0) && isNumber(c, 0)) return true;
      const shifts = new Shifts(this.graph, shift, this.setting);
      return picture.every((node) => shifts.returns(node));
    });
  }

  /** A node with the dials as they are set: only time is left that changes from frame to frame. */
  #withDials(root: Node): Node {
    const b = this.#b;
    for (const node of inOrder([root]))
      if (node.kind === 'uniform' && node.payload !== 'time' && !this.#set.has(node)) {
        const width = widthOf(node.type);
        const value = this.setting.get(node.payload.dial) ?? Array.from({ length: width }, () => 0);
        this.#set.set(node, b.constant(irType('f', width), value));
      }
    return substitute(b, root, this.#set);
  }

  /** A component of a value, with products with what depends on time alone taken off. */
  #factored(root: Node, component: number): { rest: Node; factor: Node } {
    const b = this.#b;
    let [rest, i, factor] = [root, component, b.number(1)];
    const partOf = (node: Node): Node => this.#planes.part(node, widthOf(node.type) === 1 ? 0 : i);
    for (;;) {
      if (widthOf(rest.type) === 1) i = 0;
      if (isMoving(rest)) return { rest: b.number(1), factor: b.mul(factor, partOf(rest)) };
      const { kind, args } = rest;
      if (kind === 'swizzle') {
        i = rest.payload[i]!;
        rest = args[0]!;
      } else if (kind === 'vec') {
        let at = 0;
        while (i >= widthOf(args[at]!.type)) i -= widthOf(args[at++]!.type);
        rest = args[at]!;
      } else {
        const own = kind === 'mul' ? args.find(isMoving) : undefined;
        if (!own) return { rest: widthOf(rest.type) === 1 ? rest : b.swizzle(rest, i), factor };
        factor = b.mul(factor, partOf(own));
        rest = own === args[0] ? args[1]! : args[0]!;
      }
    }
  }

  /** The places that values are read at: the largest parts that are planes. Or what changes with time otherwise. */
  #uses(roots: readonly Node[]): { readonly uses: readonly Node[] } | { readonly wrong: Node } {
    const uses: Node[] = [];
    const seen = new Set<Node>();
    const waiting = [...roots].reverse();
    for (let node = waiting.pop(); node; node = waiting.pop()) {
      if (seen.has(node)) continue;
      seen.add(node);
      if (node.frequency !== 'pixel') {
        if (isMoving(node)) return { wrong: node };
        continue;
      }
      const planes = this.#planes.of(node);
      if (!planes) waiting.push(...[...node.args].reverse());
      else if (planes.some((plane) => isFlat(plane) && isMoving(plane.c))) return { wrong: node };
      else uses.push(node);
    }
    return { uses };
  }

  /** Two planes that move, or one and what is square to it, as rows; undefined where they are none of a plane at first. */
  #rowsOf(uses: readonly Node[]): [Plane, Plane] | undefined {
    const all = uses.map((use) => this.#planes.of(use)!);
    const moves = ({ u, v, c }: Plane): boolean => [u, v, c].some(isMoving);
    const own = all.find((planes) => planes.some(moves))!;
    const first = own.find(moves)!;
    const others = [...own, ...all.flat().filter(moves), ...all.flat()];
    const across = { u: this.#b.neg(first.v), v: first.u, c: this.#b.number(0) };
    const second = others.find((plane) => this.#areIndependent(first, plane)) ?? across;
    if (!this.#areIndependent(first, second)) return undefined;
    return own.includes(second) && own.indexOf(second) < own.indexOf(first) ? [second, first] : [first, second];
  }

  /** The same motion as seen from its first moment, at which nothing is moved yet. */
  #fromItsStart(rows: readonly [Plane, Plane]): [Plane, Plane] {
    const b = this.#b;
    const placed = (row: Plane): Plane => ({ ...row, c: b.sub(row.c, this.#at0(row)[2]) });
    const [first, second] = this.#unturned(rows);
    return [placed(first), placed(second)];
  }

  /** Rows of which those of turn and size are those of nothing moved at the first moment. */
  #unturned(rows: readonly [Plane, Plane]): [Plane, Plane] {
    const b = this.#b;
    const [[a1, b1], [a2, b2]] = [this.#at0(rows[0]), this.#at0(rows[1])];
    const over = (row: Plane, by: Node): Plane => ({
      u: b.div(row.u, by),
      v: b.div(row.v, by),
      c: b.div(row.c, by),
    });
    // Each along an axis of the square: divided, so that whole turns of radians stay exact.
    const isStill = !rows.some(({ u, v }) => isMoving(u) || isMoving(v));
    if (isStill && b1 === 0 && a2 === 0) return [over(rows[0], rows[0].u), over(rows[1], rows[1].v)];
    if (isStill && a1 === 0 && b2 === 0) return [over(rows[1], rows[1].u), over(rows[0], rows[0].v)];
    const size = a1 * b2 - b1 * a2;
    const mixed = (x: number, y: number): Plane => {
      const part = (of: 'u' | 'v' | 'c'): Node => b.add(b.mul(rows[0][of], x), b.mul(rows[1][of], y));
      return { u: part('u'), v: part('v'), c: part('c') };
    };
    return [mixed(b2 / size, -b1 / size), mixed(-a2 / size, a1 / size)];
  }

  /** What pictures are once their places are taken as the motion has them; undefined where some do not move along. */
  #picture(roots: readonly Node[], uses: readonly Node[], rows: readonly [Plane, Plane]): Node[] | undefined {
    const b = this.#b;
    const uv = b.input('uv');
    const [x, y] = [b.x(uv), b.y(uv)];
    const replaced = new Map<Node, Node>();
    for (const use of uses) {
      const still = this.#planes.of(use)!.map((plane) => this.#within(plane, rows));
      if (still.includes(undefined)) return undefined;
      const parts = (still as [number, number, number][]).map(([g, h, c]) => b.add(b.add(b.mul(x, g), b.mul(y, h)), c));
      // As it was where nothing is changed about it, so that an image stays one.
      const isWhole = JSON.stringify(still) === '[[1,0,0],[0,1,0]]';
      replaced.set(use, isWhole ? uv : b.vec(...parts));
    }
    return roots.map((root) => substitute(b, root, replaced));
  }

  /** Whether the picture is an image as it is, which may end at its edge. */
  #isImage(picture: readonly Node[]): boolean {
    const uv = this.#b.input('uv');
    return picture.every(
      (node) =>
        node.frequency !== 'pixel' ||
        (node.kind === 'swizzle' && node.args[0]!.kind === 'sample' && node.args[0].args[0] === uv),
    );
  }

  /** A plane as so much of each row and a constant; undefined where that is not so at all times. */
  #within(plane: Plane, rows: readonly [Plane, Plane]): [number, number, number] | undefined {
    const [a1, b1, c1] = this.#at0(rows[0]);
    const [a2, b2, c2] = this.#at0(rows[1]);
    const [a, b, c] = this.#at0(plane);
    const size = a1 * b2 - b1 * a2;
    const tidy = (v: number): number => (Math.abs(v - Math.round(v)) < 1e-12 ? Math.round(v) + 0 : v);
    const [g, h] = [tidy((a * b2 - b * a2) / size), tidy((b * a1 - a * b1) / size)];
    const rest = tidy(c - g * c1 - h * c2);
    const [eg, eh, er] = [exactOf(g), exactOf(h), exactOf(rest)];
    const holds = (['u', 'v', 'c'] as const).every((part) => {
      const nodes = [rows[0][part], rows[1][part], plane[part]];
      const [p1, p2, p] = nodes.map((node) => this.#worth(node));
      const own = eg && p1 && product(eg, p1);
      const other = eh && p2 && product(eh, p2);
      const both = own && other && sum(own, other);
      const made = part === 'c' && both && er ? sum(both, er) : both;
      const off = p && made && sum(p, negated(made));
      if (off) return isNearZero(off, ROUNDED);
      return this.#isNothing(nodes, ([v1 = 0, v2 = 0, v = 0]) => v - g * v1 - h * v2 - (part === 'c' ? rest : 0));
    });
    return holds ? [g, h, rest] : undefined;
  }

  /** Whether the columns of turn and size are square to each other at all times. */
  #isRight([first, second]: readonly [Plane, Plane]): boolean {
    const nodes = [first.u, first.v, second.u, second.v];
    const [a, b, c, d] = nodes.map((node) => this.#worth(node));
    const [x, y] = [a && b && product(a, b), c && d && product(c, d)];
    const both = x && y && sum(x, y);
    if (both) return isNearZero(both, ROUNDED);
    return this.#isNothing(nodes, ([p = 0, q = 0, r = 0, s = 0]) => p * q + r * s);
  }

  /** Whether something made of values of the frame is 0 at many moments: for what is too long to be told exactly. */
  #isNothing(nodes: readonly Node[], of: (values: readonly number[]) => number): boolean {
    const { seconds } = this.graph.program.loop;
    return Array.from({ length: MOMENTS }, (_, i) => seconds * ((i * 0.6180339887) % 1)).every((time) => {
      const found = evaluateFrame(nodes, { time, dials: this.setting });
      const values = nodes.map((node) => found.get(node)?.[0] ?? 0);
      return Math.abs(of(values)) <= ROUNDED * Math.max(1, ...values.map(Math.abs)) ** 2;
    });
  }

  #isEven(rows: readonly [Plane, Plane]): boolean {
    const isConstant = (node: Node): boolean => {
      const worth = this.#worth(node);
      return worth !== undefined && fractionIn(worth) !== undefined;
    };
    const isLine = (node: Node): boolean => {
      const worth = this.#worth(node);
      return (
        worth !== undefined &&
        [...worth.values()].every(
          ({ atoms, turns }) =>
            turns === 0 && atoms.length <= 1 && atoms.every((a) => a.kind === 'uniform' && a.payload === 'time'),
        )
      );
    };
    return rows.every(({ u, v, c }) => isConstant(u) && isConstant(v) && isLine(c));
  }

  #areIndependent(first: Plane, second: Plane): boolean {
    const [[a1, b1], [a2, b2]] = [this.#at0(first), this.#at0(second)];
    return Math.abs(a1 * b2 - b1 * a2) > 1e-9 * Math.max(1e-9, Math.hypot(a1, b1) * Math.hypot(a2, b2));
  }

  /** A plane at the first moment. */
  #at0({ u, v, c }: Plane): Triple {
    const values = evaluateFrame([u, v, c], { time: 0, dials: this.setting });
    return [u, v, c].map((node) => values.get(node)?.[0] ?? 0) as Triple;
  }

  /** A value of the frame as a sum of products of time and of what is no sum; undefined where it grows too long. */
  #worth(of: Node): Exact | undefined {
    for (const node of inOrder([of], this.#weighed)) {
      const [x, y] = node.args.map((arg) => this.#worths.get(arg));
      this.#worths.set(node, worthOf(node, x, y));
    }
    return this.#worths.get(of);
  }

  /** The first step in the text that has a node in it. */
  #stepOf(node: Node): Step | undefined {
    const seen = new Set<Node>();
    return this.graph.program.steps.find((step) => {
      const own = this.graph.steps[step.index];
      return own !== undefined && inOrder([this.#withDials(own)], seen).includes(node);
    });
  }
}

/** What roundings leave of nothing: far below what a player's floats of 32 bits can tell. */
const ROUNDED = 1e-9;
/** Moments at which values are compared that are too long to be told exactly. */
const MOMENTS = 48;

const isNumber = (node: Node, value: number): boolean => node.kind === 'constant' && node.payload[0] === value;

/** With the dials set, what is the same over a frame and no constant depends on time. */
const isMoving = (node: Node): boolean => node.frequency === 'frame';

const isPlain = ({ atoms }: { readonly atoms: readonly Node[] }): boolean => atoms.length === 0;

/** What a value of the frame is worth, from its operands; what is no sum or product stands for itself. */
function worthOf(node: Node, x: Exact | undefined, y: Exact | undefined): Exact | undefined {
  switch (node.kind) {
    case 'constant':
      return exactOf(node.payload[0] ?? 0);
    case 'neg':
      return x && negated(x);
    case 'add':
      return x && y && sum(x, y);
    case 'sub':
      return x && y && sum(x, negated(y));
    case 'mul':
      return x && y && product(x, y);
    case 'div':
      if (x && isZero(x)) return x;
      return (x && y && !isZero(y) && [...y.values()].every(isPlain) ? quotient(x, y) : undefined) ?? atom(node);
    default:
      return atom(node);
  }
}
