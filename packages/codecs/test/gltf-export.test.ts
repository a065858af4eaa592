import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from '@jest/globals';
import { nodeDecoder, packageImage } from '@estela/codecs/node';
import { materialGlb, setGlb, type GltfSetItem } from '@estela/codecs/gltf';
import { readGltfMaterials, readMesh } from '@estela/codecs/mesh';
import {
  check,
  compile,
  gltfMaterialText,
  parse,
  shapeMesh,
  type GlbReport,
  type PixelImage,
  type Program,
  type SlotReport,
} from '@estela/core';
import fc from 'fast-check';
import { validateBytes } from 'gltf-validator';
import { jsonOf, unresolved } from './pointers.ts';

const DEMO = join(import.meta.dirname, '../../../demo');
const texts = ['materials', 'starts'].flatMap((folder) =>
  readdirSync(join(DEMO, folder))
    .filter((name) => name.endsWith('.wake'))
    .map((name) => [name, readFileSync(join(DEMO, folder, name), 'utf8')] as const),
);
const HEAD = 'material "One"\nloop 2s at 30fps\nsurface lit blend two-sided\nimage a = "a.png" repeat linear color\n';
const picture: PixelImage = {
  width: 8,
  height: 4,
  data: Uint8Array.from({ length: 8 * 4 * 4 }, (_, i) => (i * 37) % 256),
};

const programOf = (text: string): Program => {
  const program = check(parse(text));
  expect(program.diagnostics.filter((d) => d.severity === 'error')).toEqual([]);
  return program;
};
const written = (
  program: Program,
  more: Partial<Parameters<typeof materialGlb>[1]> = {},
): ReturnType<typeof materialGlb> =>
  materialGlb(program, {
    mesh: shapeMesh('sphere', 8),
    meshName: 'sphere',
    images: () => picture,
    imageType: 'png',
    size: 32,
    frames: 0,
    ...more,
  });

/** What another judge, and our own eye for pointers, find wrong with a file. */
async function faults(bytes: Uint8Array): Promise<string[]> {
  const { issues } = await validateBytes(bytes);
  return [...issues.messages.filter((m) => m.severity < 2).map((m) => m.code), ...unresolved(bytes)];
}

