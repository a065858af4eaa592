import type { Diagnostic } from '../diagnostics/diagnostic.ts';
import { say } from '../diagnostics/wording.ts';
import { parse } from '../lang/parse.ts';
import { fitsDial, LITERAL_FORMS, literalValue } from './literals.ts';
import type { Dial, ImageDeclaration, Loop, Program } from './program.ts';
import { reasons } from '../diagnostics/reasons.ts';

/** What all dials and switches are set to, in internal units. */
export interface SettingValues {
  readonly dials: ReadonlyMap<string, readonly number[]>;
  readonly switches: ReadonlyMap<string, boolean>;
}

/** The base values of a material, with those of a variant, if one is named, and others over them. */
export function settingValues(
  program: Program,
  variant?: string,
  overrides: ReadonlyMap<string, readonly number[]> = new Map(),
): SettingValues {
  const over = new Map([...(program.variants.find((v) => v.name === variant)?.values ?? []), ...overrides]);
  return {
    dials: new Map(program.dials.map((d) => [d.name, over.get(d.name) ?? d.value])),
    switches: new Map(program.switches.map((s) => [s.name, (over.get(s.name)?.[0] ?? (s.on ? 1 : 0)) !== 0])),
  };
}

/** What to say of an image whose source is not there; only the host knows which are. */
export function missingImage(image: ImageDeclaration, place: 'is in this project' | 'was found'): Diagnostic {
  return { ...say.imageMissing(image.source, place), ...image.sourceSpan, fixes: [] };
}

/**
 * What to say of an image whose source is there but cannot be read; `why` is a sentence that goes on after its name.
 */
export function refusedImage(image: ImageDeclaration, why: string): Diagnostic {
  return { ...say.imageRefused(image.source, why), ...image.sourceSpan, fixes: [] };
}

/** Reads a value typed for a dial, or says how it should look. */
export function readDialText(
  dial: Dial,
  text: string,
  loop: Loop,
): { readonly value: readonly number[] } | { readonly complaint: string } {
  const tree = parse(`value = ${text}`);
  const [statement] = tree.statements;
  const literal =
    tree.diagnostics.length === 0 && statement?.kind === 'step' ? literalValue(statement.value, loop) : undefined;
  if (literal && dial.type === 'rate' && literal.bare) return { value: literal.value.map((v) => v * loop.seconds) };
  if (literal && dial.type === 'angle' && literal.bare) return { value: literal.value.map((v) => v / 360) };
  if (literal && dial.type === 'time' && literal.bare) return { value: literal.value };
  if (!literal || !fitsDial(dial.type, literal))
    return { complaint: reasons.takes(dial.name, LITERAL_FORMS[dial.type]) };
  return { value: literal.value };
}

/** Reads what dials and switches are set to, as texts by name: switches take on and off. A string is what is wrong. */
export function readSettings(
  program: Program,
  variant: string | undefined,
  texts: readonly (readonly [name: string, text: string])[],
): SettingValues | string {
  if (variant !== undefined && !program.variants.some((v) => v.name === variant)) return reasons.noSuchVariant(variant);
  const over = new Map<string, readonly number[]>();
  for (const [name, text] of texts) {
    const dial = program.dials.find((d) => d.name === name);
    if (dial) {
      const read = readDialText(dial, text, program.loop);
      if ('complaint' in read) return read.complaint;
      over.set(name, read.value);
    } else if (program.switches.some((s) => s.name === name)) {
      if (text !== 'on' && text !== 'off') return reasons.takesOnOff(name);
      over.set(name, [text === 'on' ? 1 : 0]);
    } else return reasons.noSuchDial(name);
  }
  return settingValues(program, variant, over);
}
