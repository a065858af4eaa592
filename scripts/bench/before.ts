import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, rmSync, symlinkSync } from 'node:fs';
import { join } from 'node:path';
import { build } from 'vite';

/** The state before bakes were made in bands, and materials compiled for grids. */
export const BEFORE = 'eb499b0';

/** That state's files, taken from git where they are not there yet; packages are those of today but for its own. */
export function filesBefore(root: string): string {
  const at = join(root, '.cache', BEFORE);
  if (existsSync(join(at, 'node_modules/@estela/core'))) return at;
  rmSync(at, { recursive: true, force: true });
  mkdirSync(join(at, 'node_modules/@estela'), { recursive: true });
  const archive = execFileSync('git', ['archive', BEFORE], { cwd: root, maxBuffer: 1e9 });
  execFileSync('tar', ['x', '-C', at], { input: archive });
  for (const name of readdirSync(join(root, 'node_modules')))
    if (name !== '@estela') symlinkSync(join(root, 'node_modules', name), join(at, 'node_modules', name));
  for (const name of ['core', 'codecs'])
    symlinkSync(join(at, 'packages', name), join(at, 'node_modules/@estela', name));
  return at;
}

/** Its command line, built where it is not yet. */
export function cliBefore(root: string): string {
  const at = filesBefore(root);
  const main = join(at, 'packages/cli/dist/main.js');
  if (!existsSync(main))
    execFileSync(process.execPath, [join(root, 'node_modules/vite/bin/vite.js'), 'build'], {
      cwd: join(at, 'packages/cli'),
      stdio: 'pipe',
    });
  return main;
}

/** What is used of its core. */
export interface CoreBefore {
  readonly parse: (text: string) => unknown;
  readonly check: (tree: unknown) => unknown;
  readonly settingValues: (program: unknown) => {
    readonly dials: ReadonlyMap<string, readonly number[]>;
    readonly switches: ReadonlyMap<string, boolean>;
  };
  readonly lower: (program: unknown, switches: unknown) => { readonly outputs: ReadonlyMap<string, object> };
  readonly emitGlsl: (
    graph: object,
    outputs: object,
  ) => {
    readonly code: string;
    readonly inputs: readonly string[];
    readonly outputs: readonly { readonly name: string; readonly type: string }[];
    readonly uniforms: readonly { readonly name: string; readonly type: string; readonly node: object }[];
  };
  readonly evaluateFrame: (
    nodes: object[],
    frame: { readonly time: number; readonly dials: ReadonlyMap<string, readonly number[]> },
  ) => ReadonlyMap<object, readonly number[]>;
  readonly WasmEvaluator: new (roots: readonly object[]) => {
    setFrame(frame: { readonly time: number; readonly dials: ReadonlyMap<string, readonly number[]> }): void;
    picture(width: number, height: number): Float32Array[];
  };
}

/** Its core as one module, built where it is not yet. */
export async function coreBefore(root: string): Promise<CoreBefore> {
  const at = filesBefore(root);
  const file = join(at, 'core.mjs');
  if (!existsSync(file))
    await build({
      root: join(at, 'packages/core'),
      configFile: false,
      logLevel: 'error',
      build: {
        ssr: 'src/index.ts',
        outDir: at,
        emptyOutDir: false,
        rolldownOptions: { output: { entryFileNames: 'core.mjs' } },
      },
      ssr: { noExternal: true },
    });
  return (await import(file)) as CoreBefore;
}
