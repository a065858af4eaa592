import { TRIANGLE_LIMIT } from '@estela/core';
import { MathUtils, type GLTF } from '@gltf-transform/core';
import { Accessors, Kept } from './gltf-accessors.ts';
import { at, broken, isPart, partsIn, whole, type Part } from './gltf-part.ts';
import { compressed, PART_LIMIT, tooManyParts, tooManyTriangles } from './limits.ts';
import { flaws } from '../wording.ts';

/**
 * Counts everything a glTF file speaks of from its JSON, before anything is made of it, and leaves only what is read
 * here.
 */

/** A mesh where it stands in the scene. */
export interface Placed {
  /** Its place among the meshes that are kept. */
  readonly mesh: number;
  /** 4x4, columns first. */
  readonly matrix: readonly number[];
}

export interface GltfScene {
  /** Meshes with the accessors they need, and nothing else. Buffer i is named by its number. */
  readonly json: GLTF.IGLTF;
  readonly placed: readonly Placed[];
  /** Whether bones move any of it. */
  readonly skinned: boolean;
}

/** What is read of a primitive, and what elements it may have. */
const ATTRIBUTES: Readonly<Record<string, readonly string[]>> = {
  POSITION: ['VEC3'],
  NORMAL: ['VEC3'],
  TEXCOORD_0: ['VEC2'],
  COLOR_0: ['VEC3', 'VEC4'],
};

/** Triangles that so many vertices in a row make (glTF 2.0, 3.7.2.1): a list, a strip or a fan. */
const trianglesOf = (mode: unknown, vertices: number): number =>
  mode === 4 ? Math.floor(vertices / 3) : mode === 5 || mode === 6 ? Math.max(vertices - 2, 0) : 0;

interface CountedMesh {
  readonly number: number;
  readonly primitives: number;
  readonly triangles: number;
}

/**
 * What the scene of a glTF file shows. `lengths` are those of its buffers, in bytes. Throws MeshRefused for what is
 * broken or beyond a limit.
 */
export function sceneOf(json: Part, lengths: readonly number[]): GltfScene {
  const version = versionOf(json);
  const [meshes, nodes] = [partsIn(json, 'meshes'), partsIn(json, 'nodes')];
  const accessors = new Accessors(json, lengths);
  const kept = new Kept();
  const counted = new Map<Part, CountedMesh>();
  const meshOf = (index: unknown): CountedMesh => {
    const part = at(meshes, index, 'a mesh');
    let mesh = counted.get(part);
    if (!mesh) {
      const primitives = partsIn(part, 'primitives').map((p) => primitiveOf(p, accessors));
      const number = kept.keep(index as number, () => ({ primitives: primitives.map((p) => p.part) }));
      mesh = { number, primitives: primitives.length, triangles: primitives.reduce((sum, p) => sum + p.triangles, 0) };
      counted.set(part, mesh);
    }
    return mesh;
  };

  const placed: Placed[] = [];
  let [skinned, primitives, triangles] = [false, 0, 0];
  for (const { node, matrix } of walk(json, nodes)) {
    if (node.mesh === undefined) continue;
    const mesh = meshOf(node.mesh);
    skinned ||= node.skin !== undefined;
    primitives += mesh.primitives;
    triangles += mesh.triangles;
    if (primitives > PART_LIMIT) throw tooManyParts(primitives);
    placed.push({ mesh: mesh.number, matrix });
  }
  if (triangles > TRIANGLE_LIMIT) throw tooManyTriangles(triangles);
  return {
    json: { ...accessors.json(version), meshes: kept.list as unknown as GLTF.IMesh[] },
    placed,
    skinned,
  };
}

