import { dialsInUnits, lineAndColumn, lower } from '@estela/core';
import { loadMaterial, printed, type LoadedMaterial } from './material.ts';

/** What `check --json` prints of one file. */
function report(file: string, { text, program, diagnostics }: LoadedMaterial): object {
  const { loop } = program;
  return {
    file,
    ok: diagnostics.every((d) => d.severity !== 'error'),
    diagnostics: diagnostics.map((d) => ({ ...d, ...lineAndColumn(text, d.from) })),
    loop: { seconds: loop.seconds, fps: loop.fps, frames: loop.frames },
    variants: program.variants.map((v) => ({ name: v.name })),
    dials: dialsInUnits(program),
  };
}

/** Checks files one after the other; 1 where any has an error, 2 where one cannot be read. */
export async function checkFiles(files: readonly string[], options: { sources?: string; json?: boolean }): Promise<number> {
  let code = 0;
  for (const file of files) {
    try {
      const loaded = await loadMaterial(file, options.sources);
      const diagnostics = [...loaded.diagnostics, ...(loaded.program.ok ? lower(loaded.program).diagnostics : [])];
      const material = { ...loaded, diagnostics };
      if (diagnostics.some((d) => d.severity === 'error')) code = Math.max(code, 1);
      if (options.json) console.log(JSON.stringify(report(file, material)));
      else {
        for (const d of diagnostics) console.log(printed(file, loaded.text, d));
        if (diagnostics.length === 0) console.log(`${file}: nothing found`);
      }
    } catch (error) {
      console.error(error instanceof Error ? error.message : String(error));
      code = 2;
    }
  }
  return code;
}
