import { compile, settingValues, stageShader, type ShaderMaterial, type Graph } from '@estela/core';
import type { Look } from './look.ts';

/** Shaders of a look whose switches are set otherwise, by those settings; as long as the look's own shader lives. */
const made = new WeakMap<ShaderMaterial, Map<string, { readonly graph: Graph; readonly glsl: ShaderMaterial }>>();

/** A material with the values of a variant, and others over them. Only other switches make another shader. */
export function variantLook(
  look: Look,
  variant: string | undefined,
  over: ReadonlyMap<string, readonly number[]> = new Map(),
): Look {
  const { program } = look;
  const values = settingValues(program, variant, over);
  const key = JSON.stringify([...values.switches]);
  if (key === JSON.stringify([...look.values.switches])) return { ...look, values };
  const known = made.get(look.glsl) ?? new Map<string, { readonly graph: Graph; readonly glsl: ShaderMaterial }>();
  made.set(look.glsl, known);
  let shaders = known.get(key);
  if (!shaders) {
    const { graph } = compile(program, { values });
    shaders = { graph, glsl: stageShader(program, graph) };
    known.set(key, shaders);
  }
  return { ...look, ...shaders, values };
}
