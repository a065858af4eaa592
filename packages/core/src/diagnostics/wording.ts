import type { Message, Severity } from './diagnostic.ts';

const finding =
  (severity: Severity) =>
  (code: string, message: string): Message => ({ code, severity, message });
const error = finding('error');
const warning = finding('warning');
const note = finding('note');

const listed = (words: readonly string[], joint = 'or'): string =>
  words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} ${joint} ${words.at(-1) ?? ''}`;
const figure = (v: number): string => String(Number(v.toPrecision(3)));
const ways = (shifts: readonly string[]): string =>
  listed(
    shifts.map((s) => (s === 'tile_u' ? 'horizontally' : 'vertically')),
    'and',
  );
const quoted = (words: readonly string[]): string => listed(words.map((w) => `'${w}'`));

/**
 * Every sentence Estela says about a text, in one place: what was found, what was expected, the cure.
 * Each entry gives the code and severity with it.
 */
export const say = {
  // Reading the text.
  tooLong: (limit: number) =>
    error('text-too-long', `The text is longer than ${String(limit)} characters; split it into several materials.`),
  badCharacter: (got: string) => error('bad-character', `'${got}' has no meaning here.`),
  unclosedString: () => error('unclosed-text', 'This text has no closing quote: add a " at its end.'),
  badColor: (got: string) => error('bad-color', `'${got}' is not a colour: write #rgb, #rrggbb or #rrggbbaa.`),
  expected: (what: string, got: string) => error('expected', `Expected ${what}, but got ${got}.`),
  unclosedBracket: (open: string, close: string) =>
    error('unclosed-bracket', `This '${open}' has no closing bracket: add '${close}'.`),
  strayBracket: (close: string) => error('stray-bracket', `This '${close}' has no opening bracket.`),
  tooDeep: (limit: number) =>
    error('too-deep', `This expression is nested more than ${String(limit)} deep; name a part of it as a step.`),
  unknownUnit: (got: string) =>
    error('unknown-unit', `'${got}' is not a unit: use s, ms, frames, deg, turn, lap, laps, /s or %.`),
  notAStatement: (got: string) =>
    error(
      'not-a-statement',
      `A line begins with a step's name and '=', or with a word such as dial, image or out; this one begins with ${got}.`,
    ),
  positionalAfterNamed: () => error('argument-order', 'Arguments without a name must come before named ones.'),
  reservedName: (name: string) => error('reserved-name', `'${name}' is a built-in value. Choose another name.`),
  unknownName: (name: string, kind: string) => error('unknown-name', `There is no ${kind} named '${name}' here.`),

  // Settings lines.
  twice: (what: string) => error('given-twice', `${what} is already set above.`),
  loopNotWhole: (seconds: number, fps: number) =>
    error(
      'loop-not-whole',
      `${String(seconds)} s at ${String(fps)} fps is ${String(Math.round(seconds * fps * 1000) / 1000)} frames; a loop must have a whole number of frames.`,
    ),
  loopRange: () => error('loop-range', 'A loop must be longer than 0 s and at most 3600 s, at 1 to 240 fps.'),
  unknownWord: (got: string, options: readonly string[]) =>
    error('unknown-word', `'${got}' is not one of ${listed(options)}.`),
  twoWords: (a: string, b: string) => error('word-clash', `'${a}' and '${b}' cannot be combined.`),
  unknownType: (got: string, options: readonly string[]) =>
    error('unknown-type', `'${got}' is not a type: use ${listed(options)}.`),
  notLiteral: (what: string) => error('not-literal', `${what} must be a plain value, such as 0.5, 2 laps or #9fd8e6.`),
  literalType: (what: string, expected: string, got: string) =>
    error('literal-type', `${what} must be ${expected}, but is ${got}.`),
  outOfRange: (what: string, value: string, range: string) =>
    error('out-of-range', `${what} is ${value}, outside its range ${range}.`),
  emptyRange: () => error('empty-range', 'The low end of this range must be below the high end.'),
  badStep: () => error('bad-step', "The step after 'by' must be above 0."),
  noRange: (type: string) => error('no-range', `A ${type} dial has no range.`),
  rampFew: () => error('ramp-stops', 'A ramp needs at least two stops.'),
  rampMany: (limit: number) => error('ramp-stops', `A ramp takes at most ${String(limit)} stops.`),
  rampOrder: () => error('ramp-order', 'The stops of a ramp must go from 0% to 100% in ascending order.'),
  rampRange: () => error('ramp-order', 'A stop must be between 0% and 100%.'),
  tooManyImages: (limit: number) => error('too-many-images', `A material takes at most ${String(limit)} images.`),
  nameTaken: (name: string, by: string) => error('name-taken', `'${name}' is already ${by}.`),
  variantTwice: (name: string) => error('given-twice', `'${name}' is already set in this variant.`),
  imageMissing: (source: string, place: 'is in this project' | 'was found') =>
    warning('image-missing', `No source named "${source}" ${place}; a test grid is shown instead.`),
  imageRefused: (source: string, why: string) =>
    warning('image-refused', `"${source}" ${why} A test grid is shown instead.`),

  // Expressions.
  unknownOperation: (name: string) => error('unknown-operation', `There is no operation named '${name}'.`),
  notAnOperation: (name: string, kind: string) =>
    error('not-an-operation', `'${name}' is ${kind}, not an operation, and cannot be called.`),
  onlyArgument: (name: string, kind: string) =>
    error('only-argument', `'${name}' is ${kind}: it can only be an argument of an operation that takes one.`),
  operationAsValue: (name: string) =>
    error('operation-as-value', `'${name}' is an operation: call it like ${name}(...).`),
  mismatch: (operator: string, left: string, right: string) =>
    error('type-mismatch', `'${operator}' cannot combine ${left} with ${right}.`),
  argument: (operation: string, parameter: string, expected: string, got: string) =>
    error('argument-type', `${operation}: '${parameter}' takes ${expected}, but got ${got}.`),
  missingArgument: (operation: string, parameter: string, expected: string) =>
    error('missing-argument', `${operation} needs '${parameter}', ${expected}.`),
  unknownArgument: (operation: string, got: string, options: readonly string[]) =>
    error(
      'unknown-argument',
      `${operation} has no argument '${got}'${options.length > 0 ? `: it takes ${listed(options, 'and')}` : ''}.`,
    ),
  argumentTwice: (operation: string, name: string) =>
    error('argument-twice', `${operation}: '${name}' is given twice.`),
  tooManyArguments: (operation: string, max: number) =>
    error(
      'too-many-arguments',
      `${operation} takes ${max === 0 ? 'no arguments' : `at most ${String(max)} argument${max === 1 ? '' : 's'}`} here.`,
    ),
  keyword: (operation: string, parameter: string, options: readonly string[]) =>
    error('argument-type', `${operation}: '${parameter}' is one of ${quoted(options)}.`),
  mustBeConstant: (operation: string, parameter: string) =>
    error('argument-constant', `${operation}: '${parameter}' must be a plain number: it is compiled into the shader.`),
  argumentRange: (operation: string, parameter: string, range: string) =>
    error('argument-range', `${operation}: '${parameter}' must be ${range}.`),
  roundedWhole: (operation: string, parameter: string, got: string, used: string) =>
    warning('whole-number', `${operation}: '${parameter}' must be a whole number; ${got} is rounded to ${used}.`),
  needs: (operation: string, complaint: string) => error('missing-argument', `${operation} needs ${complaint}.`),
  unlike: (operation: string, types: readonly string[]) =>
    error('argument-type', `${operation}: its arguments must have the same type, but are ${listed(types, 'and')}.`),
  swizzle: (parts: string, type: string) =>
    error('bad-swizzle', `'.${parts}' does not fit ${type}: use x y z w or r g b a, up to its size.`),
  swizzleLong: () => error('bad-swizzle', 'At most four components can be selected.'),
  vectorPart: (got: string) => error('vector-part', `A vector is built from numbers; this component is ${got}.`),
  vectorSize: () => error('vector-size', 'A vector has two, three or four components.'),
  negate: (got: string) => error('type-mismatch', `'-' cannot negate ${got}.`),
  offStageType: (operation: string, from: string, to: string) =>
    error('off-type', `${operation} turns ${from} into ${to}, so switching it off leaves the wrong type.`),
  recursion: (name: string) => error('recursion', `'${name}' uses itself; operations cannot call themselves.`),
  numberTooLarge: (written: string) =>
    error('number-too-large', `${written} is above 3.4e38, the largest number a pixel can hold.`),
  constantTooLarge: () =>
    error('number-too-large', 'This results in a number above 3.4e38, the largest a pixel can hold.'),
  tooManyNodes: (limit: number) =>
    error('too-many-nodes', `The material grows beyond ${String(limit)} operations when expanded; remove some.`),
  tooManySamplers: (limit: number) =>
    error('too-many-samplers', `The material reads more than ${String(limit)} images; pack some together.`),
  unknownChannel: (got: string, options: readonly string[]) =>
    error('unknown-channel', `'${got}' is not an output: use ${listed(options)}.`),
  outputType: (channel: string, expected: string, got: string) =>
    error('output-type', `out ${channel} takes ${expected}, but got ${got}.`),
  outputTwice: (channel: string) => note('output-again', `out ${channel} is set again below; the last one is used.`),
  noOutput: () => note('no-output', "No output yet: add a line such as 'out color = ...'."),

  // Loops and tiles.
  loopOpen: (step: string, distance: string | undefined) =>
    warning(
      'loop-open',
      distance === undefined
        ? `The loop does not close: ${step} does not return to its start.`
        : `The loop does not close: ${step} moves by ${distance} per loop; whole repeats would close it.`,
    ),
  scrollsPastEdge: (step: string, image: string) =>
    warning(
      'scrolls-past-edge',
      `The loop does not close: ${step} scrolls past the edge of ${image}, which is clamped, so its edge texels smear into lines.`,
    ),
  holdOpen: (step: string, steps: string) =>
    warning(
      'loop-open',
      `The loop does not close: the hold in ${step} steps ${steps} times per loop; a whole number of steps would close it.`,
    ),
  loopUnproven: (step: string) =>
    note('loop-unproven', `The loop is not proven to close: ${step} may return to its start, and no break was found.`),
  loopPresent: (dials: readonly string[]) =>
    note('loop-present', `Loops with these settings, but not at every setting of ${listed(dials, 'and')}.`),
  variantOpen: (variant: string) => warning('variant-open', `The loop does not close in the variant "${variant}".`),
  tileOpen: (step: string, shifts: readonly string[]) => note('tile-open', `${step} does not tile ${ways(shifts)}.`),
  edges: (shifts: readonly string[], steps: readonly string[]) =>
    note(
      'has-edges',
      `The material has edges ${ways(shifts)}, by ${listed(steps, 'and')}: fine for a single picture, visible where it repeats.`,
    ),
  sawCuts: (step: string, ratio: number) =>
    warning(
      'saw-cuts',
      `The loop closes mathematically, but ${step} restarts with a visible pop: the last frame differs from the first by ${figure(ratio)} times the usual change.`,
    ),

  // Values.
  outOfUnit: (channel: string, low: number, high: number) =>
    warning('out-of-0-1', `${channel} goes from ${figure(low)} to ${figure(high)}; values outside 0..1 are clamped.`),
  negativeLight: (channel: string, low: number) =>
    warning('negative-color', `${channel} goes down to ${figure(low)}; light cannot be negative.`),
  mayDivideByZero: (low: number, high: number) =>
    warning(
      'division-by-zero',
      low === high
        ? 'This divides by 0, which gives 0.'
        : `This may divide by 0: it goes from ${figure(low)} to ${figure(high)}. There the result is 0.`,
    ),
  rootOfNegative: (operation: string, low: number) =>
    warning('no-such-root', `${operation} gets ${figure(low)} here, for which it returns 0.`),

  // Images and noise.
  normalAsOther: (source: string, encoding: string) =>
    warning('normal-as-color', `"${source}" looks like a normal map, but is read as ${encoding}.`),
  otherAsNormal: (source: string, grey: boolean) =>
    warning(
      'not-a-normal-map',
      `"${source}" is read as normal, but is not a normal map: ${grey ? 'it is grey' : 'its colours are not directions'}.`,
    ),
  imageSeam: (
    source: string,
    axes: readonly { readonly axis: 0 | 1; readonly ratio: number }[],
    step: string,
    moves: boolean,
  ) =>
    warning(
      'image-seam',
      `"${source}" has a visible seam ${axes
        .map(
          ({ axis, ratio }) =>
            `${axis === 0 ? 'left to right' : 'top to bottom'}, ${figure(ratio)} times the change inside`,
        )
        .join(', and ')}; ${step} ${moves ? 'scrolls it through the picture' : 'brings it into the picture'}.`,
    ),
  colorAsData: (source: string) =>
    warning('color-as-data', `"${source}" looks like a colour picture, but is read as data: it will look too bright.`),
  notPowerOfTwo: (source: string, width: number, height: number) =>
    note(
      'not-power-of-two',
      `"${source}" is ${String(width)} x ${String(height)}: old devices can only repeat power-of-two sizes.`,
    ),
  stretchedNoise: (operation: string, times: number, side: 'high' | 'wide', aspect: number) =>
    note(
      'stretched-noise',
      `The cells of ${operation} are ${figure(times)} times as ${side} as ${side === 'high' ? 'wide' : 'high'} on a surface of ${figure(aspect)} : 1.`,
    ),
  sameNoise: (operation: string, line: number) =>
    note('same-noise', `This ${operation} is the same as in line ${String(line)}.`),
  sharedSeed: (operation: string, line: number) =>
    note(
      'shared-seed',
      `This ${operation} has the same cells and seed as the one in line ${String(line)}: the same shapes show twice.`,
    ),

  // Dials, use and cost.
  dialJumps: (dial: string) =>
    note(
      'dial-jumps',
      `${dial} multiplies elapsed time: changing it while it runs makes the motion jump. Whole laps can be changed at the start of the loop.`,
    ),
  losesPrecision: (step: string, hours: number) =>
    note(
      'loses-precision',
      `${step} grows with time and gets visibly coarse after about ${figure(hours)} hours in 32-bit floats. A closed loop can restart.`,
    ),
  unusedStep: (step: string) => note('unused-step', `No output uses ${step}.`),
  unusedName: (what: string, name: string) => note(`unused-${what}`, `Nothing uses the ${what} ${name}.`),
  overBudget: (what: string, got: number, max: number, step: string) =>
    warning('over-budget', `${String(got)} ${what}, over the budget of ${String(max)}; most of them are in ${step}.`),
} as const;

