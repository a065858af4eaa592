import { hexOfColor, literalText, settingValues, type Dial, type Program } from '@estela/core';

/** What all dials and switches are set to, as Wake text: of the base, or of a variant. */
export function settingTexts(program: Program, variant: string | undefined): Map<string, string> {
  const { dials, switches } = settingValues(program, variant);
  return new Map([
    ...program.dials.map(
      (d) => [d.name, literalText(d.type, dials.get(d.name) ?? d.value, program.loop, hexOfColor)] as const,
    ),
    ...program.switches.map((s) => [s.name, switches.get(s.name) === true ? 'on' : 'off'] as const),
  ]);
}

/** One end of a dial's range as text. */
export const boundText = ({ type }: Dial, value: number, program: Program): string =>
  literalText(type === 'vec2' ? 'number' : type, [value], program.loop, hexOfColor);

/** The values of a setting as JSON that can be kept or sent. */
export function settingJson(program: Program, variant: string | undefined): string {
  return JSON.stringify(
    { material: program.title, variant: variant ?? null, values: Object.fromEntries(settingTexts(program, variant)) },
    undefined,
    2,
  );
}
