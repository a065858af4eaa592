import { INPUT_NAMES } from '../../backends/shader/emit.ts';
import { PIXEL_INPUTS, scalarOf, widthOf, type IrType, type PixelInput } from '../../ir/node.ts';
import type { PackageName } from './identifier.ts';
import { dialsOf, variantsOf } from './js-module.ts';
import { std140 } from './layout.ts';
import type { HostModel } from './host.ts';
import { blockOf } from './main-stage.ts';

/** How a host supplies what differs from pixel to pixel. */
const MEANINGS: Readonly<Record<PixelInput, string>> = {
  uv: 'texture coordinate, v down',
  uv2: 'second texture coordinate, v down',
  screen: 'place on the screen, 0..1, v down',
  position: 'place on the mesh, in metres',
  world: 'place in the world, in metres',
  vertex_color: 'colour of the vertex, linear',
  facing: 'cosine of the angle between normal and view, 0..1',
  depth_behind: 'metres from the surface to what is behind it, along the view; 1e6 where there is nothing',
};

const SCALARS = { f: 'float', i: 'int', u: 'uint', b: 'bool' } as const;
/** A type in plain words: `float`, or how many of them. */
const typeName = (type: IrType): string =>
  `${SCALARS[scalarOf(type)]}${widthOf(type) === 1 ? '' : String(widthOf(type))}`;

/** What a host must know of a package, held by docs/manifest.schema.json. */
export function manifestOf(
  model: HostModel,
  name: PackageName,
  variant: string | undefined,
  files: readonly string[],
): object {
  const { program, shader, period } = model;
  const { loop, surface } = program;
  const block = blockOf(shader);
  const frame = std140(shader.uniforms);
  return {
    format: 'estela-package',
    version: 1,
    title: program.title,
    name: name.identifier,
    variant: variant ?? null,
    loop: { seconds: loop.seconds, fps: loop.fps, frames: Math.round(loop.seconds * loop.fps) },
    time: { unit: 'seconds', period: period ?? null },
    surface: { lit: surface.lit, mode: surface.mode, twoSided: surface.twoSided },
    normals: 'y up',
    functions: { material: shader.names.material, frame: shader.names.frame },
    structs: { dials: shader.names.Dials, frame: shader.names.Frame, outputs: shader.names.Outputs },
    inputs: shader.inputs.map((i) => ({ name: INPUT_NAMES[i], type: typeName(PIXEL_INPUTS[i]), meaning: MEANINGS[i] })),
    outputs: shader.outputs.map((o) => ({ name: o.name, type: typeName(o.type) })),
    dials: dialsOf(model),
    variants: variantsOf(program, shader),
    block: {
      size: block.size,
      fields: block.fields.map(({ name: field, type, offset }) => ({ name: field, type: typeName(type), offset })),
    },
    frame: {
      size: frame.size,
      fields: frame.fields.map(({ name: field, type, offset }) => ({ name: field, type: typeName(type), offset })),
    },
    images: shader.samplers.map(({ name: sampler, slot }) => ({
      name: sampler,
      source: slot.source,
      wrap: slot.wrap,
      filter: slot.filter,
      encoding: slot.encoding,
      bindAsSrgb: slot.encoding === 'color',
    })),
    files,
  };
}
