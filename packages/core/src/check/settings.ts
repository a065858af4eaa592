import type { Diagnostics, Fix, Span } from '../diagnostics/diagnostic.ts';
import { nearest, say, withArticle } from '../diagnostics/wording.ts';
import type {
  DialStatement,
  Expression,
  Identifier,
  ImageStatement,
  LoopStatement,
  RampStatement,
  Statement,
  SurfaceStatement,
  SwitchStatement,
  VariantStatement,
} from '../lang/tree.ts';
import { colorOfHex, hexOfColor } from '../ops/value-type.ts';
import { fitsDial, LITERAL_FORMS, literalText, literalValue, unitsFor } from './literals.ts';
import {
  DIAL_TYPES,
  type Dial,
  type DialType,
  type ImageDeclaration,
  type Loop,
  type RampDeclaration,
  type Surface,
  type Switch,
  type Variant,
} from './program.ts';

export const IMAGE_LIMIT = 64;
export const STOP_LIMIT = 32;
export const DEFAULT_LOOP: Loop = { seconds: 4, fps: 30, frames: 120 };

/** An edit that writes one word for another, where a likely one is known. */
export function replaceBy(span: Span, word: string | undefined): Fix[] {
  return word === undefined
    ? []
    : [{ title: `Write ${word}`, edits: [{ from: span.from, to: span.to, insert: word }] }];
}

export function checkLoop(statement: LoopStatement, found: Diagnostics): Loop {
  const { time, fps } = statement;
  if (!time || !fps) return DEFAULT_LOOP;
  if (time.unit !== 's' && time.unit !== 'ms') {
    found.add(
      say.literalType(
        'The loop',
        'a time such as 4s',
        time.unit ? `a number of ${time.unit}` : 'a number without a unit',
      ),
      time,
      [{ title: 'Write seconds', edits: [{ from: time.from, to: time.to, insert: `${String(time.value)}s` }] }],
    );
    return DEFAULT_LOOP;
  }
  if (fps.unit !== 'fps') {
    found.add(
      say.literalType('The frame rate', 'a number of frames a second such as 30fps', 'a number without fps'),
      fps,
      [{ title: 'Write fps', edits: [{ from: fps.from, to: fps.to, insert: `${String(fps.value)}fps` }] }],
    );
    return DEFAULT_LOOP;
  }
  const seconds = time.unit === 'ms' ? time.value / 1000 : time.value;
  if (!(seconds > 0 && seconds <= 3600 && fps.value >= 1 && fps.value <= 240)) {
    found.add(say.loopRange(), { from: time.from, to: fps.to });
    return DEFAULT_LOOP;
  }
  const frames = Math.round(seconds * fps.value);
  if (frames < 1 || Math.abs(frames - seconds * fps.value) > 1e-4) {
    const near = Math.max(1, frames) / fps.value;
    found.add(say.loopNotWhole(seconds, fps.value), time, replaceBy(time, `${String(Number(near.toPrecision(7)))}s`));
    return { seconds: near, fps: fps.value, frames: Math.max(1, frames) };
  }
  // A length such as 1.066667s means 32 frames at 30 fps, exactly.
  return { seconds: frames / fps.value, fps: fps.value, frames };
}

const SURFACE_WORDS: Record<string, Partial<Surface>> = {
  lit: { lit: true },
  unlit: { lit: false },
  opaque: { mode: 'opaque' },
  mask: { mode: 'mask' },
  blend: { mode: 'blend' },
  add: { mode: 'add' },
  'one-sided': { twoSided: false },
  'two-sided': { twoSided: true },
};

/** Reads words that each settle one property; two that settle the same one clash. */
function checkWords<T extends object>(
  words: readonly Identifier[],
  table: Record<string, Partial<T>>,
  start: T,
  found: Diagnostics,
): T {
  let result = start;
  const by = new Map<string, string>();
  for (const word of words) {
    const sets = table[word.name];
    if (!sets) {
      found.add(
        say.unknownWord(word.name, Object.keys(table)),
        word,
        replaceBy(word, nearest(word.name, Object.keys(table))),
      );
      continue;
    }
    for (const key of Object.keys(sets)) {
      const other = by.get(key);
      if (other !== undefined)
        found.add(say.twoWords(other, word.name), word, [
          { title: `Remove ${word.name}`, edits: [{ from: word.from, to: word.to, insert: '' }] },
        ]);
      by.set(key, word.name);
    }
    result = { ...result, ...sets };
  }
  return result;
}

export function checkSurface(statement: SurfaceStatement, found: Diagnostics): Surface {
  return checkWords(statement.words, SURFACE_WORDS, { lit: false, mode: 'opaque', twoSided: false }, found);
}

