import { beforeAll, describe, expect, it } from '@jest/globals';
import { materialGlb } from '@estela/codecs/gltf';
import { MeshRefused, readGltfMaterials } from '@estela/codecs/mesh';
import { check, compile, gltfMaterialText, parse, shapeMesh } from '@estela/core';
import fc from 'fast-check';
import { jsonOf } from './pointers.ts';

let whole: Uint8Array<ArrayBuffer>;
beforeAll(async () => {
  const program = check(
    parse(
      'material "A "\nloop 2s at 30fps\nsurface lit mask\nimage a = "a.png" repeat linear color\nout color = uv |> tile(2) |> spin(1 lap, pivot: (0.3, 0.5)) |> sample(a)\nout roughness = (uv |> pan(1 lap) |> sample(a)).g * swing(0.2, 0.8, 1 lap)\nout opacity = 0.5\n',
    ),
  );
  ({ bytes: whole } = await materialGlb(program, {
    mesh: shapeMesh('plane', 1),
    meshName: 'plane',
    images: () => ({ width: 2, height: 2, data: Uint8Array.from({ length: 16 }, (_, i) => i * 16) }),
    imageType: 'png',
    size: 16,
    frames: 0,
  }));
});

type Json = Record<string, unknown>;
/** The file with another JSON. */
function withJson(change: (json: Json) => unknown): Uint8Array<ArrayBuffer> {
  const json = jsonOf(whole) as unknown as Json;
  const text = JSON.stringify(change(json) ?? json);
  const chunk = new TextEncoder().encode(text.padEnd(Math.ceil(text.length / 4) * 4));
  const rest = whole.subarray(20 + new DataView(whole.buffer).getUint32(12, true));
  const bytes = new Uint8Array(20 + chunk.length + rest.length);
  bytes.set(whole.subarray(0, 20));
  bytes.set(chunk, 20);
  bytes.set(rest, 20 + chunk.length);
  const view = new DataView(bytes.buffer);
  view.setUint32(8, bytes.length, true);
  view.setUint32(12, chunk.length, true);
  return bytes;
}
/** A part of a JSON, by its way. */
const at = (json: unknown, ...path: readonly (string | number)[]): Json =>
  path.reduce<unknown>((part, name) => (part as Json)[name], json) as Json;
const channel = (json: Json): Json =>
  at(json, 'animations', 0, 'channels', 0, 'target', 'extensions', 'KHR_animation_pointer');
const sampler = (json: Json): Json => at(json, 'animations', 0, 'samplers', 0);

describe('materials of a glTF file', () => {
  it('come with their textures, their motion, and what is not read of them', async () => {
    const { materials, images, notes } = await readGltfMaterials(whole);
    expect([materials.length, images.size, notes]).toEqual([1, 2, []]);
    const names = new Map([...images].map(([number, { name }]) => [number, name]));
    expect([...names.values()]).toEqual(['A  base colour.png', 'A  roughness and metal.png']);
    const { text, notes: own } = gltfMaterialText(materials[0]!, 'B "quoted"\nline', names);
    expect(own).toEqual(['Its roughnessFactor is animated, which is not imported.']);
    expect(text).toContain('tile(2, 2) |> spin(1 lap, pivot: (0.3, 0.5))');
    expect(text).toContain('pan(right: 1 lap, up: 0 laps)');
    expect(text).toContain('surface lit mask one-sided');
    const { diagnostics, program } = compile(text);
    expect([text, diagnostics.filter((d) => d.severity !== 'note')]).toEqual([text, []]);
    expect(program.title).toBe("B 'quoted' line".replace(' line', "'line"));
  });

  it.each<[string, (json: Json) => unknown, string]>([
    [
      'a material that does not exist',
      (json) => {
        channel(json).pointer = '/materials/7/alphaCutoff';
      },
      'a material that does not exist',
    ],
    [
      'a pointer that is none',
      (json) => {
        channel(json).pointer = 5;
      },
      'no valid target',
    ],
    [
      'keys that are not there',
      (json) => {
        sampler(json).output = 999;
      },
      'does not exist',
    ],
    [
      'keys of another kind',
      (json) => {
        sampler(json).output = sampler(json).input;
      },
      'the wrong type',
    ],
    [
      'as many moments as it likes',
      (json) => {
        at(json, 'accessors', sampler(json).input as number).count = 1;
      },
      'a different number of values',
    ],
    [
      'another way from key to key',
      (json) => {
        sampler(json).interpolation = 'WISH';
      },
      'unknown interpolation',
    ],
    [
      'bytes beyond the file',
      (json) => {
        at(json, 'bufferViews', at(json, 'images', 0).bufferView as number).byteLength = 1e9;
      },
      'past the end',
    ],
    [
      'an image beside it',
      (json) => {
        json.images = [{ uri: 'far.png' }, { uri: 'far.png' }];
      },
      'far.png',
    ],
    [
      'a factor that is none',
      (json) => {
        at(json, 'materials', 0, 'pbrMetallicRoughness').roughnessFactor = 'rough';
      },
      'a number of a material',
    ],
    [
      'another alpha mode',
      (json) => {
        at(json, 'materials', 0).alphaMode = 'GLOW';
      },
      'alpha mode',
    ],
  ])('are refused with %s', async (_, change, why) => {
    const reading = readGltfMaterials(
      withJson((json) => {
        change(json);
      }),
    );
    await expect(reading).rejects.toThrow(MeshRefused);
    await expect(reading).rejects.toThrow(why);
  });

  it('are refused where moments do not rise, and say of curves that they are not read', async () => {
    const turned = withJson((json) => {
      // The moments are read from what are values.
      const { input, output } = sampler(json) as { input: number; output: number };
      const view = at(json, 'accessors', output);
      Object.assign(at(json, 'accessors', input), { bufferView: view.bufferView, byteOffset: view.byteOffset });
    });
    await expect(readGltfMaterials(turned)).rejects.toThrow('do not increase');
    const curved = await readGltfMaterials(
      withJson((json) => {
        sampler(json).interpolation = 'CUBICSPLINE';
      }),
    );
    expect(curved.materials[0]!.notes.join()).toContain('spline keys');
  });

  it('never fail otherwise than in words, whatever stands in the file', async () => {
    const value = fc.oneof(
      fc.constantFrom<unknown>(null, -1, 0, 1, 1e9, NaN, 'x', '', [], {}, true, [1, 2, 3], { a: 1 }),
      fc.double(),
    );
    await fc.assert(
      fc.asyncProperty(fc.array(fc.nat(400), { minLength: 1, maxLength: 3 }), value, async (places, put) => {
        const bytes = withJson((json) => {
          const parts: [Json, string][] = [];
          const walk = (part: unknown): void => {
            if (typeof part !== 'object' || part === null) return;
            for (const name of Object.keys(part)) {
              parts.push([part as Json, name]);
              walk((part as Json)[name]);
            }
          };
          walk(json);
          for (const place of places) {
            const [part, name] = parts[place % parts.length]!;
            part[name] = put;
          }
        });
        try {
          const { materials, images } = await readGltfMaterials(bytes);
          const names = new Map([...images].map(([number, image]) => [number, image.name]));
          for (const material of materials) {
            const { text } = gltfMaterialText(material, material.name, names);
            expect([text, compile(text).diagnostics.filter((d) => d.severity === 'error')]).toEqual([text, []]);
          }
        } catch (error) {
          if (!(error instanceof MeshRefused)) throw error;
          expect(error.message).toMatch(/^(is|has|needs|takes) .*\.$/);
        }
      }),
      { numRuns: 400 },
    );
  });
});
