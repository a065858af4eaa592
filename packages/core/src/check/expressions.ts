import type { Fix } from '../diagnostics/diagnostic.ts';
import { nearest, say, withArticle } from '../diagnostics/wording.ts';
import type {
  BinaryExpression,
  BinaryOperator,
  Expression,
  NameExpression,
  SwizzleExpression,
  VectorExpression,
} from '../lang/tree.ts';
import { operationNamed } from '../ops/table.ts';
import { componentsOf, isPlain, isVector, vectorOf, type ValueType } from '../ops/value-type.ts';
import { checkCall } from './calls.ts';
import { literalValue, unitsFor, valueTypeOf } from './literals.ts';
import { BUILT_INS, type BuiltIn, type Typed } from './program.ts';
import { replaceBy } from './settings.ts';
import { errorAt, isValue, nameOf, valueNames, type Scope } from './scope.ts';

/** Gives an expression its type; reports what does not fit and goes on with `unknown`. */
export function checkExpression(scope: Scope, e: Expression): Typed {
  const { from, to } = e;
  switch (e.kind) {
    case 'missing':
      return errorAt(e);
    case 'number':
    case 'color':
    case 'on-off': {
      const literal = literalValue(e, scope.loop);
      if (!literal) {
        scope.found.add(say.unknownUnit('fps'), e);
        return errorAt(e);
      }
      return {
        kind: 'constant',
        type: literal.type,
        value: literal.value,
        ...(literal.inLaps ? { inLaps: true } : {}),
        from,
        to,
      };
    }
    case 'name':
      return checkName(scope, e);
    case 'group':
      return checkExpression(scope, e.inner);
    case 'vector':
      return checkVector(scope, e);
    case 'unary': {
      const of = checkExpression(scope, e.operand);
      if (of.type === 'unknown') return errorAt(e);
      if (!isValue(of.type)) {
        scope.found.add(say.negate(withArticle(of.type)), e);
        return errorAt(e);
      }
      return { kind: 'negate', type: of.type, of, coordinates: of.coordinates ?? false, from, to };
    }
    case 'binary':
      return checkBinary(scope, e);
    case 'swizzle':
      return checkSwizzle(scope, e);
    case 'pipe':
      return checkCall(scope, (of) => checkExpression(scope, of), e.call, checkExpression(scope, e.left), e.off, e);
    case 'call':
      return checkCall(scope, (of) => checkExpression(scope, of), e, undefined, undefined, e);
  }
}

const COORDINATES = new Set<string>(['uv', 'uv2', 'screen']);

function checkName(scope: Scope, e: NameExpression): Typed {
  const { name, from, to } = e;
  const parameter = scope.parameters.get(name);
  if (parameter) return { kind: 'parameter', type: parameter.type, index: parameter.index, from, to };
  const step = scope.steps.get(name);
  if (step) return { kind: 'step', type: step.type, step, coordinates: step.coordinates, from, to };
  const dial = scope.dials.get(name);
  if (dial) return { kind: 'dial', type: valueTypeOf(dial.type), dial, from, to };
  const of = scope.switches.get(name);
  if (of) return { kind: 'switch', type: 'number', of, from, to };
  const image = scope.images.get(name);
  if (image) return { kind: 'image', type: 'image', image, from, to };
  const ramp = scope.ramps.get(name);
  if (ramp) return { kind: 'ramp', type: 'ramp', ramp, from, to };
  if (Object.hasOwn(BUILT_INS, name)) {
    const builtIn = name as BuiltIn;
    return { kind: 'built-in', type: BUILT_INS[builtIn], name: builtIn, coordinates: COORDINATES.has(name), from, to };
  }
  if (operationNamed(name) ?? scope.operations.get(name)) scope.found.add(say.operationAsValue(name), e);
  else scope.found.add(say.unknownName(name, 'value'), e, replaceBy(e, nearest(name, valueNames(scope))));
  return errorAt(e);
}

