import { Diagnostics } from '../diagnostics/diagnostic.ts';
import { nearest, say, withArticle } from '../diagnostics/wording.ts';
import type {
  Identifier,
  OperationStatement,
  OutputStatement,
  Statement,
  StepStatement,
  SyntaxTree,
} from '../lang/tree.ts';
import type { Accepts } from '../ops/operation.ts';
import { operationNamed } from '../ops/table.ts';
import { VALUE_TYPES, type ValueType } from '../ops/value-type.ts';
import { checkExpression } from './expressions.ts';
import { fitsDial, literalValue } from './literals.ts';
import {
  CHANNELS,
  CHANNEL_TYPES,
  type Dial,
  type ImageDeclaration,
  type Program,
  type RampDeclaration,
  type Step,
  type Switch,
  type Typed,
  type TypeName,
  type UserOperation,
} from './program.ts';
import { isValue, nameOf, type Scope, type UserOperationEntry } from './scope.ts';
import {
  checkDial,
  checkImage,
  checkLoop,
  checkRamp,
  checkSurface,
  checkSwitch,
  checkVariant,
  DEFAULT_LOOP,
  IMAGE_LIMIT,
  isRepeat,
  replaceBy,
} from './settings.ts';

/**
 * Checks a tree: names, types, units and settings. Never throws; what is wrong is in the program's
 * diagnostics (the parser's among them), and the step it stands in counts as neutral.
 */
export function check(tree: SyntaxTree): Program {
  const found = new Diagnostics();
  for (const { code, severity, message, from, to, fixes } of tree.diagnostics)
    found.add({ code, severity, message }, { from, to }, fixes);
  const settings = readSettings(tree.statements, found);
  const steps = new Map<string, Step>();
  const scope: Scope = { found, ...settings, steps, parameters: new Map() };
  declareOperations(tree.statements, scope, settings.operations);
  for (const entry of settings.operations.values()) entry.check();

  const lines: Step[] = [];
  const outputs = new Map<string, Step>();
  for (const statement of tree.statements) {
    if (statement.kind === 'step') {
      const kind = takenBy(statement.name.name, settings);
      if (kind) found.add(say.nameTaken(statement.name.name, kind), statement.name);
      const step = checkStep(scope, statement, lines.length);
      lines.push(step);
      if (!kind) steps.set(step.name, step);
    } else if (statement.kind === 'out') {
      const output = checkOutput(scope, statement, lines.length);
      if (!output) continue;
      const earlier = outputs.get(output.name);
      if (earlier && !output.off) found.add(say.outputTwice(output.name), earlier.span);
      if (!output.off) outputs.set(output.name, output);
      lines.push(output);
    }
  }
  if (outputs.size === 0 && tree.text.trim() !== '')
    found.add(say.noOutput(), { from: tree.text.trimEnd().length, to: tree.text.trimEnd().length });

  const variants = [];
  const variantNames = new Set<string>();
  for (const statement of tree.statements) {
    if (statement.kind !== 'variant') continue;
    if (variantNames.has(statement.title))
      found.add(say.twice(`The variant "${statement.title}"`), statement.titleSpan);
    variantNames.add(statement.title);
    variants.push(checkVariant(statement, settings.dials, settings.switches, settings.loop, found));
  }
  const diagnostics = found.all();
  return {
    tree,
    title: settings.title,
    loop: settings.loop,
    surface: settings.surface,
    dials: [...settings.dials.values()],
    switches: [...settings.switches.values()],
    images: [...settings.images.values()],
    ramps: [...settings.ramps.values()],
    operations: [...settings.operations.values()].flatMap((o) => (o.body ? [o.body] : [])),
    variants,
    steps: lines,
    diagnostics,
    ok: diagnostics.every((d) => d.severity !== 'error'),
  };
}

