import { hexOfColor, lineAndColumn, lower, type Dial, type Loop } from '@estela/core';
import { loadMaterial, printed, type LoadedMaterial } from './material.ts';

/** A value in the units its dial is written in: laps, per second, seconds, degrees; a colour as hex. */
function inDialUnits(dial: Dial, value: readonly number[], loop: Loop): number | number[] | string {
  const [x = 0] = value;
  switch (dial.type) {
    case 'rate':
      return x / loop.seconds;
    case 'angle':
      return x * 360;
    case 'color':
      return hexOfColor(value);
    case 'vec2':
      return [...value];
    default:
      return x;
  }
}

const bound = (dial: Dial, value: number | undefined, loop: Loop): unknown =>
  value === undefined ? undefined : dial.type === 'vec2' ? value : inDialUnits(dial, [value], loop);

/** What `check --json` prints of one file. */
function report(file: string, { text, program, diagnostics }: LoadedMaterial): object {
  const { loop } = program;
  return {
    file,
    ok: diagnostics.every((d) => d.severity !== 'error'),
    diagnostics: diagnostics.map((d) => ({ ...d, ...lineAndColumn(text, d.from) })),
    loop: { seconds: loop.seconds, fps: loop.fps, frames: loop.frames },
    variants: program.variants.map((v) => ({ name: v.name })),
    dials: program.dials.map((d) => ({
      name: d.name,
      type: d.type,
      default: inDialUnits(d, d.value, loop),
      min: bound(d, d.low, loop),
      max: bound(d, d.high, loop),
      step: bound(d, d.step, loop),
      help: d.help,
    })),
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
