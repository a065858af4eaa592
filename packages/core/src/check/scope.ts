import type { Diagnostics } from '../diagnostics/diagnostic.ts';
import type { Expression } from '../lang/tree.ts';
import { OPERATIONS } from '../ops/table.ts';
import type { ValueType } from '../ops/value-type.ts';
import {
  BUILT_INS,
  type Dial,
  type ImageDeclaration,
  type Loop,
  type RampDeclaration,
  type Step,
  type Switch,
  type Typed,
  type TypeName,
  type UserOperation,
} from './program.ts';

/** A user operation as far as it is known: its head before, its body after it was checked. */
export interface UserOperationEntry {
  readonly head: Omit<UserOperation, 'steps' | 'result'>;
  body?: UserOperation;
  /** Its body is being checked: a call of it now would be recursion. */
  open: boolean;
  readonly check: () => void;
}

/** The names an expression can see. */
export interface Scope {
  readonly found: Diagnostics;
  readonly loop: Loop;
  readonly dials: ReadonlyMap<string, Dial>;
  readonly switches: ReadonlyMap<string, Switch>;
  readonly images: ReadonlyMap<string, ImageDeclaration>;
  readonly ramps: ReadonlyMap<string, RampDeclaration>;
  readonly operations: ReadonlyMap<string, UserOperationEntry>;
  /** Steps above this line, by name. */
  readonly steps: ReadonlyMap<string, Step>;
  /** Inside a user operation: its parameters. */
  readonly parameters: ReadonlyMap<string, { readonly index: number; readonly type: TypeName }>;
}

export const errorAt = ({ from, to }: Expression): Typed => ({ kind: 'error', type: 'unknown', from, to });

export const isValue = (type: TypeName): type is ValueType =>
  type !== 'unknown' && type !== 'image' && type !== 'ramp' && type !== 'keyword';

/** What an image or ramp is called; of other values, their type. */
export const nameOf = (typed: Typed): string =>
  typed.kind === 'image' ? typed.image.name : typed.kind === 'ramp' ? typed.ramp.name : typed.type;

/** Every name that stands for a value here, for suggestions. */
export function valueNames(scope: Scope): string[] {
  return [
    ...scope.parameters.keys(),
    ...scope.steps.keys(),
    ...scope.dials.keys(),
    ...scope.switches.keys(),
    ...Object.keys(BUILT_INS),
  ];
}

/** Every name that can be called, for suggestions. */
export const callNames = (scope: Scope): string[] => [...OPERATIONS.map((o) => o.name), ...scope.operations.keys()];