interface Settings {
  title: string;
  loop: Program['loop'];
  surface: Program['surface'];
  dials: Map<string, Dial>;
  switches: Map<string, Switch>;
  images: Map<string, ImageDeclaration>;
  ramps: Map<string, RampDeclaration>;
  operations: Map<string, UserOperationEntry>;
}

const takenBy = (name: string, s: Settings): string | undefined =>
  s.dials.has(name)
    ? 'a dial'
    : s.switches.has(name)
      ? 'a switch'
      : s.images.has(name)
        ? 'an image'
        : s.ramps.has(name)
          ? 'a ramp'
          : undefined;

/** Everything but steps, outputs and variants; these may stand anywhere in the text. */
function readSettings(statements: readonly Statement[], found: Diagnostics): Settings {
  const s: Settings = {
    title: '',
    loop: DEFAULT_LOOP,
    surface: { lit: false, mode: 'opaque', twoSided: false },
    dials: new Map(),
    switches: new Map(),
    images: new Map(),
    ramps: new Map(),
    operations: new Map(),
  };
  const seen = new Set<string>();
  // The loop first: laps and frames in any other line are counted by it.
  for (const statement of statements)
    if (statement.kind === 'loop' && !isRepeat(statement, seen, found, 'The loop'))
      s.loop = checkLoop(statement, found);
  const declare = <T>(map: Map<string, T>, name: Identifier, make: () => T): void => {
    const value = make();
    const taken = takenBy(name.name, s);
    if (taken) found.add(say.nameTaken(name.name, taken), name);
    else map.set(name.name, value);
  };
  for (const statement of statements) {
    switch (statement.kind) {
      case 'material':
        if (!isRepeat(statement, seen, found, 'The title')) s.title = statement.title;
        break;
      case 'surface':
        if (!isRepeat(statement, seen, found, 'The surface')) s.surface = checkSurface(statement, found);
        break;
      case 'dial':
        declare(s.dials, statement.name, () => checkDial(statement, s.loop, found));
        break;
      case 'switch':
        declare(s.switches, statement.name, () => checkSwitch(statement, found));
        break;
      case 'image':
        if (s.images.size >= IMAGE_LIMIT) found.add(say.tooManyImages(IMAGE_LIMIT), statement.name);
        else declare(s.images, statement.name, () => checkImage(statement, found));
        break;
      case 'ramp':
        declare(s.ramps, statement.name, () => checkRamp(statement, found));
        break;
      default:
    }
  }
  return s;
}

function checkStep(scope: Scope & { steps: ReadonlyMap<string, Step> }, statement: StepStatement, index: number): Step {
  const value = checkExpression(scope, statement.value);
  const before = scope.steps.get(statement.name.name);
  let type: Step['type'] = isValue(value.type) ? value.type : 'unknown';
  if (value.type === 'image' || value.type === 'ramp' || value.type === 'keyword') {
    scope.found.add(say.onlyArgument(nameOf(value), withArticle(value.type)), value);
  }
  if (statement.off && before) type = before.type;
  return {
    index,
    kind: 'step',
    name: statement.name.name,
    off: statement.off !== undefined,
    ...(statement.off && before ? { before } : {}),
    type,
    coordinates: (statement.off && before ? before.coordinates : value.coordinates) ?? false,
    value,
    span: { from: statement.from, to: statement.to },
    nameSpan: statement.name,
  };
}

