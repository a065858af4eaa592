import { emitShader } from '../../backends/shader/emit.ts';
import { settingValues, type SettingValues } from '../../check/values.ts';
import type { Program } from '../../check/program.ts';
import { compileOrThrow, type Compiled } from '../../compile.ts';
import type { Node } from '../../ir/node.ts';
import type { Graph } from '../../lower/lower.ts';
import { Proof } from '../../prove/proof.ts';
import { returnOf } from '../../prove/return.ts';
import type { HostModel } from './host.ts';
import { packageName, type PackageName } from './identifier.ts';
import { DIALECTS } from './main-stage.ts';

/** Where green of a normal points: `down` turns what Wake has. */
export type NormalY = 'up' | 'down';

export interface SettingOptions {
  readonly variant?: string | undefined;
  /** Dials and switches as they are to be; those of the variant without. */
  readonly values?: SettingValues | undefined;
  readonly normalY?: NormalY | undefined;
}

/** One shader of a package: the material with its switches settled. The first is what was asked for. */
export interface PackageShader extends HostModel {
  readonly name: PackageName;
  readonly graph: Graph;
  readonly outputs: ReadonlyMap<string, Node>;
  /** Variants that use it; null is the base. */
  readonly variants: readonly (string | null)[];
  readonly proof: Proof;
}

const switchesOf = ({ switches }: SettingValues): string => JSON.stringify([...switches]);

/** The outputs, with normals as they are asked for. */
function outputsOf({ outputs, builder: b }: Graph, normalY: NormalY): ReadonlyMap<string, Node> {
  const normal = outputs.get('normal');
  if (!normal || normalY === 'up') return outputs;
  return new Map([...outputs, ['normal', b.vec(b.x(normal), b.neg(b.y(normal)), b.z(normal))]]);
}

/**
 * The shaders that a material takes with all its variants: one for each distinct set of switches. Throws where the
 * material has errors, limits included.
 */
export function packageShaders(
  program: Program,
  { variant, values, normalY = 'up' }: SettingOptions,
): readonly [PackageShader, ...PackageShader[]] {
  const title = packageName(program.title);
  const asked = values ?? settingValues(program, variant);
  const sets = new Map<string, { readonly values: SettingValues; readonly variants: (string | null)[] }>([
    [switchesOf(asked), { values: asked, variants: [] }],
  ]);
  for (const name of [null, ...program.variants.map((v) => v.name)]) {
    const own = settingValues(program, name ?? undefined);
    const key = switchesOf(own);
    const set = sets.get(key) ?? { values: own, variants: [] };
    sets.set(key, set);
    set.variants.push(name);
  }
  const shaders = [...sets.values()].map((set, i): PackageShader => {
    const compiled: Compiled = compileOrThrow(program, { values: set.values });
    const { graph } = compiled;
    const number = String(i + 1);
    const name = i === 0 ? title : { file: `${title.file}.${number}`, identifier: `${title.identifier}_${number}` };
    const outputs = outputsOf(graph, normalY);
    const proof = new Proof(program, variant, compiled);
    return {
      ...set,
      program,
      name,
      graph,
      outputs,
      proof,
      shader: emitShader(DIALECTS.glsl, graph, outputs, name.identifier),
      returns: returnOf(proof),
    };
  });
  return shaders as [PackageShader, ...PackageShader[]];
}
