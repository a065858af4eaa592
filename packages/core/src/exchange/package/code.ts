import { emitShader } from '../../backends/shader/emit.ts';
import type { Program } from '../../check/program.ts';
import { cHeader } from './c-header.ts';
import { jsModule, jsTypes } from './js-module.ts';
import { DIALECTS, mainStage, SHADER_TARGETS } from './main-stage.ts';
import type { PackageShader, SettingOptions } from './shaders.ts';

/** What a material can be written as. */
export const TARGETS = [...SHADER_TARGETS, 'c', 'js'] as const;
export type Target = (typeof TARGETS)[number];

/** What a package is made of, as it is asked for. */
export interface CodeOptions extends SettingOptions {
  readonly targets: readonly Target[];
  /** Of the text; absent where it has none. */
  readonly revision?: number | undefined;
}

/** The code of one shader of a package, by file name. */
function shaderCode({ targets }: CodeOptions, model: PackageShader): [string, string][] {
  const { program, graph, outputs, name } = model;
  const { file, identifier } = name;
  const note = `// ${program.title || 'Untitled'}. Made by Estela from ${file.replace(/\.\d+$/, '')}.wake.\n\n`;
  return [
    ...SHADER_TARGETS.filter((t) => targets.includes(t)).flatMap((target): [string, string][] => {
      const shader = target === 'glsl' ? model.shader : emitShader(DIALECTS[target], graph, outputs, identifier);
      const stage = { name: identifier, shader, surface: program.surface };
      return [
        [`${file}.${target}`, note + shader.code],
        [`${file}.main.${target}`, mainStage(target, stage)],
      ];
    }),
    ...(targets.includes('c') ? [[`${file}.h`, cHeader(model, identifier)] as [string, string]] : []),
    ...(targets.includes('js')
      ? [[`${file}.js`, jsModule(model)] as [string, string], [`${file}.d.ts`, jsTypes(model)] as [string, string]]
      : []),
  ];
}

/** The code of all shaders of a package, and the material's text, by file name. */
export const codeOf = (
  { tree }: Program,
  options: CodeOptions,
  shaders: readonly [PackageShader, ...PackageShader[]],
): Map<string, string> =>
  new Map([...shaders.flatMap((s) => shaderCode(options, s)), [`${shaders[0].name.file}.wake`, tree.text]]);
