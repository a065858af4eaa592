import { check } from '../check/check.ts';
import { lapsDial } from '../edits/laps-dial.ts';
import type { Program, Typed } from '../check/program.ts';
import type { Fix, TextEdit } from '../diagnostics/diagnostic.ts';
import { evaluateFrame } from '../ir/evaluate.ts';
import { insertStage } from '../edits/call-edits.ts';
import { setVariantValue } from '../edits/dial-edits.ts';
import { applyEdits, setDefault } from '../edits/edits.ts';
import { parse } from '../lang/parse.ts';
import { pathTo } from '../lang/walk.ts';
import type { StretchFact } from '../ops/operation.ts';
import { TAU } from '../ops/shared.ts';
import { lapsText, PHRASES } from '../ops/phrases.ts';
import { ratesOf, Tracer, type Blame, type Site } from './blame.ts';
import { fractionIn, fractionOf } from './exact.ts';
import { Proof } from './proof.ts';

/** A value that stands in the text and may be changed: a literal, or a dial through its default or a variant. */
interface Handle {
  /** Internal units. */
  readonly value: number;
  readonly write: (text: string) => TextEdit[];
  readonly allows: (value: number) => boolean;
  readonly perSecond: boolean;
  readonly named: string;
  readonly typed: Typed;
}

/**
 * A value that decides how often a picture fits the square: those near it with which it fits, and how they are written.
 */
interface Stretch {
  readonly handle: Handle;
  readonly to: (value: number, spacing: number) => number[];
  readonly text: (value: number) => string;
}

/** Most steps that are read anew to prove fixes: each proof reads the whole text. */
const MOST_READ = 10_000;

const trimmed = (v: number): string => String(Number(v.toPrecision(6)));
const capital = (word: string): string => `${word.slice(0, 1).toUpperCase()}${word.slice(1)}`;
const plural = (laps: number): string => lapsText(trimmed(laps));

/** Proposes edits that close what a blame is about, and keeps those after which the prover agrees. */
export class Fixer {
  readonly #text: string;
  readonly #program: Program;
  /** Steps read anew so far. */
  #read = 0;

  constructor(
    readonly proof: Proof,
    /** All that breaks as the text is. */
    readonly blames: readonly Blame[],
  ) {
    this.#program = proof.program;
    this.#text = proof.program.tree.text;
  }

  /** Edits that may close one place, the nearest first. */
  proposed(blame: Blame): Fix[] {
    const proposed = blame.shift === 'loop' ? this.#loopFixes(blame) : this.#tileFixes(blame);
    // Different ways may lead to one edit: the first stands for all.
    const once = new Map<string, Fix>();
    for (const fix of proposed) {
      const key = JSON.stringify(fix.edits);
      if (fix.edits.length > 0 && !once.has(key)) once.set(key, fix);
    }
    return [...once.values()];
  }