describe('materials as GLB', () => {
  it.each(texts)('%s is clean to the validator, with its variants, still and as flipbooks', async (name, text) => {
    const program = programOf(text);
    for (const frames of [0, 6]) {
      const { bytes, report } = await written(program, { frames });
      expect([name, await faults(bytes)]).toEqual([name, []]);
      expect(report.materials.map((m) => m.variant)).toEqual([undefined, ...program.variants.map((v) => v.name)]);
      const { asset, extensions, materials } = jsonOf(bytes);
      expect(asset.extras.estela).toEqual(JSON.parse(JSON.stringify(report)));
      expect(extensions?.KHR_materials_variants?.variants.map((v) => v.name) ?? []).toEqual(
        program.variants.map((v) => v.name),
      );
      for (const material of materials)
        for (const v of [...(material.pbrMetallicRoughness?.baseColorFactor ?? []), ...(material.emissiveFactor ?? [])])
          expect(v).toBeGreaterThanOrEqual(0);
    }
  });

  it('writes what glTF has words for: cutoffs that move, bright light, what bends, tangents, and each kind of texture', async () => {
    const program = programOf(
      `${HEAD.replace('blend', 'mask')}out color = uv |> sample(a)\nout opacity = uv |> fbm(3)\nout cutoff = swing(-0.2, 1.2, 1 lap)\nout emissive = (uv |> fbm(4)) * (6, 3, 0.5) * swing(0.1, 1, 1 lap)\nout normal = uv |> fbm(4) |> bump(0.2)\n`,
    );
    const { bytes, report } = await written(program);
    expect(await faults(bytes)).toEqual([]);
    const { materials, animations, meshes } = jsonOf(bytes);
    const pointers = animations.flatMap((a) =>
      a.channels.map((c) => c.target.extensions?.KHR_animation_pointer?.pointer),
    );
    expect(pointers.sort()).toEqual(['/materials/0/alphaCutoff', '/materials/0/emissiveFactor']);
    const strength = materials[0]!.extensions!.KHR_materials_emissive_strength!.emissiveStrength;
    expect(strength).toBeGreaterThan(3);
    expect(meshes[0]!.primitives[0]!.attributes).toHaveProperty('TANGENT');
    expect(report.materials[0]!.slots.map((s) => [s.slot, s.fidelity])).toEqual([
      ['baseColor', 'exact'],
      ['normal', 'exact'],
      ['emissive', 'keyed'],
    ]);
    const glass = await written(
      programOf(`${HEAD}out color = (0.9, 0.9, 1)\nout opacity = 0.2\nout refraction = 1.3\n`),
    );
    expect(await faults(glass.bytes)).toEqual([]);
    const [clear] = jsonOf(glass.bytes).materials;
    expect([clear!.alphaMode, clear!.extensions]).toEqual([
      undefined,
      {
        KHR_materials_ior: { ior: 1.3 },
        KHR_materials_transmission: { transmissionFactor: expect.closeTo(0.8, 5) as unknown },
      },
    ]);
    for (const [imageType, mime] of [
      ['jpeg', 'image/jpeg'],
      ['webp', 'image/webp'],
    ] as const) {
      const opaque = programOf('loop 1s at 4fps\nsurface unlit opaque\nout color = uv |> fbm(4)\n');
      const { images } = jsonOf((await written(opaque, { imageType })).bytes);
      expect(images!.map((i) => i.mimeType)).toEqual([mime]);
    }
  });

  it('says what goes beyond glTF, and bakes it', async () => {
    const over = programOf(`${HEAD}out color = (uv |> fbm(4)) * swing(0.5, 3, 1 lap)\n`);
    const { report } = await written(over);
    expect(report.materials[0]!.slots[0]).toMatchObject({
      fidelity: 'baked',
      why: expect.stringContaining('leave 0 to 1') as unknown,
    });
    const places = programOf(`${HEAD}out color = (uv |> pan(1 lap) |> sample(a)).rgb * facing()\n`);
    const slot = (await written(places)).report.materials[0]!.slots[0]!;
    expect([slot.fidelity, slot.line]).toEqual(['left out', 5]);
    await expect(written(check(parse('out color = nothing')))).rejects.toThrow('nothing');
  });
});

describe('sets as GLB', () => {
  const moving = programOf(
    'material "Moving"\nloop 2s at 30fps\nsurface unlit opaque\nimage a = "a.png" repeat linear color\nout color = uv |> pan(1 lap) |> sample(a)\nvariant "Other" { }\n'.replace(
      'variant "Other" { }\n',
      '',
    ),
  );
  const item = (more: Partial<GltfSetItem>): GltfSetItem => ({
    name: 'thing',
    mesh: shapeMesh('plane', 1),
    placing: { position: [1, 2, 3], turn: [0, 90, 0], scale: 2, copies: { kind: 'row', count: 3, step: [1, 0, 0] } },
    material: { program: moving, variant: undefined },
    turning: 0,
    delay: 0,
    isOverlay: false,
    ...more,
  });
  const set = (items: readonly GltfSetItem[], isInstanced = false): ReturnType<typeof setGlb> =>
    setGlb(
      {
        name: 'Set',
        items,
        environment: 'dusk',
        exposure: 1,
        view: { from: [0, 1, 4], at: [0, 0, 0] },
        opening: 35,
        notes: [],
      },
      { images: () => picture, imageType: 'png', size: 32, frames: 0, isInstanced },
    );

  it('shares meshes and materials among copies, and gives late ones keys of their own', async () => {
    const mesh = shapeMesh('plane', 1);
    const alike = await set([item({ mesh }), item({ mesh })]);
    expect(await faults(alike.bytes)).toEqual([]);
    const plain = jsonOf(alike.bytes);
    expect([plain.nodes.length, plain.meshes.length, plain.materials.length]).toEqual([2 * 4 + 2, 1, 1]);
    const late = await set([item({ delay: 0.5 })]);
    expect(await faults(late.bytes)).toEqual([]);
    const { materials, images, animations } = jsonOf(late.bytes);
    expect(materials.map((m) => m.name)).toEqual(['Moving', 'Moving, 0.5 s later', 'Moving, 1 s later']);
    expect([images!.length, animations.length, animations[0]!.channels.length]).toEqual([1, 1, 3]);
    expect(late.report.materials.length).toBe(1);
  });

  it('turns nodes, instances those that stand, and puts overlays on the camera', async () => {
    const turning = await set([item({ turning: -6 }), item({ isOverlay: true }), item({ material: undefined })], true);
    expect(await faults(turning.bytes)).toEqual([]);
    const { nodes, animations, cameras, extensionsRequired } = jsonOf(turning.bytes);
    expect(animations.map((a) => a.channels.filter((c) => c.target.path === 'rotation').length)).toEqual([0, 3]);
    expect(nodes.filter((n) => n.extensions?.EXT_mesh_gpu_instancing).length).toBe(1);
    expect(extensionsRequired).toEqual(['EXT_mesh_gpu_instancing']);
    expect([cameras!.length, nodes.find((n) => n.camera !== undefined)!.children!.length]).toEqual([1, 1]);
    expect(turning.report.notes.join('\n')).toMatch(/key light[^]*exposure[^]*in front of the camera[^]*nodes/);
    const { mesh } = await readMesh('set.glb', turning.bytes);
    expect(mesh.indices.length).toBeGreaterThan(0);
  });
});