/** A literal that must fit a dial's type; reports and gives undefined where it does not. */
function dialLiteral(
  what: string,
  type: DialType,
  expression: Expression,
  loop: Loop,
  found: Diagnostics,
): readonly number[] | undefined {
  if (expression.kind === 'missing') return undefined;
  const literal = literalValue(expression, loop);
  if (!literal) {
    found.add(say.notLiteral(what), expression);
    return undefined;
  }
  if (!fitsDial(type, literal)) {
    const fixes = literal.bare
      ? unitsFor(type, literal.value[0] ?? 0).map((unit) => ({
          title: `Write ${String(literal.value[0])}${unit}`,
          edits: [{ from: expression.to, to: expression.to, insert: unit }],
        }))
      : [];
    found.add(
      say.literalType(
        what,
        LITERAL_FORMS[type],
        literal.type === 'vec4' ? 'a colour' : literal.bare ? 'a plain number' : withArticle(literal.type),
      ),
      expression,
      fixes,
    );
    return undefined;
  }
  return literal.value;
}

export function checkDial(statement: DialStatement, loop: Loop, found: Diagnostics): Dial {
  const name = statement.name.name;
  let type: DialType = 'number';
  if (statement.type) {
    const given = statement.type.name;
    const known = DIAL_TYPES.find((t) => t === given);
    if (known) type = known;
    else
      found.add(
        say.unknownType(given, DIAL_TYPES),
        statement.type,
        replaceBy(statement.type, nearest(given, DIAL_TYPES)),
      );
  } else {
    // Without a type the default's own form tells, where it is unmistakable.
    const literal = literalValue(statement.value, loop);
    const meant =
      literal && !literal.bare
        ? literal.inLaps
          ? 'laps'
          : literal.type === 'vec4'
            ? 'color'
            : DIAL_TYPES.find((t) => t === literal.type)
        : undefined;
    if (meant && meant !== 'number') {
      found.add(
        say.literalType(`The default of '${name}'`, LITERAL_FORMS.number, `meant for a ${meant} dial`),
        statement.value,
        [
          {
            title: `Write ${name}: ${meant}`,
            edits: [{ from: statement.name.to, to: statement.name.to, insert: `: ${meant}` }],
          },
        ],
      );
      type = meant;
    }
  }
  const value = dialLiteral(`The default of '${name}'`, type, statement.value, loop, found);
  const neutral = type === 'color' ? [1, 1, 1, 1] : type === 'vec2' ? [0, 0] : [0];
  const rangeType = type === 'vec2' ? 'number' : type;
  let low, high, step;
  if (statement.low && statement.high) {
    if (type === 'color') found.add(say.noRange('color'), { from: statement.low.from, to: statement.high.to });
    else {
      low = dialLiteral('The low end', rangeType, statement.low, loop, found)?.[0];
      high = dialLiteral('The high end', rangeType, statement.high, loop, found)?.[0];
      if (low !== undefined && high !== undefined && low >= high) {
        found.add(say.emptyRange(), { from: statement.low.from, to: statement.high.to });
        low = high = undefined;
      }
    }
  }
  if (statement.by) {
    step = dialLiteral('The step', rangeType, statement.by, loop, found)?.[0];
    if (step !== undefined && step <= 0) {
      found.add(say.badStep(), statement.by);
      step = undefined;
    }
  } else if (type === 'laps') step = 1;
  const dial: Dial = {
    name,
    type,
    value: value ?? neutral,
    ...(low !== undefined && high !== undefined ? { low, high } : {}),
    ...(step !== undefined ? { step } : {}),
    help: statement.help ?? '',
    span: statement,
    nameSpan: statement.name,
    valueSpan: statement.value,
  };
  if (value) checkRange(`The default of '${name}'`, dial, value, statement.value, loop, found);
  return dial;
}

/** Says so where a value lies outside its dial's range; the fix writes the nearest end. */
function checkRange(
  what: string,
  dial: Dial,
  value: readonly number[],
  span: Span,
  loop: Loop,
  found: Diagnostics,
): void {
  const { low, high } = dial;
  if (low === undefined || high === undefined) return;
  const slack = 1e-9 * Math.max(Math.abs(low), Math.abs(high));
  if (value.every((v) => v >= low - slack && v <= high + slack)) return;
  const text = (v: readonly number[]): string =>
    literalText(v.length === 1 && dial.type === 'vec2' ? 'number' : dial.type, v, loop, hexOfColor);
  const clamped = text(value.map((v) => Math.min(Math.max(v, low), high)));
  found.add(say.outOfRange(what, text(value), `${text([low])}..${text([high])}`), span, replaceBy(span, clamped));
}

