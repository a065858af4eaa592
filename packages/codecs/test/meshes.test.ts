import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { describe, expect, it } from '@jest/globals';
import { mergeMeshes, shapeMesh, SHAPES, TRIANGLE_LIMIT, type MeshData, type ShapeName } from '@estela/core';
import { glbOf, MeshRefused, objOf, readMesh } from '@estela/codecs/mesh';
import fc from 'fast-check';
import { validateBytes } from 'gltf-validator';
import { BufferAttribute, Mesh, type BufferGeometry, Scene, TorusKnotGeometry, type Object3D } from 'three';
import { GLTFExporter } from 'three/addons/exporters/GLTFExporter.js';
import { OBJExporter } from 'three/addons/exporters/OBJExporter.js';
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js';

const text = (value: string): Uint8Array => new TextEncoder().encode(value);
const fixture = async (name: string): Promise<Uint8Array> =>
  new Uint8Array(await readFile(join(import.meta.dirname, 'fixtures', name)));
/** Every corner of every triangle with its place, normal and UV, as words that can be sorted. */
const cornersOf = ({ positions, normals, uvs, indices }: MeshData, places = 3): string[] =>
  Array.from(indices, (v) =>
    [...positions.slice(v * 3, v * 3 + 3), ...normals.slice(v * 3, v * 3 + 3), ...uvs.slice(v * 2, v * 2 + 2)]
      .map((x) => (Math.round(x * 10 ** places) / 10 ** places + 0).toFixed(places))
      .join(' '),
  ).sort();
const colored = (mesh: MeshData): MeshData => ({
  ...mesh,
  colors: Float32Array.from({ length: (mesh.positions.length / 3) * 4 }, (_, i) => (i % 4 === 3 ? 1 : (i % 7) / 7)),
});

/** What three's writers and readers ask of a browser. */
class Reader {
  result: unknown;
  onloadend?: () => void;
  readAsArrayBuffer(blob: Blob): void {
    void blob.arrayBuffer().then((b) => {
      this.result = b;
      this.onloadend?.();
    });
  }
  readAsDataURL(blob: Blob): void {
    void blob.arrayBuffer().then((b) => {
      this.result = `data:application/octet-stream;base64,${Buffer.from(b).toString('base64')}`;
      this.onloadend?.();
    });
  }
}
Object.assign(globalThis, { FileReader: Reader, self: globalThis });

