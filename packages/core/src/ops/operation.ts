import type { Builder } from '../ir/builder.ts';
import type { ImageSlot, Node } from '../ir/node.ts';
import type { RampTable, ValueType } from './value-type.ts';

/** Families, in the order the palette and the reference page show them. */
export const FAMILIES = {
  coordinates: 'Coordinates',
  motion: 'Motion',
  time: 'Time of the input',
  noise: 'Noise',
  sampling: 'Sampling',
  patterns: 'Patterns',
  shaping: 'Shaping',
  colour: 'Colour',
  layers: 'Layers and dissolve',
  surface: 'Normals and surface',
  maths: 'Maths',
} as const;
export type Family = keyof typeof FAMILIES;

/**
 * What a parameter takes. `color` is a vec4, with a vec3 made opaque and a number made grey;
 * `vector` is a number or vector, all such arguments of a call widened to one size; `quantity`
 * is a `vector` or any one unit; `radians` is an angle, or a number of radians.
 */
export type Accepts = ValueType | 'color' | 'vector' | 'quantity' | 'radians' | 'image' | 'ramp' | 'keyword';

export interface OperationParameter {
  readonly name: string;
  /** Tried in order; the first that fits without conversion wins. */
  readonly accepts: readonly Accepts[];
  /** For keywords. */
  readonly options?: readonly string[];
  /** In internal units (an angle in turns, a rate in laps, a time in seconds); a keyword as its word. */
  readonly default?: number | readonly number[] | string;
  readonly optional?: boolean;
  /** Only by name. */
  readonly named?: boolean;
  /** A plain number, known when compiling. */
  readonly constant?: boolean;
  /** Sensible range for controls, and the bound where `strict`. */
  readonly range?: readonly [low: number, high: number];
  readonly strict?: boolean;
  /** Whole numbers only: anything else is rounded, with a warning. */
  readonly whole?: boolean;
  /** What is written for it, in the text of a call that is made anew; without a default, or to show what it does. */
  readonly sample?: string;
  readonly help: string;
}

/** What a hand on the Stage can drag of a call. Texts name its parameters. */
export type HandleFact =
  /** Where the picture goes and how fast: a rate along a heading, or one to the right and one up. */
  | {
      readonly kind: 'travel';
      readonly rate: string;
      readonly heading: string;
      readonly right: string;
      readonly up: string;
    }
  /** How far it is moved, in its own size. */
  | { readonly kind: 'offset'; readonly right: string; readonly up: string }
  /** An angle about a point; with `moves` a rate of whole turns. */
  | { readonly kind: 'turning'; readonly angle: string; readonly about: string; readonly moves: boolean }
  | { readonly kind: 'point'; readonly at: string; readonly label: string }
  /** Repeats over the square; as many down as across where `down` is not given. */
  | { readonly kind: 'tiles'; readonly across: string; readonly down: string }
  /** The picture's size about a point. */
  | { readonly kind: 'size'; readonly factor: string; readonly about: string };

/** How a parameter decides whether a picture fits the square a whole number of times. */
export interface StretchFact {
  readonly parameter: string;
  /** Fits where the value is whole, where one over it is, or at quarter turns. */
  readonly fits: 'whole' | 'reciprocal' | 'quarters';
}

/** An operation that starts over with a jump, and how it would go there and back. */
export interface JumpFact {
  /** Only with this word given to this parameter. */
  readonly when?: { readonly parameter: string; readonly word: string };
  /** The word to give instead, or the operation, and an argument more, to call instead. */
  readonly instead: string | { readonly operation: string; readonly argument: string };
}

/** Which parameters of a dissolve are what. */
export interface DissolveFact {
  readonly mask: string;
  readonly progress: string;
  /** Width of the front, in mask values. */
  readonly edge: string;
  readonly ramp?: string;
  readonly core?: string;
}

/** What provers, checks and editors need to know of an operation beyond its call, so that they know none by name. */
export interface OperationFacts {
  /** Its result is a direction of the surface, -1..1. */
  readonly makesNormal?: true;
  /** What flows has a time of its own: the moment that is shown, in place of the present. */
  readonly shownTime?: (context: LowerContext, args: Pick<Arguments, 'node'>) => Node;
  /** The parameter that is the moment shown. */
  readonly timeParameter?: string;
  /** The parameter that says how long time stands still between two steps. */
  readonly timeStep?: string;
  /** What decides how often a picture fits the square. */
  readonly stretches?: readonly StretchFact[];
  readonly jumps?: JumpFact;
  /** Numbers that it has a result for: others give 0. */
  readonly domain?: 'positive' | 'not negative';
  readonly dissolves?: DissolveFact;
  /** Noise on a lattice: the parameters that are its cells and its seed, and the words that tell two kinds apart. */
  readonly lattice?: { readonly cells: string; readonly seed: string; readonly kinds: readonly string[] };
  /** How its curve looks in a lane: the way through a period (where nothing is said), its own shape, or steps. */
  readonly lane?: 'shape' | 'steps';
  readonly handles?: readonly HandleFact[];
}

/** What surrounds a lowering: the builder, and time. */
export interface LowerContext {
  readonly b: Builder;
  /** Seconds since the start. */
  readonly time: Node;
  /** Loops since the start: time over the loop's length. */
  readonly loops: Node;
  readonly loopSeconds: number;
}

/** The arguments of one call, lowered: defaults filled in, units in internal form. */
export interface Arguments {
  /** The first argument, what flows. */
  readonly flow: Node;
  readonly has: (name: string) => boolean;
  readonly node: (name: string) => Node;
  /** A constant argument's value. */
  readonly number: (name: string) => number;
  readonly keyword: (name: string) => string;
  readonly image: (name: string) => ImageSlot;
  readonly ramp: (name: string) => RampTable;
  /** Whether a rate is counted in laps, so that whole laps close by construction. */
  readonly inLaps: (name: string) => boolean;
}

/** One operation of Wake: all that the checker, the editor, the docs and the back ends know of it. */
export interface Operation extends OperationFacts {
  readonly name: string;
  readonly family: Family;
  /** One line, without a full stop: what it does. */
  readonly summary: string;
  /** What else it is looked for by: effects and everyday words, parted by commas. */
  readonly uses?: string;
  readonly help: string;
  /** The first parameter is what flows in; none flows into `saw`, `wave` and their like. */
  readonly parameters: readonly OperationParameter[];
  /** `widest`: the common type of the `vector` or `quantity` arguments. */
  readonly result: ValueType | 'widest';
  /** The result is a coordinate wherever what flows in is one. */
  readonly keepsCoordinates?: boolean;
  /** A complaint about which arguments were given together, or undefined. */
  readonly needs?: (given: ReadonlySet<string>) => string | undefined;
  /** A material that shows it. */
  readonly example: string;
  readonly lower: (context: LowerContext, args: Arguments) => Node;
}

const FLOW_HELP = 'The input.';

/** A parameter that flows in. */
export const flow = (name: string, ...accepts: Accepts[]): OperationParameter => ({ name, accepts, help: FLOW_HELP });

/** Whether the operation stands behind `|>`: `saw`, `fresnel` and their like do not. */
export const flowsIn = (operation: Operation): boolean => operation.parameters[0]?.help === FLOW_HELP;

/** A full example material around an output expression. */
export const shows = (out: string, ...lines: string[]): string =>
  ['loop 4s at 30fps', ...lines, `out color = ${out}`, ''].join('\n');
