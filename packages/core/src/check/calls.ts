import type { Fix, Span } from '../diagnostics/diagnostic.ts';
import { nearest, say, withArticle } from '../diagnostics/wording.ts';
import type { CallExpression, Expression } from '../lang/tree.ts';
import type { Accepts, Operation, OperationParameter } from '../ops/operation.ts';
import { operationNamed } from '../ops/table.ts';
import { unitsFor } from './literals.ts';
import { componentsOf, isPlain, isVector, vectorOf, type ValueType } from '../ops/value-type.ts';
import type { Typed, TypeName } from './program.ts';
import { callNames, errorAt, isValue, valueNames, type Scope, type UserOperationEntry } from './scope.ts';
import { replaceBy } from './settings.ts';

/** A parameter as calls see it, of an operation of the table or of the user's own. */
interface Slot {
  readonly name: string;
  readonly accepts: readonly Accepts[];
  readonly needed: boolean;
  readonly named: boolean;
  readonly record?: OperationParameter;
}

const ACCEPT_WORDS: Partial<Record<Accepts, string>> = {
  color: 'colour',
  vector: 'number or vector',
  quantity: 'value',
  radians: 'angle',
};
const expected = (accepts: readonly Accepts[]): string =>
  accepts.map((a) => withArticle(ACCEPT_WORDS[a] ?? a)).join(' or ');

/** Gives an argument its type. */
type TypeOf = (e: Expression) => Typed;

/** Checks `callee(args)`; `flowing` is what a pipe sends in, `off` its mark, `whole` the expression to report on. */
export function checkCall(
  scope: Scope,
  typed: TypeOf,
  call: CallExpression,
  flowing: Typed | undefined,
  off: Span | undefined,
  whole: Expression,
): Typed {
  const { name } = call.callee;
  const operation = operationNamed(name);
  const user = scope.operations.get(name);
  if (!operation && !user) {
    for (const arg of call.args) if (arg.value.kind !== 'name') typed(arg.value);
    const value = valueNames(scope).includes(name) || scope.images.has(name) || scope.ramps.has(name);
    if (value) scope.found.add(say.notAnOperation(name, 'a value'), call.callee);
    else
      scope.found.add(say.unknownOperation(name), call.callee, replaceBy(call.callee, nearest(name, callNames(scope))));
    return errorAt(whole);
  }
  const slots = operation ? slotsOf(operation) : slotsOfUser(user!);
  const args = matchArguments(scope, typed, call, slots, flowing);
  if (!args) return errorAt(whole);
  return operation
    ? finishOperation(scope, call, operation, args, off, whole)
    : finishUser(scope, call, user!, slots, args, off, whole);
}

const slotsOf = (operation: Operation): Slot[] =>
  operation.parameters.map((p) => ({
    name: p.name,
    accepts: p.accepts,
    needed: p.default === undefined && p.optional !== true,
    named: p.named === true,
    record: p,
  }));

const slotsOfUser = (user: UserOperationEntry): Slot[] =>
  user.head.parameters.map((p) => ({
    name: p.name,
    accepts: [p.accepts],
    needed: p.value === undefined,
    named: false,
  }));