describe('what others animate', () => {
  /** A report without what hangs on sizes and names. */
  const bare = ({ materials }: GlbReport): Partial<SlotReport>[][] =>
    materials.map(({ slots }) => slots.map(({ slot, fidelity }) => ({ slot, fidelity })));

  it('comes back as a material that leaves the same', async () => {
    const still = fc.constantFrom(
      'tile(2)',
      'tile(3, 2)',
      'offset(0.25, 0.1)',
      'turn(90deg)',
      'turn(30deg)',
      'scale(2)',
    );
    const move = fc.constantFrom(
      'pan(1 lap)',
      'pan(right: 2 laps, up: -1 lap)',
      'spin(1 lap)',
      'spin(-2 laps, pivot: (0.25, 0.5))',
    );
    await fc.assert(
      fc.asyncProperty(
        fc.array(still, { maxLength: 2 }),
        fc.option(move),
        fc.boolean(),
        async (before, moving, lit) => {
          const chain = ['uv', ...before, ...(moving === null ? [] : [moving])].join(' |> ');
          const outputs = `out color = (${chain} |> sample(a)) * (1, 0.5, 0.25, 1)\n${lit ? `out roughness = ${chain} |> fbm(3)\nout metallic = 0.5\n` : ''}`;
          const first = await written(
            programOf(`${HEAD.replace('lit blend', lit ? 'lit opaque' : 'unlit opaque')}${outputs}`),
          );
          // What was baked comes back as the still picture that it is.
          fc.pre(first.report.materials[0]!.slots[0]!.fidelity !== 'baked');
          const { materials, images, notes } = await readGltfMaterials(first.bytes);
          expect(notes).toEqual([]);
          const names = new Map([...images].map(([number, image]) => [number, image.name]));
          const back = gltfMaterialText(materials[0]!, 'Back', names);
          // What is baked of a stretched picture may tile along one axis alone.
          expect([chain, back.notes.filter((n) => !n.startsWith('A texture wraps'))]).toEqual([chain, []]);
          const { diagnostics } = compile(back.text);
          expect([back.text, diagnostics.filter((d) => d.severity !== 'note')]).toEqual([back.text, []]);
          const decoder = nodeDecoder();
          const pixels = new Map<string, PixelImage>();
          for (const { name, bytes } of images.values()) pixels.set(name, await packageImage(decoder, bytes));
          const second = await written(programOf(back.text), { images: ({ source }) => pixels.get(source) });
          expect([back.text, second.report.materials[0]!.slots[0]!.why, bare(second.report)]).toEqual([
            back.text,
            undefined,
            bare(first.report),
          ]);
        },
      ),
      { numRuns: 30, examples: [[['tile(3, 2)', 'turn(30deg)'], 'spin(1 lap)', false]] },
    );
  });
});
