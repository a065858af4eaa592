import { emitShader, type ShaderMaterial } from '../../backends/shader/emit.ts';
import type { Program } from '../../check/program.ts';
import { settingValues, type SettingValues } from '../../check/values.ts';
import { compileOrThrow } from '../../compile.ts';
import { isProven, provenVerdicts } from '../../prove/verdicts.ts';
import { Proof } from '../../prove/proof.ts';
import { cHeader } from './c-header.ts';
import type { HostModel } from './host.ts';
import { packageName } from './identifier.ts';
import { jsModule, jsTypes } from './js-module.ts';
import { DIALECTS, mainStage, SHADER_TARGETS, type ShaderTarget } from './main-stage.ts';
import { manifestOf } from './manifest.ts';

/** What a material can be written as. */
export const TARGETS = [...SHADER_TARGETS, 'c', 'js'] as const;
export type Target = (typeof TARGETS)[number];

export interface CodeOptions {
  readonly targets: readonly Target[];
  readonly variant?: string | undefined;
  /** Dials and switches as they are to be; those of the variant without. */
  readonly values?: SettingValues;
}

/**
 * A material as code for other programs, by file name: its functions in each target, a complete stage in each shading
 * language, its text and a manifest. Throws where it has errors, limits included.
 */
export function packageCode(program: Program, { targets, variant, values }: CodeOptions): ReadonlyMap<string, string> {
  const settings = values ?? settingValues(program, variant);
  const { graph } = compileOrThrow(program, { values: settings });
  const name = packageName(program.title);
  const write = (target: ShaderTarget): ShaderMaterial =>
    emitShader(DIALECTS[target], graph, graph.outputs, name.identifier);
  const glsl = write('glsl');
  const proof = new Proof(program, variant);
  // At other settings than the variant's the proof says nothing but what holds for all.
  const { loop } = provenVerdicts(proof).whole.verdicts;
  const closes = values ? loop === 'always' : isProven(loop);
  const model: HostModel = {
    program,
    values: settings,
    shader: glsl,
    period: closes ? program.loop.seconds : undefined,
  };
  const files = new Map<string, string>();
  const { file } = name;
  for (const target of SHADER_TARGETS) {
    if (!targets.includes(target)) continue;
    const shader = target === 'glsl' ? glsl : write(target);
    const note = `// ${program.title || 'Untitled'}. Made by Estela from ${file}.wake.\n\n`;
    files.set(`${file}.${target}`, note + shader.code);
    files.set(`${file}.main.${target}`, mainStage(target, { name: name.identifier, shader, surface: program.surface }));
  }
  if (targets.includes('c')) files.set(`${file}.h`, cHeader(model, name.identifier));
  if (targets.includes('js')) {
    files.set(`${file}.js`, jsModule(model));
    files.set(`${file}.d.ts`, jsTypes(model));
  }
  files.set(`${file}.wake`, program.tree.text);
  const manifest = manifestOf(model, name, variant, [...files.keys(), `${file}.json`].sort());
  files.set(`${file}.json`, `${JSON.stringify(manifest, undefined, 2)}\n`);
  return files;
}