describe('meshes of other programs', () => {
  it('reads what Assimp wrote of a ribbon, as OBJ and as GLB, corner for corner', async () => {
    const ribbon = shapeMesh('ribbon', 6);
    for (const name of ['ribbon-assimp.obj', 'ribbon-assimp.glb']) {
      const read = await readMesh(name, await fixture(name));
      expect([read.hasUvs, read.notes]).toEqual([true, []]);
      expect(cornersOf(read.mesh)).toEqual(cornersOf(ribbon));
      // Corners that are the same in everything are one vertex again.
      expect(read.mesh.positions.length).toBe(ribbon.positions.length);
    }
  });
  it('reads a glTF with its buffer beside it, and names the file that is missing', async () => {
    const bytes = await fixture('radial-assimp.gltf');
    const read = await readMesh(
      'radial.gltf',
      bytes,
      new Map([['radial-assimp.bin', await fixture('radial-assimp.bin')]]),
    );
    expect(cornersOf(read.mesh)).toEqual(cornersOf(shapeMesh('radial', 8)));
    await expect(readMesh('radial.gltf', bytes)).rejects.toThrow('needs the file "radial-assimp.bin" beside it');
  });
  it('reads what the exporters of three wrote: moved, mirrored and nested, with colours', async () => {
    const knot = new TorusKnotGeometry(1, 0.3, 24, 6);
    const count = knot.attributes.position!.count;
    knot.setAttribute(
      'color',
      new BufferAttribute(
        Float32Array.from({ length: count * 3 }, (_, i) => (i % 3) / 4),
        3,
      ),
    );
    const scene = new Scene();
    const mesh = new Mesh(knot);
    mesh.position.set(2, 0, 0);
    mesh.scale.set(-1, 1, 1);
    scene.add(mesh);
    scene.updateMatrixWorld();
    const written = (await new GLTFExporter().parseAsync(scene, { binary: true })) as ArrayBuffer;
    const { mesh: read } = await readMesh('knot.glb', new Uint8Array(written));
    expect(read.indices.length).toBe(knot.index!.count);
    expect([...read.colors!.slice(0, 4)]).toEqual([0, 0.25, 0.5, 1].map((c) => expect.closeTo(c)));
    let against = 0;
    for (let t = 0; t < read.indices.length; t += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => [
        ...read.positions.slice(read.indices[t + k]! * 3, read.indices[t + k]! * 3 + 3),
      ]) as [number[], number[], number[]];
      const [e, f] = [b.map((x, i) => x - a[i]!), c.map((x, i) => x - a[i]!)] as [number[], number[]];
      const n = [e[1]! * f[2]! - e[2]! * f[1]!, e[2]! * f[0]! - e[0]! * f[2]!, e[0]! * f[1]! - e[1]! * f[0]!];
      if (n.reduce((sum, x, k) => sum + x * read.normals[read.indices[t]! * 3 + k]!, 0) < 0) against++;
    }
    expect(against).toBe(0);
    // The middle of a mirrored, moved knot lies where it was moved to.
    const xs = [...read.positions].filter((_, i) => i % 3 === 0);
    expect((Math.max(...xs) + Math.min(...xs)) / 2).toBeCloseTo(2, 0);
    const plain = new TorusKnotGeometry(1, 0.3, 24, 6);
    const obj = await readMesh('knot.obj', text(new OBJExporter().parse(new Mesh(plain))));
    const again = await readMesh(
      'knot.glb',
      new Uint8Array((await new GLTFExporter().parseAsync(new Mesh(plain), { binary: true })) as ArrayBuffer),
    );
    // The two formats run v opposite ways; the writer turns it in neither, the reader in one.
    const turned = { ...obj.mesh, uvs: obj.mesh.uvs.map((x, i) => (i % 2 === 1 ? 1 - x : x)) };
    expect(cornersOf(turned)).toEqual(cornersOf(again.mesh));
  });
});

describe('meshes that are written here', () => {
  it.each(Object.keys(SHAPES) as ShapeName[])(
    '%s is clean to the glTF validator, and reads back the same',
    async (name) => {
      const mesh = colored(shapeMesh(name, 8));
      const bytes = await glbOf(mesh, name);
      const { issues } = await validateBytes(bytes);
      expect(issues.messages.filter((m) => m.severity < 2)).toEqual([]);
      const back = await readMesh(`${name}.glb`, bytes);
      expect(cornersOf(back.mesh, 5)).toEqual(cornersOf(mesh, 5));
      const obj = await readMesh(`${name}.obj`, text(await objOf(mesh, name)));
      expect(cornersOf(obj.mesh)).toEqual(cornersOf(mesh));
      expect(obj.mesh.colors?.length).toBe((obj.mesh.positions.length / 3) * 4);
    },
  );
  it('reads the same to another reader', async () => {
    const mesh = shapeMesh('fall', 12);
    const bytes = await glbOf(mesh, 'fall');
    const { scene } = await new GLTFLoader().parseAsync(bytes.buffer, '');
    let geometry: BufferGeometry | undefined;
    scene.traverse((o: Object3D) => {
      if (o instanceof Mesh) geometry = o.geometry as BufferGeometry;
    });
    const array = (name: string): Float32Array => {
      const attribute = geometry!.attributes[name]!;
      return Float32Array.from({ length: attribute.count * attribute.itemSize }, (_, i) =>
        attribute.getComponent(Math.floor(i / attribute.itemSize), i % attribute.itemSize),
      );
    };
    expect(
      cornersOf({
        positions: array('position'),
        normals: array('normal'),
        uvs: array('uv'),
        indices: Uint32Array.from(geometry!.index!.array),
      }),
    ).toEqual(cornersOf(mesh));
  });
});