/** The version of a file that can be read here. Throws MeshRefused for another, and for one that is packed. */
export function versionOf(json: Part): string {
  const required = Array.isArray(json.extensionsRequired) ? json.extensionsRequired.map(String) : [];
  const packed = required.find((name) => /compression|draco|meshopt/i.test(name));
  if (packed !== undefined) throw compressed(packed);
  const version = isPart(json.asset) && typeof json.asset.version === 'string' ? json.asset.version : '';
  if (version.startsWith('2.')) return version;
  throw broken(version === '' ? flaws.noVersion : flaws.otherVersion(version.slice(0, 20)));
}

/** A primitive with the attributes that are read here, and its triangles. */
function primitiveOf(
  { attributes, indices, mode = 4 }: Part,
  accessors: Accessors,
): { readonly part: Part; readonly triangles: number } {
  if (!isPart(attributes)) throw broken(flaws.noAttributes);
  const read = Object.entries(ATTRIBUTES).flatMap(([name, kinds]) =>
    attributes[name] === undefined ? [] : [[name, accessors.keep(attributes[name], kinds)] as const],
  );
  const position = read.find(([name]) => name === 'POSITION');
  const order = indices === undefined ? position?.[1] : accessors.keep(indices, ['SCALAR'], true);
  return {
    part: {
      attributes: Object.fromEntries(read),
      mode: whole(mode, 'a mode'),
      ...(indices === undefined ? {} : { indices: order }),
    },
    triangles: position && order !== undefined ? trianglesOf(mode, accessors.count(order)) : 0,
  };
}

/**
 * The nodes of the scene that is shown first, or all of them, each with where it stands. A node hangs under one parent
 * at most.
 */
function* walk(
  json: Part,
  nodes: readonly Part[],
): Generator<{ readonly node: Part; readonly matrix: readonly number[] }> {
  const children = (part: Part, name: string): unknown[] => {
    const value = part[name] ?? [];
    if (!Array.isArray(value)) throw broken(flaws.notListOf(name));
    return value;
  };
  const scenes = partsIn(json, 'scenes');
  const scene = json.scene === undefined ? scenes[0] : at(scenes, json.scene, 'a scene');
  const under = new Set(nodes.flatMap((n) => children(n, 'children')));
  const roots = scene ? children(scene, 'nodes') : nodes.flatMap((_, i) => (under.has(i) ? [] : [i]));
  const seen = new Set<Part>();
  const waiting = roots.map((index) => ({ index, above: undefined as readonly number[] | undefined })).reverse();
  for (let next = waiting.pop(); next; next = waiting.pop()) {
    const node = at(nodes, next.index, 'a node');
    if (seen.has(node)) throw broken(flaws.twoParents);
    seen.add(node);
    const own = matrixOf(node);
    const matrix = next.above ? times(next.above, own) : own;
    yield { node, matrix };
    for (const index of [...children(node, 'children')].reverse()) waiting.push({ index, above: matrix });
  }
}

function matrixOf({ matrix, translation, rotation, scale }: Part): number[] {
  const numbers = (value: unknown, otherwise: readonly number[]): number[] => {
    const list: unknown = value ?? otherwise;
    if (!Array.isArray(list) || list.length !== otherwise.length || !list.every(Number.isFinite))
      throw broken(flaws.notFinite);
    return list as number[];
  };
  if (matrix !== undefined) return numbers(matrix, new Array<number>(16).fill(0));
  const [t, r, s] = [numbers(translation, [0, 0, 0]), numbers(rotation, [0, 0, 0, 1]), numbers(scale, [1, 1, 1])];
  return MathUtils.compose(
    t as [number, number, number],
    r as [number, number, number, number],
    s as [number, number, number],
    identity(),
  );
}

type Matrix = Parameters<typeof MathUtils.compose>[3];
const identity = (): Matrix => new Array<number>(16).fill(0) as unknown as Matrix;

/** The product of two 4x4 matrices, columns first. */
const times = (a: readonly number[], b: readonly number[]): number[] =>
  Array.from({ length: 16 }, (_, i) =>
    [0, 1, 2, 3].reduce((sum, k) => sum + a[k * 4 + (i % 4)]! * b[i - (i % 4) + k]!, 0),
  );