/** Puts each argument on its parameter and converts it; undefined where one does not fit. */
function matchArguments(
  scope: Scope,
  typeOf: TypeOf,
  call: CallExpression,
  slots: readonly Slot[],
  flowing: Typed | undefined,
): Map<string, Typed> | undefined {
  const operation = call.callee.name;
  const args = new Map<string, Typed>();
  let fits = true;
  const put = (slot: Slot, typed: Typed, e: Expression | undefined): void => {
    const given = accept(scope, operation, slot, typed, e);
    if (given) args.set(slot.name, given);
    else fits = false;
  };
  const positional = slots.filter((s) => !s.named);
  let next = 0;
  if (flowing) {
    const first = positional[next++];
    if (first) put(first, flowing, undefined);
    else {
      scope.found.add(say.tooManyArguments(operation, 0), call.callee);
      fits = false;
    }
  }
  for (const arg of call.args) {
    const slot = arg.name ? slots.find((s) => s.name === arg.name?.name) : positional[next++];
    if (!slot) {
      fits = false;
      if (arg.name) {
        const names = slots.map((s) => s.name).filter((n) => !args.has(n));
        scope.found.add(
          say.unknownArgument(operation, arg.name.name, names),
          arg.name,
          replaceBy(arg.name, nearest(arg.name.name, names)),
        );
      } else scope.found.add(say.tooManyArguments(operation, positional.length - (flowing ? 1 : 0)), arg);
      continue;
    }
    if (args.has(slot.name)) {
      scope.found.add(say.argumentTwice(operation, slot.name), arg);
      fits = false;
      continue;
    }
    const keyword =
      slot.accepts.includes('keyword') && arg.value.kind === 'name'
        ? slot.record?.options?.find((o) => arg.value.kind === 'name' && o === arg.value.name)
        : undefined;
    if (keyword !== undefined)
      args.set(slot.name, { kind: 'keyword', type: 'keyword', word: keyword, from: arg.value.from, to: arg.value.to });
    else if (slot.accepts.includes('keyword') && arg.value.kind === 'name') {
      const options = slot.record?.options ?? [];
      scope.found.add(
        say.keyword(operation, slot.name, options),
        arg.value,
        replaceBy(arg.value, nearest(arg.value.name, options)),
      );
      fits = false;
    } else if ((slot.accepts.includes('image') || slot.accepts.includes('ramp')) && arg.value.kind === 'name') {
      const declared = declaredArgument(scope, slot, arg.value);
      if (declared) args.set(slot.name, declared);
      else fits = false;
    } else put(slot, typeOf(arg.value), arg.value);
  }
  for (const slot of slots) {
    if (!slot.needed || args.has(slot.name) || !fits) continue;
    scope.found.add(
      say.missingArgument(
        operation,
        slot.name,
        slot.accepts.includes('keyword') ? 'one of its words' : expected(slot.accepts),
      ),
      call.callee,
    );
    fits = false;
  }
  return fits ? args : undefined;
}

/** An image or ramp named as an argument; the message lists what there is of its kind. */
function declaredArgument(scope: Scope, slot: Slot, e: Expression & { kind: 'name' }): Typed | undefined {
  const kind = slot.accepts.includes('image') ? 'image' : 'ramp';
  const { name, from, to } = e;
  const parameter = scope.parameters.get(name);
  if (parameter?.type === kind) return { kind: 'parameter', type: kind, index: parameter.index, from, to };
  const image = scope.images.get(name);
  const ramp = scope.ramps.get(name);
  if (kind === 'image' && image) return { kind: 'image', type: 'image', image, from, to };
  if (kind === 'ramp' && ramp) return { kind: 'ramp', type: 'ramp', ramp, from, to };
  const names = [...(kind === 'image' ? scope.images : scope.ramps).keys()];
  scope.found.add(
    say.unknownName(name, kind),
    e,
    replaceBy(e, nearest(name, names) ?? (names.length === 1 ? names[0] : undefined)),
  );
  return undefined;
}

const convert = (type: ValueType, into: 'color' | 'radians' | ValueType, of: Typed): Typed => ({
  kind: 'convert',
  type,
  into,
  of,
  from: of.from,
  to: of.to,
});

const isUnit = (type: TypeName): boolean => type === 'time' || type === 'rate' || type === 'angle';