/** "a number", "an angle": a type as it stands in a sentence. */
export function withArticle(type: string): string {
  return `${/^[aeiou]/.test(type) ? 'an' : 'a'} ${type}`;
}

/** The nearest of `options` to a mistyped word, or undefined where none is near. */
export function nearest(word: string, options: Iterable<string>): string | undefined {
  let best: string | undefined;
  let least = Math.max(1, Math.floor(word.length / 3)) + 1;
  for (const option of options) {
    const d = editDistance(word.toLowerCase(), option.toLowerCase(), least);
    if (d < least) {
      least = d;
      best = option;
    }
  }
  return best;
}

/** Levenshtein distance with transpositions counted as one; gives up at `limit`. */
function editDistance(a: string, b: string, limit: number): number {
  if (Math.abs(a.length - b.length) >= limit) return limit;
  let before: number[] = [];
  let row = Array.from({ length: b.length + 1 }, (_, i) => i);
  for (let i = 1; i <= a.length; i++) {
    const next = [i];
    for (let j = 1; j <= b.length; j++) {
      const same = a[i - 1] === b[j - 1] ? 0 : 1;
      let d = Math.min((row[j] ?? 0) + 1, (next[j - 1] ?? 0) + 1, (row[j - 1] ?? 0) + same);
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1]) d = Math.min(d, (before[j - 2] ?? 0) + 1);
      next.push(d);
    }
    before = row;
    row = next;
  }
  return row[b.length] ?? limit;
}
