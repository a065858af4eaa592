import type { Fix, TextEdit } from '../diagnostics/diagnostic.ts';
import type { Dial, Program } from '../check/program.ts';

/** Whole laps, and never a standstill made of a slow motion. */
const wholeLaps = (periods: number): number => (Math.abs(periods) < 0.5 ? Math.sign(periods) : Math.round(periods));

/**
 * Turns a rate dial into one of whole laps, which closes at every setting: its default, its range and each variant's
 * value become the nearest whole laps.
 */
export function lapsDial(program: Program, dial: Dial): Fix[] {
  const { tree } = program;
  const line = tree.statements.find((s) => s.kind === 'dial' && s.name.name === dial.name);
  if (line?.kind !== 'dial' || dial.type !== 'rate' || !line.type) return [];
  const value = wholeLaps(dial.value[0] ?? 0);
  const { low, high } = dial;
  const range =
    low === undefined || high === undefined
      ? ''
      : ` in ${String(Math.min(value, Math.floor(low)))}..${String(Math.max(value, Math.ceil(high), Math.floor(low) + 1))}`;
  const end = (line.by ?? line.high ?? line.value).to;
  const edits: TextEdit[] = [{ from: line.type.from, to: end, insert: `laps = ${String(value)}${range}` }];
  for (const variant of tree.statements)
    if (variant.kind === 'variant')
      for (const entry of variant.entries) {
        const own =
          entry.name.name === dial.name
            ? program.variants.find((v) => v.name === variant.title)?.values.get(dial.name)
            : undefined;
        if (own) edits.push({ from: entry.value.from, to: entry.value.to, insert: String(wholeLaps(own[0] ?? 0)) });
      }
  return [{ title: `Count ${dial.name} in whole laps`, edits }];
}