function checkVector(scope: Scope, e: VectorExpression): Typed {
  const items = e.items.map((item) => checkExpression(scope, item));
  for (const item of items) {
    if (item.type !== 'number' && item.type !== 'unknown')
      scope.found.add(
        say.vectorPart(withArticle(item.type)),
        item,
        isVector(item.type as ValueType)
          ? [{ title: 'Take .x', edits: [{ from: item.to, to: item.to, insert: '.x' }] }]
          : [],
      );
  }
  if (items.some((item) => item.type !== 'number') || items.length > 4) return errorAt(e);
  return {
    kind: 'vector',
    type: vectorOf(items.length),
    items,
    coordinates: items.some((i) => i.coordinates),
    from: e.from,
    to: e.to,
  };
}

function checkSwizzle(scope: Scope, e: SwizzleExpression): Typed {
  const of = checkExpression(scope, e.of);
  if (of.type === 'unknown') return errorAt(e);
  const { name } = e.parts;
  const letters = /^[xyzw]+$/.test(name) ? 'xyzw' : /^[rgba]+$/.test(name) ? 'rgba' : '';
  const indices = [...name].map((letter) => letters.indexOf(letter));
  if (
    !isValue(of.type) ||
    !isVector(of.type) ||
    letters === '' ||
    indices.some((i) => i >= componentsOf(of.type as ValueType))
  ) {
    scope.found.add(say.swizzle(name, withArticle(of.type)), e.parts);
    return errorAt(e);
  }
  if (indices.length > 4) {
    scope.found.add(say.swizzleLong(), e.parts);
    return errorAt(e);
  }
  return {
    kind: 'swizzle',
    type: vectorOf(indices.length),
    of,
    indices,
    coordinates: of.coordinates ?? false,
    from: e.from,
    to: e.to,
  };
}

/** The type of `left operator right`, or undefined where the two do not go together. */
export function binaryType(operator: BinaryOperator, left: ValueType, right: ValueType): ValueType | undefined {
  switch (operator) {
    case '+':
    case '-':
      if (left === right) return left;
      return isPlain(left) && isPlain(right)
        ? left === 'number'
          ? right
          : right === 'number'
            ? left
            : undefined
        : undefined;
    case '*':
      if (left === 'number') return right;
      if (right === 'number') return left;
      if ((left === 'time' && right === 'rate') || (left === 'rate' && right === 'time')) return 'number';
      return left === right && isPlain(left) ? left : undefined;
    case '/':
      if (right === 'number') return left;
      if (left === right) return isPlain(left) ? left : 'number';
      return left === 'number' && isVector(right) ? right : undefined;
    default:
      return left === right && !isVector(left) ? 'number' : undefined;
  }
}

function checkBinary(scope: Scope, e: BinaryExpression): Typed {
  const left = checkExpression(scope, e.left);
  const right = checkExpression(scope, e.right);
  if (left.type === 'unknown' || right.type === 'unknown') return errorAt(e);
  const type = isValue(left.type) && isValue(right.type) ? binaryType(e.operator, left.type, right.type) : undefined;
  if (!type) {
    const only = [left, right].find((side) => !isValue(side.type));
    if (only) scope.found.add(say.onlyArgument(nameOf(only), withArticle(only.type)), only);
    else
      scope.found.add(say.mismatch(e.operator, withArticle(left.type), withArticle(right.type)), e, [
        ...unitFixes(left, right, e.left),
        ...unitFixes(right, left, e.right),
      ]);
    return errorAt(e);
  }
  return {
    kind: 'binary',
    type,
    operator: e.operator,
    left,
    right,
    coordinates: (left.coordinates ?? false) || (right.coordinates ?? false),
    from: e.from,
    to: e.to,
  };
}

/** Fixes for a literal that clashes with the value beside it: give it a unit, or take its unit away. */
function unitFixes(literal: Typed, beside: Typed, e: Expression): Fix[] {
  if (e.kind !== 'number') return [];
  if (literal.type === 'number' && !e.unit) {
    return unitsFor(beside.type, e.value).map((unit) => ({
      title: `Write ${String(e.value)}${unit}`,
      edits: [{ from: e.to, to: e.to, insert: unit }],
    }));
  }
  if (e.unit && (beside.type === 'number' || isVector(beside.type as ValueType)))
    return [{ title: `Write ${String(e.value)}`, edits: [{ from: e.from, to: e.to, insert: String(e.value) }] }];
  return [];
}