export function checkSwitch(statement: SwitchStatement, found: Diagnostics): Switch {
  const { value } = statement;
  if (value.kind !== 'on-off' && value.kind !== 'missing')
    found.add(
      say.literalType(`The switch '${statement.name.name}'`, 'on or off', 'something else'),
      value,
      replaceBy(value, 'on'),
    );
  return {
    name: statement.name.name,
    on: value.kind === 'on-off' && value.on,
    help: statement.help ?? '',
    span: statement,
    nameSpan: statement.name,
    valueSpan: value,
  };
}

const IMAGE_WORDS: Record<string, Partial<ImageDeclaration>> = {
  repeat: { wrap: 'repeat' },
  mirror: { wrap: 'mirror' },
  clamp: { wrap: 'clamp' },
  linear: { filter: 'linear' },
  nearest: { filter: 'nearest' },
  color: { encoding: 'color' },
  data: { encoding: 'data' },
  normal: { encoding: 'normal' },
};

export function checkImage(statement: ImageStatement, found: Diagnostics): ImageDeclaration {
  const start: ImageDeclaration = {
    name: statement.name.name,
    source: statement.source,
    wrap: 'repeat',
    filter: 'linear',
    encoding: 'color',
    span: statement,
    nameSpan: statement.name,
    sourceSpan: statement.sourceSpan,
  };
  return checkWords(statement.words, IMAGE_WORDS, start, found);
}

const EASINGS = ['linear', 'smooth', 'stepped'] as const;

export function checkRamp(statement: RampStatement, found: Diagnostics): RampDeclaration {
  const { stops, word } = statement;
  if (stops.length < 2 && statement.to > statement.name.to + 3) found.add(say.rampFew(), statement.name);
  if (stops.length > STOP_LIMIT) found.add(say.rampMany(STOP_LIMIT), stops[STOP_LIMIT] ?? statement);
  let before = 0;
  const table = stops.slice(0, STOP_LIMIT).map((stop) => {
    let at = stop.at.unit === '%' ? stop.at.value / 100 : stop.at.value;
    if (stop.at.unit !== undefined && stop.at.unit !== '%')
      found.add(say.literalType('A stop', 'a position such as 40%', `a number of ${stop.at.unit}`), stop.at);
    else if (at < 0 || at > 1) found.add(say.rampRange(), stop.at);
    else if (at < before) found.add(say.rampOrder(), stop.at);
    at = Math.min(Math.max(at, before), 1);
    before = at;
    return { at, color: colorOfHex(stop.color.hex) };
  });
  const easing = word ? EASINGS.find((e) => e === word.name) : 'linear';
  if (word && !easing)
    found.add(say.unknownWord(word.name, EASINGS), word, replaceBy(word, nearest(word.name, EASINGS)));
  return {
    name: statement.name.name,
    stops: table,
    easing: easing ?? 'linear',
    span: statement,
    nameSpan: statement.name,
  };
}

export function checkVariant(
  statement: VariantStatement,
  dials: ReadonlyMap<string, Dial>,
  switches: ReadonlyMap<string, Switch>,
  loop: Loop,
  found: Diagnostics,
): Variant {
  const values = new Map<string, readonly number[]>();
  for (const entry of statement.entries) {
    const { name } = entry.name;
    if (values.has(name)) found.add(say.variantTwice(name), entry.name);
    const dial = dials.get(name);
    if (dial) {
      const value = dialLiteral(`'${name}'`, dial.type, entry.value, loop, found);
      if (value) {
        checkRange(`'${name}'`, dial, value, entry.value, loop, found);
        values.set(name, value);
      }
    } else if (switches.has(name)) {
      if (entry.value.kind === 'on-off') values.set(name, [entry.value.on ? 1 : 0]);
      else
        found.add(
          say.literalType(`The switch '${name}'`, 'on or off', 'something else'),
          entry.value,
          replaceBy(entry.value, 'on'),
        );
    } else {
      found.add(
        say.unknownName(name, 'dial or switch'),
        entry.name,
        replaceBy(entry.name, nearest(name, [...dials.keys(), ...switches.keys()])),
      );
    }
  }
  return { name: statement.title, span: statement, values };
}

/** Settings that may be given once. */
export function isRepeat(statement: Statement, seen: Set<string>, found: Diagnostics, what: string): boolean {
  if (seen.has(statement.kind)) {
    found.add(say.twice(what), statement);
    return true;
  }
  seen.add(statement.kind);
  return false;
}
