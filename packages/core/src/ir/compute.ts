import { componentOf, eachComponent, KINDS, type Round, type Value, type Whole } from './kinds.ts';
import { scalarOf, type Kind, type Node, type Scalar } from './node.ts';

/** A result as its scalar kind holds it. */
const clamped = (scalar: Scalar, value: number, round: Round): number =>
  scalar === 'f' ? round(value) : scalar === 'i' ? value | 0 : scalar === 'u' ? value >>> 0 : value;

/** The value of a node that is no leaf, sample or call, from its operands' values, by its kind's definition. */
export function compute(node: Node, args: readonly Value[], round: Round): Value {
  const scalar = scalarOf(node.type);
  const { definition } = KINDS[node.kind];
  if (typeof definition === 'function') return (definition as Whole<Kind>)(node, args, round);
  const f =
    definition === 'given'
      ? undefined
      : scalar === 'f'
        ? definition.f?.(round)
        : scalar === 'b'
          ? definition.b
          : definition.i;
  if (!f) throw new Error(`there is no ${node.kind} of ${node.type}`);
  if (node.type.endsWith('1')) return [clamped(scalar, f(args[0]?.[0], args[1]?.[0], args[2]?.[0]), round)];
  return eachComponent(node, (i) =>
    clamped(scalar, f(componentOf(args[0], i), componentOf(args[1], i), componentOf(args[2], i)), round),
  );
}