function checkOutput(scope: Scope, statement: OutputStatement, index: number): Step | undefined {
  const { name } = statement.channel;
  let value = checkExpression(scope, statement.value);
  const channel = CHANNELS.find((c) => c === name);
  if (!channel) {
    scope.found.add(
      say.unknownChannel(name, CHANNELS),
      statement.channel,
      replaceBy(statement.channel, nearest(name, CHANNELS)),
    );
    return undefined;
  }
  const wanted = CHANNEL_TYPES[channel];
  const { from, to } = value;
  const error: Typed = { kind: 'error', type: 'unknown', from, to };
  if (wanted === 'color') {
    if (value.type === 'vec3' || value.type === 'number')
      value = { kind: 'convert', type: 'vec4', into: 'color', of: value, from, to };
  } else if (wanted === 'vec3' && value.type === 'vec4')
    value = { kind: 'swizzle', type: 'vec3', of: value, indices: [0, 1, 2], from, to };
  const type: ValueType = wanted === 'color' ? 'vec4' : wanted;
  if (value.type !== type && value.type !== 'unknown') {
    const fixes =
      wanted === 'number' && (value.type === 'vec4' || value.type === 'vec3' || value.type === 'vec2')
        ? [
            {
              title: 'Take .x',
              edits: [
                { from: value.from, to: value.from, insert: '(' },
                { from: value.to, to: value.to, insert: ').x' },
              ],
            },
          ]
        : [];
    scope.found.add(
      say.outputType(name, withArticle(wanted === 'color' ? 'colour' : wanted), withArticle(value.type)),
      value,
      fixes,
    );
    value = error;
  }
  return {
    index,
    kind: 'out',
    name,
    off: statement.off !== undefined,
    type,
    coordinates: false,
    value,
    span: { from: statement.from, to: statement.to },
    nameSpan: statement.channel,
  };
}

const PARAMETER_TYPES = [...VALUE_TYPES, 'color', 'laps', 'image', 'ramp'] as const;

function declareOperations(
  statements: readonly Statement[],
  scope: Scope,
  operations: Map<string, UserOperationEntry>,
): void {
  for (const statement of statements) {
    if (statement.kind !== 'op') continue;
    const { name } = statement.name;
    if (operationNamed(name) ?? operations.get(name)) {
      scope.found.add(say.nameTaken(name, 'an operation'), statement.name);
      continue;
    }
    operations.set(name, userOperation(statement, scope));
  }
}

function userOperation(statement: OperationStatement, scope: Scope): UserOperationEntry {
  const parameters: UserOperation['parameters'] = statement.parameters.map((p) => {
    const given = p.type?.name;
    const known = PARAMETER_TYPES.find((t) => t === given);
    if (p.type && !known)
      scope.found.add(
        say.unknownType(p.type.name, PARAMETER_TYPES),
        p.type,
        replaceBy(p.type, nearest(p.type.name, PARAMETER_TYPES)),
      );
    const accepts: Accepts = known === 'laps' ? 'rate' : (known ?? 'number');
    const type: TypeName = known ? (accepts === 'color' ? 'vec4' : accepts) : 'unknown';
    let value: Typed | undefined;
    if (p.value) {
      const literal = literalValue(p.value, scope.loop);
      const fits = literal && (known === 'laps' ? fitsDial('laps', literal) : literal.type === type);
      if (fits)
        value = {
          kind: 'constant',
          type,
          value: literal.value,
          ...((literal.inLaps ?? known === 'laps') ? { inLaps: true } : {}),
          from: p.value.from,
          to: p.value.to,
        };
      else
        scope.found.add(
          say.literalType(`The default of '${p.name.name}'`, withArticle(known ?? 'value'), 'something else'),
          p.value,
        );
    }
    return { name: p.name.name, type, accepts, ...(value ? { value } : {}) };
  });
  const head = {
    name: statement.name.name,
    parameters,
    span: { from: statement.from, to: statement.to },
    nameSpan: statement.name,
  };
  const entry: UserOperationEntry = {
    head,
    open: false,
    check: () => {
      if (entry.body) return;
      entry.open = true;
      const steps = new Map<string, Step>();
      const inner: Scope = {
        ...scope,
        steps,
        parameters: new Map(parameters.map((p, i) => [p.name, { index: i, type: p.type }])),
      };
      const lines = statement.steps.map((s, i) => {
        const step = checkStep(inner, s, i);
        steps.set(step.name, step);
        return step;
      });
      const result = checkExpression(inner, statement.result);
      entry.open = false;
      entry.body = { ...head, steps: lines, result };
    },
  };
  return entry;
}