describe('refusals', () => {
  it.each([
    ['no mesh', 'a.txt', 'a poem', 'is not a mesh Estela can read'],
    ['text that is none', 'a.obj', 'nothing to see', 'has no triangles'],
    ['bytes as OBJ', 'a.obj', '\xff', 'has no triangles'],
    ['a vertex that is not there', 'a.obj', 'v 0 0 0\nv 1 0 0\nf 1 2 9', 'refers to a vertex that does not exist'],
    ['no JSON', 'a.gltf', '{', 'it is not valid JSON'],
    ['no glTF', 'a.gltf', '{"asset":{"version":"2.0"}}', 'has no triangles'],
    ['another version', 'a.gltf', '{"asset":{"version":"1.0"},"meshes":[]}', 'broken glTF file'],
    [
      'a part that is missing',
      'a.gltf',
      '{"asset":{"version":"2.0"},"meshes":[{"primitives":[{"attributes":{"POSITION":0}}]}],"accessors":[{"bufferView":5,"componentType":5126,"count":3,"type":"VEC3"}],"nodes":[{"mesh":0}],"scenes":[{"nodes":[0]}]}',
      'a buffer view is referred to but does not exist',
    ],
    ['a number beyond all', 'a.obj', 'v 0 0 0\nv 1e20 0 0\nv 0 1 0\nf 1 2 3', 'coordinate in it is too large'],
    [
      'a compressed one',
      'a.gltf',
      '{"asset":{"version":"2.0"},"extensionsRequired":["KHR_draco_mesh_compression"]}',
      'compressed with KHR_draco_mesh_compression',
    ],
    ['a cut GLB', 'a.glb', 'glTF', 'broken GLB file'],
  ])('%s', async (_, name, content, words) => {
    await expect(readMesh(name, text(content))).rejects.toThrow(words);
  });
  it('counts before it keeps: too many triangles, and a buffer that is too short', async () => {
    const many = `v 0 0 0\nv 1 0 0\nv 0 1 0\n${'f 1 2 3\n'.repeat(TRIANGLE_LIMIT + 1)}`;
    await expect(readMesh('many.obj', text(many))).rejects.toThrow('201 thousand triangles; the limit is 200 thousand');
    const whole = await glbOf(shapeMesh('plane', 4), 'plane');
    await expect(readMesh('cut.glb', whole.slice(0, whole.length - 200))).rejects.toThrow('broken GLB');
  });
  it('tells a mesh without UVs', async () => {
    const read = await readMesh('bare.obj', text('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n'));
    expect([read.hasUvs, read.mesh.indices.length]).toEqual([false, 3]);
    expect(mergeMeshes([read.mesh, read.mesh]).indices.length).toBe(6);
  });
});