  /**
   * Fixes of one place, the nearest first; each leaves fewer places broken than there are now. Undefined once so much
   * has been read anew for other places that this one has to wait until they are mended.
   */
  fixesOf(blame: Blame): Fix[] | undefined {
    if (this.#read >= MOST_READ) return undefined;
    const before = this.blames.filter((b) => b.shift === blame.shift).length;
    const closes = ({ edits }: Fix): boolean => {
      this.#read += this.#program.steps.length;
      const program = check(parse(applyEdits(this.#text, edits)));
      return program.ok && this.#count(new Proof(program, this.proof.variant), blame) < before;
    };
    const found = this.proposed(blame).filter(closes);
    if (found.length > 0 || blame.shift !== 'loop') return found;
    // Where nothing else closes, a cross-fade does.
    return this.#weaves(blame).filter(closes);
  }

  /** How many places a shift breaks. */
  #count(proof: Proof, { shift }: Blame): number {
    return new Tracer(proof.shifts(shift)).blames(proof.program.steps).length;
  }

  #handle(typed: Typed): Handle | undefined {
    const node = this.proof.graph.valueOf.get(typed);
    const literal = typed.kind === 'negate' ? typed.of : typed;
    const value =
      node && node.frequency !== 'pixel'
        ? evaluateFrame([node], { time: 0, dials: this.proof.values.dials }).get(node)?.[0]
        : undefined;
    if (typeof value !== 'number') return undefined;
    if (literal.kind === 'constant') {
      const written = this.#text.slice(typed.from, typed.to);
      return {
        value,
        typed,
        perSecond: /\/\s*s$/.test(written),
        named: written,
        allows: () => true,
        write: (insert) => [{ from: typed.from, to: typed.to, insert }],
      };
    }
    if (typed.kind !== 'dial') return undefined;
    const { dial } = typed;
    const { variant } = this.proof;
    const inVariant =
      variant !== undefined && this.#program.variants.find((v) => v.name === variant)?.values.has(dial.name);
    return {
      value,
      typed,
      perSecond: dial.type === 'rate',
      named: dial.name,
      allows: (v) => (dial.low === undefined || v >= dial.low) && (dial.high === undefined || v <= dial.high),
      write: (text) => {
        const literalText = dial.type === 'laps' ? text.replace(/ laps?$/, '') : text;
        return inVariant
          ? setVariantValue(this.#program.tree, variant, dial.name, literalText)
          : setDefault(this.#program.tree, dial.name, literalText);
      },
    };
  }

  /** A rate as text: per second where it was so and decimals hold it exactly, and in laps. */
  #ratesAsText(handle: Handle, laps: number): { readonly text: string; readonly title: string }[] {
    const { seconds } = this.#program.loop;
    const perSecond = trimmed(laps / seconds);
    const exact =
      fractionOf(Number(perSecond))
        ?.mul(fractionOf(seconds) ?? 1)
        .equals(fractionOf(laps) ?? 0) === true;
    const inLaps = { text: plural(laps), title: `Make it ${plural(laps)}` };
    const { typed } = handle;
    if (typed.kind === 'dial') {
      if (typed.dial.type === 'laps')
        return [{ text: trimmed(laps), title: `Set ${handle.named} to ${trimmed(laps)}` }];
      return [
        exact
          ? { text: `${perSecond}/s`, title: `Set ${handle.named} to ${perSecond}/s, ${plural(laps)}` }
          : { text: plural(laps), title: `Set ${handle.named} to ${plural(laps)}` },
      ];
    }
    if (!handle.perSecond) return [inLaps];
    return exact ? [{ text: `${perSecond}/s`, title: `Make it ${perSecond}/s, ${plural(laps)}` }, inLaps] : [inLaps];
  }

  /** Multiples of `spacing` below and above a value, the nearer first; 0 is a standstill, not a fix. */
  #around(value: number, spacing: number): number[] {
    const [low, high] = [Math.floor(value / spacing + 1e-9) * spacing, Math.ceil(value / spacing - 1e-9) * spacing];
    const found = [...new Set([low, high])]
      .filter((v) => Math.abs(v) > 1e-9 && Math.abs(v - value) > 1e-9)
      .map((v) => Number(v.toPrecision(12)));
    return found.sort((a, b) => Math.abs(a - value) - Math.abs(b - value));
  }

  /** Quarter turns next to an angle, none among them. */
  #quarters(angle: number): number[] {
    return this.#around(angle, 0.25).concat(Math.abs(angle) < 0.25 ? [0] : []);
  }

  #loopFixes(blame: Blame): Fix[] {
    const rates = blame.origins
      .flatMap((o) => ratesOf(o.typed).flatMap((r) => this.#handle(r) ?? []))
      .filter((h) => h.value !== 0);
    const repeat = blame.broken?.by === 'clamp' ? this.#repeats(blame) : [];
    const found: Fix[] = [...repeat];
    const base = repeat[0]?.edits ?? [];
    const [only] = rates;
    if (only && rates.length === 1) {
      for (const laps of this.#closing(blame, only.value))
        for (const { text, title } of this.#ratesAsText(only, laps))
          if (only.allows(laps)) found.push({ title, edits: [...base, ...only.write(text)] });
    } else if (rates.length > 1) {
      const whole = rates.flatMap((h) => {
        const laps = this.#around(h.value, 1)[0];
        const text = laps === undefined ? undefined : this.#ratesAsText(h, laps)[0];
        return text && laps !== undefined && h.allows(laps)
          ? [{ named: h.named, text: text.text, edits: h.write(text.text) }]
          : [];
      });
      const set = (...some: typeof whole): Fix => ({
        title: `Change ${some.map((w) => `${w.named} to ${w.text}`).join(' and ')}`,
        edits: [...base, ...some.flatMap((w) => w.edits)],
      });
      if (whole.length > 0) found.push(set(...whole));
      if (whole.length > 1) for (const w of whole) found.push(set(w));
    }
    for (const { typed } of rates)
      if (typed.kind === 'dial' && typed.dial.type === 'rate') found.push(...lapsDial(this.#program, typed.dial));
    for (const origin of blame.origins) found.push(...this.#headings(origin), ...this.#times(origin));
    return found;
  }

  /**
   * Rates near this one that close: multiples of the spacing, and whole laps among them where the spacing itself is
   * none.
   */
  #closing(blame: Blame, rate: number): number[] {
    const spacing = blame.broken?.by === 'period' ? this.#spacing(blame, rate) : 1;
    const whole = fractionOf(spacing)?.lcm(1).valueOf() ?? 1;
    return [...new Set([...this.#around(rate, spacing), ...this.#around(rate, whole)])];
  }

  /**
   * How far apart the rates lie that close: the period over the distance that one lap of the rate moves, for all parts
   * that move.
   */
  #spacing({ broken }: Blame, rate: number): number {
    const period = (broken?.period && fractionIn(broken.period)) ?? fractionOf(1)!;
    const exact = fractionOf(rate);
    let spacing = fractionOf(0)!;
    for (const m of broken?.moved ?? []) {
      const moved = fractionIn(m);
      if (!moved || !exact || moved.equals(0) || moved.d > 10_000n) return 1;
      const needed = exact.mul(period).div(moved).abs();
      spacing = spacing.equals(0) ? needed : spacing.lcm(needed);
    }
    return spacing.equals(0) ? 1 : spacing.valueOf();
  }

  /** For a pan at a slant: whole laps to the right and up, or the nearest straight headings. */
  #headings({ typed }: Site): Fix[] {
    if (typed.kind !== 'call') return [];
    const travel = typed.operation.handles?.find((h) => h.kind === 'travel');
    if (!travel) return [];
    const [rate, heading] = [travel.rate, travel.heading]
      .map((name) => typed.args.get(name))
      .map((t) => t && this.#handle(t));
    const angle = heading?.value ?? 0;
    if (!rate || !heading || Math.abs(angle * 4 - Math.round(angle * 4)) < 1e-9) return [];
    const [across, upward] = [rate.value * Math.cos(angle * TAU), rate.value * Math.sin(angle * TAU)];
    let [right, up] = [Math.round(across), Math.round(upward)];
    if (right === 0 && up === 0)
      [right, up] = Math.abs(across) > Math.abs(upward) ? [Math.sign(across), 0] : [0, Math.sign(upward)];
    const call = pathTo(
      this.#program.tree,
      rate.typed.kind === 'dial' || rate.typed.kind === 'constant' ? rate.typed.from : typed.to,
    ).findLast((e) => e.kind === 'call' && e.callee.name === typed.operation.name);
    const found: Fix[] = [];
    if (call?.kind === 'call' && call.args.length <= 2) {
      const [first, last] = [call.args[0], call.args.at(-1)];
      const insert = `${travel.right}: ${plural(right)}, ${travel.up}: ${plural(up)}`;
      if (first && last)
        found.push({
          title: `${capital(typed.operation.name)} ${insert.replace(/:/g, '')}`,
          edits: [{ from: first.from, to: last.to, insert }],
        });
    }
    for (const quarter of this.#quarters(angle))
      if (heading.allows(quarter))
        found.push({
          title: `Set the heading to ${trimmed(quarter * 360)}deg`,
          edits: heading.write(`${trimmed(quarter * 360)}deg`),
        });
    return found;
  }

  /** For a hold that does not divide the loop, and a time run at a broken multiple. */
  #times({ typed }: Site): Fix[] {
    if (typed.kind !== 'call') return [];
    const { timeStep, timeParameter, name } = typed.operation;
    const every = timeStep === undefined ? undefined : typed.args.get(timeStep);
    const handle = every && this.#handle(every);
    const { seconds, fps } = this.#program.loop;
    if (handle && handle.value > 0) {
      // Whole frames that divide the loop, the nearest below and above.
      const frames = Math.round(seconds * fps);
      const divisors = Array.from({ length: frames }, (_, i) => i + 1).filter((n) => frames % n === 0);
      const now = handle.value * fps;
      return [divisors.findLast((n) => n < now), divisors.find((n) => n > now)].flatMap((n) => {
        if (n === undefined || !handle.allows(n / fps)) return [];
        const text = handle.typed.kind === 'dial' ? `${trimmed(n / fps)}s` : `${String(n)} frames`;
        return [{ title: `${capital(name)} ${text}: ${String(frames / n)} per loop`, edits: handle.write(text) }];
      });
    }
    const other = timeParameter === undefined ? undefined : typed.args.get(timeParameter);
    const factor =
      other?.kind === 'binary' && other.operator === '*'
        ? [other.left, other.right].find((t) => t.type === 'number')
        : undefined;
    const speed = factor && this.#handle(factor);
    return speed
      ? this.#around(speed.value, 1).map((v) => ({
          title: `Set the speed of time to ${trimmed(v)}x`,
          edits: speed.write(trimmed(v)),
        }))
      : [];
  }

  #weaves({ typed, step }: Blame): Fix[] {
    if (typed.type === 'vec2' && step.coordinates) return [];
    const expression = pathTo(this.#program.tree, typed.from).find((e) => e.from === typed.from && e.to === typed.to);
    if (!expression) return [];
    const over = PHRASES.crossFade(trimmed(Math.min(1, this.#program.loop.seconds / 4)));
    const title = `Close it with ${over}`;
    if (typed === step.value) return [{ title, edits: insertStage(this.#text, expression, over) }];
    const { from, to } = typed;
    return [
      {
        title,
        edits: [
          { from, to: from, insert: '(' },
          { from: to, to, insert: ` |> ${over})` },
        ],
      },
    ];
  }

  /** Lets the image that ends at its edge repeat. */
  #repeats({ typed }: Blame): Fix[] {
    const image = typed.kind === 'call' ? typed.args.get('image') : undefined;
    if (image?.kind !== 'image') return [];
    const line = this.#program.tree.statements.find((s) => s.kind === 'image' && s.name.name === image.image.name);
    const word = line?.kind === 'image' ? line.words.find((w) => w.name === 'clamp' || w.name === 'mirror') : undefined;
    return word
      ? [{ title: `Let ${image.image.name} repeat`, edits: [{ from: word.from, to: word.to, insert: 'repeat' }] }]
      : [];
  }

  #tileFixes(blame: Blame): Fix[] {
    const found: Fix[] = this.#repeats(blame);
    const spacing = (blame.broken?.period && fractionIn(blame.broken.period)?.valueOf()) ?? 1;
    for (const { typed } of blame.origins) {
      const handles = this.#stretches(typed);
      for (const side of [0, 1]) {
        const edits = handles.flatMap(({ handle, to, text }) => {
          const value = to(handle.value, spacing)[side] ?? to(handle.value, spacing)[0];
          return value !== undefined && handle.allows(value)
            ? [{ text: text(value), edits: handle.write(text(value)) }]
            : [];
        });
        const name = typed.kind === 'call' ? typed.operation.name : 'the factor';
        if (edits.length > 0)
          found.push({
            title: `Make ${name} ${edits.map((e) => e.text).join(', ')}`,
            edits: edits.flatMap((e) => e.edits),
          });
      }
    }
    return found;
  }

  /**
   * What of a call or product decides how often a picture fits the square, and the values near it with which it does.
   */
  #stretches(typed: Typed): Stretch[] {
    const whole = (v: number, spacing: number): number[] => this.#around(v, spacing);
    const fractions = (v: number, spacing: number): number[] =>
      this.#around(1 / v, spacing).map((k) => Number((1 / k).toPrecision(6)));
    const of = (
      t: Typed | undefined,
      to: (v: number, s: number) => number[],
      text: (v: number) => string = trimmed,
    ): Stretch[] => {
      const handle = t && t.type !== 'vec2' ? this.#handle(t) : undefined;
      return handle && to(handle.value, 1).length > 0 ? [{ handle, to, text }] : [];
    };
    if (typed.kind === 'binary')
      return typed.operator === '*'
        ? [typed.left, typed.right].flatMap((t) => (t.type === 'number' ? of(t, whole) : []))
        : [];
    if (typed.kind !== 'call') return [];
    const near: Record<StretchFact['fits'], (t: Typed | undefined) => Stretch[]> = {
      whole: (t) => of(t, whole),
      reciprocal: (t) => of(t, fractions),
      quarters: (t) =>
        of(
          t,
          (v) => this.#quarters(v),
          (v) => `${trimmed(v * 360)}deg`,
        ),
    };
    return (typed.operation.stretches ?? []).flatMap(({ parameter, fits }) => near[fits](typed.args.get(parameter)));
  }
}
