import type { Builder } from '../ir/builder.ts';
import type { ImageSlot, Node } from '../ir/node.ts';
import type { RampTable, ValueType } from './value-type.ts';

/** Families, in the order the palette and the reference page show them. */
export const FAMILIES = {
  coordinates: 'Coordinates',
  motion: 'Motion',
  time: 'Time of what flows',
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
  readonly help: string;
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
export interface Operation {
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

const FLOW_HELP = 'What flows in.';

/** A parameter that flows in. */
export const flow = (name: string, ...accepts: Accepts[]): OperationParameter => ({ name, accepts, help: FLOW_HELP });

/** Whether the operation stands behind `|>`: `saw`, `fresnel` and their like do not. */
export const flowsIn = (operation: Operation): boolean => operation.parameters[0]?.help === FLOW_HELP;

/** A full example material around an output expression. */
export const shows = (out: string, ...lines: string[]): string =>
  ['loop 4s at 30fps', ...lines, `out color = ${out}`, ''].join('\n');
