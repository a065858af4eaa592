import { dialsInUnits, lineAndColumn, lower, materialVerdicts, SHIFTS, type Verdicts } from '@estela/core';
import { loadMaterial, printed, type LoadedMaterial } from './material.ts';

/** What `check --json` prints of one file. */
function report(file: string, { text, program, diagnostics }: LoadedMaterial, verdicts: ReadonlyMap<string | undefined, Verdicts>): object {
  const { loop } = program;
  const of = (variant?: string): Record<string, { verdict: string; witness?: object }> =>
    Object.fromEntries(
      SHIFTS.flatMap((shift) => {
        const found = verdicts.get(variant);
        return found ? [[shift, { verdict: found.verdicts[shift], ...(found.witnesses[shift] ? { witness: found.witnesses[shift] } : {}) }]] : [];
      }),
    );
  const base = of();
  return {
    file,
    ok: diagnostics.every((d) => d.severity !== 'error'),
    diagnostics: diagnostics.map((d) => ({ ...d, ...lineAndColumn(text, d.from) })),
    ...base,
    loop: { seconds: loop.seconds, fps: loop.fps, frames: loop.frames, ...base.loop },
    variants: program.variants.map((v) => ({ name: v.name, ...of(v.name) })),
    dials: dialsInUnits(program),
  };
}

const OPEN = { loop: 'does not return to its start after the loop', tile_u: 'does not meet itself a tile across', tile_v: 'does not meet itself a tile down' };

/** Verdicts of a material without errors, of its base and each variant. */
function verdictsOf({ program, images, diagnostics }: LoadedMaterial): Map<string | undefined, Verdicts> {
  if (diagnostics.some((d) => d.severity === 'error')) return new Map();
  return new Map([undefined, ...program.variants.map((v) => v.name)].map((v) => [v, materialVerdicts(program, v, (slot) => images.get(slot.name))]));
}

/** Checks files one after the other; 1 where any has an error, or with `strict` one that is open; 2 where one cannot be read. */
export async function checkFiles(files: readonly string[], options: { sources?: string; json?: boolean; strict?: boolean }): Promise<number> {
  let code = 0;
  for (const file of files) {
    try {
      const loaded = await loadMaterial(file, options.sources);
      const diagnostics = [...loaded.diagnostics, ...(loaded.program.ok ? lower(loaded.program).diagnostics : [])];
      const material = { ...loaded, diagnostics };
      if (diagnostics.some((d) => d.severity === 'error')) code = Math.max(code, 1);
      const verdicts = verdictsOf(material);
      const open = [...verdicts].flatMap(([v, { verdicts: found }]) =>
        SHIFTS.filter((s) => found[s] === 'open').map((s) => `${v === undefined ? 'It' : `Its variant "${v}"`} ${OPEN[s]}.`),
      );
      if (options.strict && open.length > 0) code = Math.max(code, 1);
      if (options.json) console.log(JSON.stringify(report(file, material, verdicts)));
      else {
        for (const d of diagnostics) console.log(printed(file, loaded.text, d));
        for (const words of open) console.log(`${file}: ${options.strict ? 'error' : 'note'}: ${words}`);
        if (diagnostics.length + open.length === 0) console.log(`${file}: nothing found`);
      }
    } catch (error) {
      console.error(error instanceof Error ? error.message : String(error));
      code = 2;
    }
  }
  return code;
}