describe('hostile files are counted before anything is made of them', () => {
  /** A glTF of one triangle with its bytes in it, which can be changed before it is written. */
  const triangle = () => ({
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0] as number[] }],
    nodes: [{ mesh: 0 }] as Record<string, unknown>[],
    meshes: [
      {
        primitives: [
          {
            attributes: { POSITION: 0 } as Record<string, number>,
            indices: 1 as number | undefined,
            mode: 4,
            targets: [] as unknown[],
          },
        ],
      },
    ],
    accessors: [
      { bufferView: 0, componentType: 5126, count: 3, type: 'VEC3' },
      { bufferView: 1, componentType: 5123, count: 3, type: 'SCALAR' },
    ] as Record<string, unknown>[],
    bufferViews: [
      { buffer: 0, byteLength: 36 },
      { buffer: 0, byteOffset: 36, byteLength: 6 },
    ] as Record<string, unknown>[],
    buffers: [
      {
        byteLength: 42,
        uri: `data:application/octet-stream;base64,${Buffer.concat([
          Buffer.from(new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]).buffer),
          Buffer.from(new Uint16Array([0, 1, 2]).buffer),
        ]).toString('base64')}`,
      },
    ] as Record<string, unknown>[],
  });
  type Triangle = ReturnType<typeof triangle>;
  const read = (change: (json: Triangle) => unknown) => {
    const json = triangle();
    change(json);
    return readMesh('a.gltf', text(JSON.stringify(json)));
  };
  const vast = 1_000_000_000;

  it.each<[string, (json: Triangle) => unknown, string]>([
    [
      'a vast count without bytes',
      (j) => (j.accessors[0] = { componentType: 5126, count: vast, type: 'VEC3' }),
      'values for vertices and faces',
    ],
    ['a vast count over few bytes', (j) => (j.accessors[0]!.count = vast), 'values for vertices and faces'],
    ['a count a little beyond its bytes', (j) => (j.accessors[0]!.count = 4), 'goes past the end of its buffer view'],
    [
      'many accessors without bytes',
      (j) => {
        j.accessors = Array.from({ length: 2000 }, () => ({ componentType: 5126, count: 3000, type: 'VEC3' }));
        j.meshes[0]!.primitives = j.accessors.map((_, i) => ({
          attributes: { POSITION: i },
          indices: undefined,
          mode: 0,
          targets: [],
        }));
      },
      'values for vertices and faces',
    ],
    ['a stride of nothing', (j) => (j.bufferViews[0]!.byteStride = 0), 'a stride is too short'],
    ['a view beyond its buffer', (j) => (j.bufferViews[0]!.byteLength = vast), 'goes past the end of its buffer'],
    ['a buffer that is not long enough', (j) => (j.buffers[0]!.byteLength = vast), 'shorter than its byteLength'],
    ['a buffer that is not there', (j) => (j.bufferViews[0]!.buffer = 7), 'a buffer is referred to but does not exist'],
    ['a buffer of a GLB that is none', (j) => delete j.buffers[0]!.uri, 'refers to a buffer that is not in the file'],
    ['a negative count', (j) => (j.accessors[0]!.count = -1), 'not a whole number'],
    ['a count that is no number', (j) => (j.accessors[1]!.count = '3'), 'not a whole number'],
    [
      'an offset beyond all',
      (j) => (j.accessors[0]!.byteOffset = Number.MAX_SAFE_INTEGER),
      'goes past the end of its buffer view',
    ],
    ['indices that are fractions', (j) => (j.accessors[1]!.componentType = 5126), 'component type that is not allowed'],
    [
      'a sparse accessor of more than there are',
      (j) =>
        (j.accessors[0] = {
          ...j.accessors[0],
          sparse: { count: vast, indices: { bufferView: 1, componentType: 5123 }, values: { bufferView: 0 } },
        }),
      'more elements than its accessor',
    ],
    [
      'a sparse accessor beyond its bytes',
      (j) =>
        (j.accessors[0] = {
          componentType: 5126,
          type: 'VEC3',
          count: 300,
          sparse: { count: 200, indices: { bufferView: 1, componentType: 5123 }, values: { bufferView: 0 } },
        }),
      'goes past the end of its buffer view',
    ],
    ['a sparse accessor without values', (j) => (j.accessors[0]!.sparse = { count: 1 }), 'lacks its indices or values'],
    [
      'instances without end',
      (j) => {
        j.nodes = Array.from({ length: 19_999 }, () => ({ mesh: 0 }));
        j.scenes[0]!.nodes = j.nodes.map((_, i) => i);
        j.meshes[0]!.primitives = Array.from({ length: 11 }, () => j.meshes[0]!.primitives[0]!);
      },
      'is made of 20009 parts',
    ],
    [
      'instances of many triangles',
      (j) => {
        j.accessors[1] = { componentType: 5123, count: 60_000, type: 'SCALAR' };
        j.nodes = Array.from({ length: 11 }, () => ({ mesh: 0 }));
        j.scenes[0]!.nodes = j.nodes.map((_, i) => i);
      },
      '220 thousand triangles',
    ],
    ['a node under itself', (j) => (j.nodes[0] = { mesh: 0, children: [0] }), 'its own ancestor'],
    [
      'nodes in a ring',
      (j) => (j.nodes = [{ children: [1] }, { children: [2] }, { children: [0] }]),
      'its own ancestor',
    ],
    ['a node under two', (j) => (j.nodes = [{ children: [1, 2] }, { children: [2] }, { mesh: 0 }]), 'two parents'],
    ['a node that is not there', (j) => (j.nodes[0]!.children = [5]), 'a node is referred to but does not exist'],
    ['a node at no place', (j) => (j.nodes[0]!.matrix = [1, 2]), 'a transform that is not finite'],
    ['too many nodes', (j) => (j.nodes = Array.from({ length: 20_001 }, () => ({}))), 'is made of 20001 parts'],
    ['a list that is none', (j) => Object.assign(j, { nodes: { length: vast } }), 'not a list of objects'],
    ['nothing at all', (j) => Object.keys(j).forEach((k) => Reflect.deleteProperty(j, k)), 'broken glTF file'],
  ])('%s', async (_, change, words) => {
    await expect(read(change)).rejects.toThrow(words);
  });

  it('leaves out what is not shown, however vast: morph targets, other meshes, other attributes', async () => {
    const { mesh } = await read((j) => {
      const none = j.accessors.push({ componentType: 5126, count: vast, type: 'VEC3' }) - 1;
      j.meshes[0]!.primitives[0]!.targets = [{ POSITION: none }];
      j.meshes[0]!.primitives[0]!.attributes.TEXCOORD_7 = none;
      j.meshes.push({ primitives: [{ attributes: { POSITION: none }, indices: undefined, mode: 4, targets: [] }] });
      j.nodes.push({ mesh: 1 });
    });
    expect([...mesh.indices]).toEqual([0, 1, 2]);
  });

  it('follows a chain of nodes as deep as there may be', async () => {
    const { mesh } = await read((j) => {
      j.nodes = Array.from({ length: 20_000 }, (_, i) =>
        i < 19_999 ? { children: [i + 1], translation: [1, 0, 0] } : { mesh: 0 },
      );
    });
    expect(Math.min(...mesh.positions.filter((_, i) => i % 3 === 0))).toBe(19_999);
  });

  it('refuses, or reads within the limits, whatever is changed anywhere', async () => {
    const paths: (readonly (string | number)[])[] = [];
    const list = (value: unknown, path: readonly (string | number)[]): void => {
      paths.push(path);
      if (typeof value === 'object' && value !== null)
        for (const [key, inner] of Object.entries(value))
          list(inner, [...path, Array.isArray(value) ? Number(key) : key]);
    };
    const start = { ...triangle(), extra: {} };
    start.accessors[0]!.sparse = {
      count: 1,
      indices: { bufferView: 1, componentType: 5123 },
      values: { bufferView: 0 },
    };
    start.nodes[0] = {
      mesh: 0,
      skin: 0,
      translation: [0, 0, 0],
      rotation: [0, 0, 0, 1],
      scale: [1, 1, 1],
      children: [],
    };
    for (const [key, inner] of Object.entries(start)) list(inner, [key]);
    const hostile = fc.constantFrom<unknown>(
      undefined,
      null,
      -1,
      0,
      1,
      2,
      3,
      7,
      1.5,
      vast,
      2 ** 53,
      '',
      'x',
      'data:,',
      'data:;base64,%',
      [],
      [0],
      [[]],
      {},
      { length: 3 },
      true,
    );
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.constantFrom(...paths), hostile), { minLength: 1, maxLength: 4 }),
        async (changes) => {
          const json = structuredClone(start) as unknown as Record<string, unknown>;
          for (const [path, value] of changes) {
            const inner = path
              .slice(0, -1)
              .reduce<unknown>(
                (o, key) => (typeof o === 'object' && o !== null ? (o as Record<string, unknown>)[key] : undefined),
                json,
              );
            if (typeof inner === 'object' && inner !== null)
              // One value may be put in twice, the second time into itself.
              (inner as Record<string, unknown>)[path.at(-1)!] = structuredClone(value);
          }
          const outcome = await readMesh('a.gltf', text(JSON.stringify(json))).catch((error: unknown) => error);
          if (outcome instanceof MeshRefused)
            expect(outcome.message).not.toMatch(/undefined|\[object|is not a function/);
          else expect((outcome as { mesh: MeshData }).mesh.indices.length).toBeLessThanOrEqual(TRIANGLE_LIMIT * 3);
        },
      ),
      { numRuns: 400 },
    );
  });

  it('OBJ: groups without end, one face of all, one line broken into many', async () => {
    const corners = 'v 0 0 0\nv 1 0 0\nv 0 1 0\n';
    await expect(readMesh('a.obj', text(`${corners}${'g a\n'.repeat(20_001)}f 1 2 3`))).rejects.toThrow(
      'is made of 20001 parts',
    );
    await expect(readMesh('a.obj', text(`${corners}f${' 1'.repeat(TRIANGLE_LIMIT + 1000)}`))).rejects.toThrow(
      '201 thousand triangles',
    );
    await expect(readMesh('a.obj', text(`${corners}f${' 1 2 3\\\n'.repeat(TRIANGLE_LIMIT)}`))).rejects.toThrow(
      '600 thousand triangles',
    );
  });
});
