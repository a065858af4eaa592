import { INPUT_NAMES } from '../../backends/shader/emit.ts';
import { PIXEL_INPUTS, scalarOf, widthOf, type IrType, type PixelInput } from '../../ir/node.ts';
import type { CodeOptions } from './code.ts';
import { dialsOf, variantsOf } from './js-module.ts';
import { std140, type Placed } from './layout.ts';
import { blockOf } from './main-stage.ts';
import type { PackageShader } from './shaders.ts';
import type { PackageTexture } from './textures.ts';

/** What each input is, and how a host supplies it. */
export const MEANINGS: Readonly<Record<PixelInput, string>> = {
  uv: 'Texture coordinate of the pixel, v down: 0, 0 is the top left.',
  uv2: 'Second texture coordinate of the pixel, v down; pass the first where a mesh has none.',
  screen: 'Screen position, 0..1, v down: the pixel divided by the size of the target.',
  position: 'Position on the mesh in metres: the vertex as stored, interpolated.',
  world: 'World position in metres: the vertex after the model matrix, interpolated.',
  vertex_color: 'Colour of the vertex, linear; white where a mesh has none.',
  facing: 'Cosine of the angle between the normal and the view direction, 0..1: max(dot(N, V), 0).',
  depth_behind:
    'Metres from the surface to what is behind it along the view, from the depth buffer; 1e6 where there is nothing.',
};

const SCALARS = { f: 'float', i: 'int', u: 'uint', b: 'bool' } as const;
/** A type in plain words: `float`, or how many of them. */
const typeName = (type: IrType): string =>
  `${SCALARS[scalarOf(type)]}${widthOf(type) === 1 ? '' : String(widthOf(type))}`;

const blockIn = ({ size, fields }: { readonly size: number; readonly fields: readonly Placed[] }): object => ({
  size,
  fields: fields.map(({ name, type, offset }) => ({ name, type: typeName(type), offset })),
});

/** Hours after which a 32-bit time no longer tells moments a sixteenth of a frame apart. */
export const hoursToLostPrecision = (fps: number): number => Math.round((2 ** 23 / (16 * fps) / 3600) * 100) / 100;

const shaderEntry = (model: PackageShader): object => {
  const { shader, values, name, variants, returns } = model;
  return {
    name: name.file,
    variants,
    switches: Object.fromEntries(values.switches),
    period: returns?.seconds ?? null,
    functions: { material: shader.names.material, frame: shader.names.frame },
    structs: { dials: shader.names.Dials, frame: shader.names.Frame, outputs: shader.names.Outputs },
    inputs: shader.inputs.map((i) => ({ name: INPUT_NAMES[i], type: typeName(PIXEL_INPUTS[i]), meaning: MEANINGS[i] })),
    outputs: shader.outputs.map((o) => ({ name: o.name, type: typeName(o.type) })),
    block: blockIn(blockOf(shader)),
    frame: blockIn(std140(shader.uniforms)),
    images: shader.samplers.map(({ name: sampler, slot }) => ({
      name: sampler,
      source: slot.source,
      wrap: slot.wrap,
      filter: slot.filter,
      encoding: slot.encoding,
      bindAsSrgb: slot.encoding === 'color',
    })),
  };
};

/** What a host must know of a package, held by docs/manifest.schema.json. `files` are all of it, the manifest too. */
export function manifestOf(
  { variant, revision, normalY = 'up' }: CodeOptions,
  shaders: readonly [PackageShader, ...PackageShader[]],
  textures: readonly PackageTexture[],
  files: readonly string[],
): object {
  const [first] = shaders;
  const { program, returns, shader } = first;
  const { loop, surface } = program;
  return {
    format: 'estela-package',
    version: 1,
    title: program.title,
    name: first.name.identifier,
    revision: revision ?? null,
    variant: variant ?? null,
    loop: { seconds: loop.seconds, fps: loop.fps, frames: loop.frames },
    time: {
      unit: 'seconds',
      period: returns?.seconds ?? null,
      periodDials: shader.dials.filter(({ dial }) => returns?.dials.includes(dial)).map((d) => d.name),
      hoursToLostPrecision: hoursToLostPrecision(loop.fps),
    },
    surface: { lit: surface.lit, mode: surface.mode, twoSided: surface.twoSided },
    normals: `y ${normalY}`,
    dials: dialsOf(first),
    variants: variantsOf(program, shader),
    shaders: shaders.map(shaderEntry),
    textures: textures.map(({ source, file, width, height, bits, bytes, sha256, converted }) => ({
      source,
      file: file ?? null,
      ...(file === undefined ? {} : { width, height, bits, bytes: bytes.length, sha256, converted }),
    })),
    files,
  };
}
