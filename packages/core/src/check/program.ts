import type { Diagnostic, Span } from '../diagnostics/diagnostic.ts';
import type { SyntaxTree } from '../lang/tree.ts';
import type { BinaryOperator } from '../lang/tree.ts';
import type { ImageSlot } from '../ir/node.ts';
import type { Operation, OperationParameter } from '../ops/operation.ts';
import type { RampTable, ValueType } from '../ops/value-type.ts';

/** Types a dial may have; `laps` is a rate counted in laps, `color` a vec4. */
export const DIAL_TYPES = ['number', 'laps', 'rate', 'time', 'angle', 'vec2', 'color'] as const;
export type DialType = (typeof DIAL_TYPES)[number];

/** Types of what an expression may be; `unknown` follows an error and fits everywhere. */
export type TypeName = ValueType | 'image' | 'ramp' | 'keyword' | 'unknown';

export const CHANNELS = [
  'color',
  'normal',
  'metallic',
  'roughness',
  'emissive',
  'opacity',
  'cutoff',
  'refraction',
] as const;
export type Channel = (typeof CHANNELS)[number];

/** A channel's type; a colour there needs no alpha. */
export const CHANNEL_TYPES: Record<Channel, ValueType | 'color'> = {
  color: 'color',
  normal: 'vec3',
  metallic: 'number',
  roughness: 'number',
  emissive: 'color',
  opacity: 'number',
  cutoff: 'number',
  refraction: 'number',
};

export const BUILT_INS = {
  uv: 'vec2',
  uv2: 'vec2',
  screen: 'vec2',
  position: 'vec3',
  world: 'vec3',
  vertex_color: 'vec4',
  time: 'time',
  phase: 'number',
  frame: 'number',
  loop_seconds: 'time',
} as const satisfies Record<string, ValueType>;
export type BuiltIn = keyof typeof BUILT_INS;

export interface Loop {
  readonly seconds: number;
  readonly fps: number;
  /** N; frames run from 0 to N - 1. */
  readonly frames: number;
}

export interface Surface {
  readonly lit: boolean;
  readonly mode: 'opaque' | 'mask' | 'blend' | 'add';
  readonly twoSided: boolean;
}

/** An exposed parameter. Values are in internal units: seconds, turns, periods a loop, linear colour. */
export interface Dial {
  readonly name: string;
  readonly type: DialType;
  readonly value: readonly number[];
  readonly low?: number;
  readonly high?: number;
  readonly step?: number;
  readonly help: string;
  readonly span: Span;
  readonly nameSpan: Span;
  /** Where its default is written. */
  readonly valueSpan: Span;
}

export interface Switch {
  readonly name: string;
  readonly on: boolean;
  readonly help: string;
  readonly span: Span;
  readonly nameSpan: Span;
  readonly valueSpan: Span;
}

export interface ImageDeclaration extends ImageSlot {
  readonly span: Span;
  readonly nameSpan: Span;
  readonly sourceSpan: Span;
}

export interface RampDeclaration extends RampTable {
  readonly span: Span;
  readonly nameSpan: Span;
}

export interface Variant {
  readonly name: string;
  readonly span: Span;
  /** Dials by internal value; switches by 1 and 0. */
  readonly values: ReadonlyMap<string, readonly number[]>;
}

/** One line that computes something. A name bound twice is two steps. */
export interface Step {
  /** Order in the text, outputs included. */
  readonly index: number;
  readonly kind: 'step' | 'out';
  readonly name: string;
  readonly off: boolean;
  /** For a line that is off and rebinds: the step it leaves in force. */
  readonly before?: Step;
  readonly type: ValueType | 'unknown';
  readonly coordinates: boolean;
  readonly value: Typed;
  readonly span: Span;
  readonly nameSpan: Span;
}

export interface UserOperation {
  readonly name: string;
  readonly parameters: readonly {
    readonly name: string;
    readonly type: TypeName;
    readonly accepts: OperationParameter['accepts'][number];
    readonly value?: Typed;
  }[];
  readonly steps: readonly Step[];
  readonly result: Typed;
  readonly span: Span;
  readonly nameSpan: Span;
}

interface TypedBase extends Span {
  readonly type: TypeName;
  /** Made from uv or another coordinate, so that its neutral is uv. */
  readonly coordinates?: boolean;
}

/** An expression with its type; what stands for an error has type `unknown`. */
export type Typed =
  | (TypedBase & { readonly kind: 'error' })
  | (TypedBase & { readonly kind: 'constant'; readonly value: readonly number[]; readonly inLaps?: boolean })
  | (TypedBase & { readonly kind: 'dial'; readonly dial: Dial })
  | (TypedBase & { readonly kind: 'switch'; readonly of: Switch })
  | (TypedBase & { readonly kind: 'step'; readonly step: Step })
  | (TypedBase & { readonly kind: 'parameter'; readonly index: number })
  | (TypedBase & { readonly kind: 'built-in'; readonly name: BuiltIn })
  | (TypedBase & { readonly kind: 'image'; readonly image: ImageDeclaration })
  | (TypedBase & { readonly kind: 'ramp'; readonly ramp: RampDeclaration })
  | (TypedBase & { readonly kind: 'keyword'; readonly word: string })
  | (TypedBase & { readonly kind: 'vector'; readonly items: readonly Typed[] })
  | (TypedBase & { readonly kind: 'swizzle'; readonly of: Typed; readonly indices: readonly number[] })
  | (TypedBase & { readonly kind: 'negate'; readonly of: Typed })
  | (TypedBase & {
      readonly kind: 'binary';
      readonly operator: BinaryOperator;
      readonly left: Typed;
      readonly right: Typed;
    })
  /** To a colour, to a wider vector, or from an angle to radians. */
  | (TypedBase & { readonly kind: 'convert'; readonly into: 'color' | 'radians' | ValueType; readonly of: Typed })
  | (TypedBase & {
      readonly kind: 'call';
      readonly operation: Operation;
      readonly args: ReadonlyMap<string, Typed>;
      readonly off: boolean;
    })
  | (TypedBase & {
      readonly kind: 'expand';
      readonly operation: () => UserOperation | undefined;
      readonly args: readonly Typed[];
    });

/** A checked material: everything the later stages read. */
export interface Program {
  readonly tree: SyntaxTree;
  readonly title: string;
  readonly loop: Loop;
  readonly surface: Surface;
  readonly dials: readonly Dial[];
  readonly switches: readonly Switch[];
  readonly images: readonly ImageDeclaration[];
  readonly ramps: readonly RampDeclaration[];
  readonly variants: readonly Variant[];
  readonly operations: readonly UserOperation[];
  /** Steps and outputs, in text order. */
  readonly steps: readonly Step[];
  readonly diagnostics: readonly Diagnostic[];
  /** No diagnostic is an error. */
  readonly ok: boolean;
}