/** The argument as its parameter takes it, or undefined, with a message, where it does not fit. */
function accept(
  scope: Scope,
  operation: string,
  slot: Slot,
  typed: Typed,
  e: Expression | undefined,
): Typed | undefined {
  const { type } = typed;
  const { accepts } = slot;
  if (type === 'unknown') {
    // A neutral of the first accepted type stands in for what is in error.
    const [first] = accepts;
    const as: ValueType =
      first === 'vec2' || first === 'vec3' || first === 'vec4'
        ? first
        : first === 'color'
          ? 'vec4'
          : first === 'time' || first === 'rate' || first === 'angle'
            ? first
            : 'number';
    return first === 'image' || first === 'ramp' || first === 'keyword' ? undefined : convert(as, as, typed);
  }
  if (accepts.some((a) => a === type)) {
    if (slot.record) checkBounds(scope, operation, slot.record, typed);
    return typed;
  }
  for (const a of accepts) {
    if (a === 'quantity' && isValue(type)) return typed;
    if (a === 'vector' && isValue(type) && isPlain(type)) return typed;
    if (a === 'radians' && isValue(type) && isPlain(type)) return typed;
    if (a === 'radians' && type === 'angle') return convert('number', 'radians', typed);
    if (a === 'color' && (type === 'vec4' || type === 'vec3' || type === 'number'))
      return type === 'vec4' ? typed : convert('vec4', 'color', typed);
  }
  scope.found.add(
    say.argument(operation, slot.name, expected(accepts), withArticle(type)),
    typed,
    e ? argumentFixes(accepts, type, e) : [],
  );
  return undefined;
}

function argumentFixes(accepts: readonly Accepts[], type: TypeName, e: Expression): Fix[] {
  const after = (insert: string): Fix => {
    const wrap = e.kind === 'binary' || e.kind === 'pipe' || e.kind === 'unary';
    const edits = wrap
      ? [
          { from: e.from, to: e.from, insert: '(' },
          { from: e.to, to: e.to, insert: `)${insert}` },
        ]
      : [{ from: e.to, to: e.to, insert }];
    return { title: wrap ? `Add${insert.startsWith(' ') ? '' : ' '}${insert}` : `Write ${shown(e)}${insert}`, edits };
  };
  const shown = (of: Expression): string =>
    of.kind === 'number' ? String(of.value) : of.kind === 'name' ? of.name : '…';
  const [wanted] = accepts;
  if (type === 'number' && wanted && isUnit(wanted as TypeName)) {
    const literal =
      e.kind === 'number'
        ? String(e.value)
        : e.kind === 'unary' && e.operand.kind === 'number'
          ? `-${String(e.operand.value)}`
          : undefined;
    if (literal !== undefined)
      return unitsFor(wanted, literal).map((unit) => ({
        title: `Write ${literal}${unit}`,
        edits: [{ from: e.to, to: e.to, insert: unit }],
      }));
    return [after(wanted === 'rate' ? ' * 1 lap' : wanted === 'time' ? ' * 1s' : ' * 1turn')];
  }
  if (accepts.includes('number') && isValue(type) && isVector(type)) return [after('.x')];
  if (accepts.includes('vec2') && isValue(type) && componentsOf(type) > 2) return [after('.xy')];
  if (accepts.includes('vec3') && type === 'vec4') return [after('.xyz')];
  if (accepts.includes('vec2') && type === 'number' && e.kind === 'number')
    return [
      {
        title: `Write (${String(e.value)}, ${String(e.value)})`,
        edits: [{ from: e.from, to: e.to, insert: `(${String(e.value)}, ${String(e.value)})` }],
      },
    ];
  if (accepts.includes('number') && e.kind === 'number' && isUnit(type))
    return [{ title: `Write ${String(e.value)}`, edits: [{ from: e.from, to: e.to, insert: String(e.value) }] }];
  return [];
}

/** Constants that must be known, whole or within bounds. */
function checkBounds(scope: Scope, operation: string, p: OperationParameter, typed: Typed): void {
  const constant =
    typed.kind === 'constant'
      ? typed.value
      : typed.kind === 'negate' && typed.of.kind === 'constant'
        ? typed.of.value.map((v) => -v)
        : undefined;
  if (!constant) {
    if (p.constant) scope.found.add(say.mustBeConstant(operation, p.name), typed);
    return;
  }
  if (p.strict && p.range && constant.some((v) => v < (p.range?.[0] ?? 0) || v > (p.range?.[1] ?? 0))) {
    const [low, high] = p.range;
    const clamped = String(Math.min(Math.max(Math.round(constant[0] ?? 0), low), high));
    scope.found.add(
      say.argumentRange(operation, p.name, `${String(low)} to ${String(high)}`),
      typed,
      replaceBy(typed, clamped),
    );
  } else if (p.whole && constant.some((v) => v !== Math.max(1, Math.round(v)))) {
    const used = String(Math.max(1, Math.round(constant[0] ?? 1)));
    scope.found.add(say.roundedWhole(operation, p.name, String(constant[0]), used), typed, replaceBy(typed, used));
  }
}

/** The one type of all `vector` or `quantity` arguments, or undefined where they differ. */
function widest(operation: Operation, args: ReadonlyMap<string, Typed>): ValueType | undefined {
  const types = operation.parameters
    .filter((p) => p.accepts.some((a) => a === 'vector' || a === 'quantity' || a === 'radians'))
    .map((p) => args.get(p.name)?.type)
    .filter((t): t is ValueType => t !== undefined && isValue(t));
  const units = types.filter((t) => !isPlain(t));
  if (units.length > 0) return types.every((t) => t === units[0]) ? units[0] : undefined;
  const widths = [...new Set(types.map(componentsOf))].filter((n) => n > 1);
  return widths.length > 1 ? undefined : vectorOf(widths[0] ?? 1);
}

function finishOperation(
  scope: Scope,
  call: CallExpression,
  operation: Operation,
  args: Map<string, Typed>,
  off: Span | undefined,
  whole: Expression,
): Typed {
  const { name } = operation;
  const complaint = operation.needs?.(new Set(args.keys()));
  if (complaint !== undefined) {
    scope.found.add(say.needs(name, complaint), call.callee);
    return errorAt(whole);
  }
  const common = widest(operation, args);
  if (!common) {
    const types = [...args.values()].filter((t) => isValue(t.type)).map((t) => withArticle(t.type));
    scope.found.add(say.unlike(name, types), call);
    return errorAt(whole);
  }
  const type = operation.result === 'widest' ? common : operation.result;
  for (const p of operation.parameters) {
    const arg = args.get(p.name);
    const general = p.accepts.some((a) => a === 'vector' || a === 'quantity');
    if (arg && general && arg.type === 'number' && common !== 'number') args.set(p.name, convert(common, common, arg));
  }
  const first = args.get(operation.parameters[0]?.name ?? '');
  if (off && first && first.type !== type) {
    scope.found.add(say.offStageType(name, withArticle(first.type), withArticle(type)), off);
    return errorAt(whole);
  }
  const coordinates =
    (operation.keepsCoordinates ?? false) || (operation.result === 'widest' && (first?.coordinates ?? false));
  return {
    kind: 'call',
    type,
    operation,
    args,
    off: off !== undefined,
    coordinates: coordinates && (first?.coordinates ?? false),
    from: whole.from,
    to: whole.to,
  };
}

function finishUser(
  scope: Scope,
  call: CallExpression,
  user: UserOperationEntry,
  slots: readonly Slot[],
  args: Map<string, Typed>,
  off: Span | undefined,
  whole: Expression,
): Typed {
  const { name } = user.head;
  if (user.open) {
    scope.found.add(say.recursion(name), call.callee);
    return errorAt(whole);
  }
  user.check();
  const type = user.body?.result.type ?? 'unknown';
  if (type === 'unknown') return errorAt(whole);
  const list = slots.map((slot, i) => args.get(slot.name) ?? user.head.parameters[i]?.value ?? errorAt(call));
  const [first] = list;
  if (off && first && first.type !== type) {
    scope.found.add(say.offStageType(name, withArticle(first.type), withArticle(type)), off);
    return errorAt(whole);
  }
  if (off && first) return first;
  return {
    kind: 'expand',
    type,
    operation: () => user.body,
    args: list,
    coordinates: type === 'vec2' && list.some((a) => a.coordinates),
    from: whole.from,
    to: whole.to,
  };
}
