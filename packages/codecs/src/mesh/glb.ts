import { weldedPlaces, withNormals, type MeshData } from '@estela/core';
import { BufferUtils, Document, Extension, Primitive, WebIO, type Accessor, type GLTF } from '@gltf-transform/core';
import type { Corners } from './corners.ts';
import { isPart, partsIn, type Part } from './gltf-part.ts';
import { sceneOf, type GltfScene } from './gltf-scene.ts';
import { brokenMesh, lacksFile, MeshRefused } from './limits.ts';
import { flaws, notes } from '../wording.ts';

/** Allows integers for positions and the rest; reading them as numbers is done by the accessors themselves. */
class Quantization extends Extension {
  static override readonly EXTENSION_NAME = 'KHR_mesh_quantization';
  override readonly extensionName = 'KHR_mesh_quantization';
  override read(): this {
    return this;
  }
  override write(): this {
    return this;
  }
}

const io = (): WebIO => new WebIO().registerExtensions([Quantization]);

const { POINTS, TRIANGLE_STRIP, TRIANGLE_FAN, TRIANGLES } = Primitive.Mode as unknown as Record<string, number>;

/** How glTF names the UVs that are read here. */
const UVS = 'TEXCOORD_0';

/** What is known of a glTF scene that is not taken over, as sentences. */
export interface GltfParts {
  readonly parts: Corners[];
  readonly notes: string[];
}

/** The bytes of each buffer: of the GLB, of the text itself, or of a file beside. */
function buffersOf(
  json: Part,
  own: Uint8Array | undefined,
  beside: ReadonlyMap<string, Uint8Array>,
): Uint8Array<ArrayBuffer>[] {
  return partsIn(json, 'buffers').map(({ uri, byteLength }) => {
    const bytes =
      typeof uri !== 'string'
        ? own
        : uri.startsWith('data:')
          ? BufferUtils.createBufferFromDataURI(uri)
          : beside.get(nameIn(uri));
    if (!bytes) throw typeof uri === 'string' ? lacksFile(uri) : brokenMesh('glTF', flaws.bufferElsewhere);
    if (typeof byteLength === 'number' && byteLength > bytes.length) throw brokenMesh('glTF', flaws.shortBuffer);
    return new Uint8Array(bytes);
  });
}

export function nameIn(uri: string): string {
  try {
    return decodeURIComponent(uri).split('/').at(-1) ?? '';
  } catch {
    return uri;
  }
}

/** Longest JSON of a GLB, whose bytes stand beside it, in bytes. */
const TEXT_LIMIT = 16 * 1024 * 1024;

/** The JSON of a GLB, and the bytes beside it (glTF 2.0, 4.4). */
function chunksOf(bytes: Uint8Array): { readonly text: Uint8Array; readonly own: Uint8Array | undefined } {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const version = view.getUint32(4, true);
  if (version !== 2) throw brokenMesh('GLB', flaws.otherVersion(String(version)));
  const chunk = (at: number, kind: number): Uint8Array | undefined => {
    if (at + 8 > bytes.length || view.getUint32(at + 4, true) !== kind) return undefined;
    const end = at + 8 + view.getUint32(at, true);
    if (end > bytes.length) throw brokenMesh('GLB', flaws.cutOff);
    return bytes.subarray(at + 8, end);
  };
  const text = chunk(12, JSON_CHUNK);
  if (!text) throw brokenMesh('GLB', flaws.noJson);
  if (text.length > TEXT_LIMIT) throw brokenMesh('GLB', flaws.longJson);
  return { text, own: chunk(20 + text.length, BINARY_CHUNK) };
}
const [JSON_CHUNK, BINARY_CHUNK] = [0x4e4f534a, 0x004e4942];

/** A glTF file as it was opened: its JSON, of which nothing is known yet, and its buffers. */
export interface OpenGltf {
  readonly json: Part;
  readonly buffers: readonly Uint8Array<ArrayBuffer>[];
}

/** Opens a glTF 2.0 file, as JSON or GLB, and reads it; what is wrong with it is a MeshRefused, in any case. */
export async function withGltf<T>(
  bytes: Uint8Array,
  beside: ReadonlyMap<string, Uint8Array>,
  read: (file: OpenGltf) => Promise<T>,
): Promise<T> {
  const binary = bytes[0] === 0x67 && bytes[1] === 0x6c && bytes[2] === 0x54 && bytes[3] === 0x46;
  const type = binary ? 'GLB' : 'glTF';
  try {
    const { text, own } = binary ? chunksOf(bytes) : { text: bytes, own: undefined };
    const json: unknown = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(text));
    if (!isPart(json)) throw brokenMesh(type, flaws.notGltf);
    return await read({ json, buffers: buffersOf(json, own, beside) });
  } catch (error) {
    if (error instanceof MeshRefused) throw error;
    throw brokenMesh(type, error instanceof SyntaxError ? flaws.notJson : reason(error));
  }
}

/** Reads the triangles of a glTF 2.0 scene, as JSON or GLB; `beside` holds the files that came with it, by name. */
export const readGltf = (bytes: Uint8Array, beside: ReadonlyMap<string, Uint8Array>): Promise<GltfParts> =>
  withGltf(bytes, beside, async ({ json, buffers }) => {
    const scene = sceneOf(
      json,
      buffers.map((b) => b.length),
    );
    return partsOf(await documentOf(scene.json, buffers), scene);
  });

/** Reads JSON that was checked, whose buffers are named by their numbers. */
export const documentOf = (json: GLTF.IGLTF, buffers: OpenGltf['buffers']): Promise<Document> =>
  io().readJSON({ json, resources: Object.fromEntries(buffers.map((b, i) => [String(i), b])) });

/** What the reader says is wrong; where it tripped over something, it says nothing that helps. */
const reason = (error: unknown): string =>
  error instanceof TypeError || error instanceof RangeError
    ? flaws.wrongReference
    : error instanceof Error
      ? error.message.replace(/\.$/, '').replace(/^[A-Z]/, (c) => c.toLowerCase())
      : flaws.unreadable;

function partsOf(document: Document, { placed, skinned }: GltfScene): GltfParts {
  const meshes = document.getRoot().listMeshes();
  const parts: Corners[] = [];
  let left = false;
  for (const { mesh, matrix } of placed)
    for (const primitive of meshes[mesh]!.listPrimitives()) {
      const part = cornersOf(primitive, matrix);
      if (part) parts.push(part);
      else left = true;
    }
  return {
    parts,
    notes: [...(left ? [notes.pointsLeftOut] : []), ...(skinned ? [notes.noSkeletons] : [])],
  };
}

/** The vertices of each triangle in turn; undefined for points and lines. */
function order(primitive: Primitive, count: number): number[] | undefined {
  const indices = primitive.getIndices();
  const at = (i: number): number => (indices ? indices.getScalar(i) : i);
  const length = indices ? indices.getCount() : count;
  const mode = primitive.getMode() as number;
  if (mode === TRIANGLES) return Array.from({ length: length - (length % 3) }, (_, i) => at(i));
  if (mode === TRIANGLE_STRIP)
    return Array.from({ length: Math.max(length - 2, 0) }, (_, i) =>
      i % 2 === 0 ? [at(i), at(i + 1), at(i + 2)] : [at(i + 1), at(i), at(i + 2)],
    ).flat();
  if (mode === TRIANGLE_FAN)
    return Array.from({ length: Math.max(length - 2, 0) }, (_, i) => [at(0), at(i + 1), at(i + 2)]).flat();
  return mode >= (POINTS ?? 0) ? undefined : [];
}

function cornersOf(primitive: Primitive, m: readonly number[]): Corners | undefined {
  const position = primitive.getAttribute('POSITION');
  if (!position) return undefined;
  const count = position.getCount();
  const vertices = order(primitive, count);
  if (!vertices) return undefined;
  if (vertices.some((v) => v >= count)) throw brokenMesh('glTF', flaws.noSuchVertex);
  const read = (
    accessor: Accessor | null,
    width: number,
    change: (value: number[]) => number[],
  ): number[] | undefined => {
    if (!accessor || accessor.getCount() < count) return undefined;
    const element: number[] = [];
    return vertices.flatMap((v) => change(accessor.getElement(v, element).slice(0, width)));
  };
  const times = (value: readonly number[], rows: readonly number[], shift: 0 | 1): number[] =>
    [0, 1, 2].map(
      (k) => rows[k]! * value[0]! + rows[4 + k]! * value[1]! + rows[8 + k]! * value[2]! + shift * (rows[12 + k] ?? 0),
    );
  const normalRows = cofactors(m);
  const mirrored = m[0]! * normalRows[0]! + m[1]! * normalRows[1]! + m[2]! * normalRows[2]! < 0;
  const color = primitive.getAttribute('COLOR_0');
  const colorWidth = color?.getElementSize() === 3 ? 3 : 4;
  const colors = read(color, colorWidth, (c) => c);
  const part: Corners = {
    positions: read(position, 3, (p) => times(p, m, 1))!,
    normals: read(primitive.getAttribute('NORMAL'), 3, (n) => times(n, normalRows, 0).map((x) => (mirrored ? -x : x))),
    uvs: read(primitive.getAttribute(UVS), 2, (uv) => uv),
    colors: colors && { values: colors, width: colorWidth },
  };
  return mirrored ? rewound(part) : part;
}

/** The matrix that normals turn by: cofactors of the upper 3x3, laid out as a 4x4 with columns first. */
function cofactors(m: readonly number[]): number[] {
  const [a, b, c, d, e, f, g, h, i] = [m[0]!, m[1]!, m[2]!, m[4]!, m[5]!, m[6]!, m[8]!, m[9]!, m[10]!] as const;
  return [
    e * i - f * h,
    f * g - d * i,
    d * h - e * g,
    0,
    c * h - b * i,
    a * i - c * g,
    b * g - a * h,
    0,
    b * f - c * e,
    c * d - a * f,
    a * e - b * d,
    0,
  ];
}

/** Each triangle the other way round, as a mirroring asks for. */
function rewound({ positions, normals, uvs, colors }: Corners): Corners {
  const turn = (values: ArrayLike<number>, width: number): number[] =>
    Array.from({ length: values.length }, (_, i) => {
      const corner = Math.floor(i / width);
      return values[(corner - (corner % 3) + [0, 2, 1][corner % 3]!) * width + (i % width)]!;
    });
  return {
    positions: turn(positions, 3),
    normals: normals && turn(normals, 3),
    uvs: uvs && turn(uvs, 2),
    colors: colors && { values: turn(colors.values, colors.width), width: colors.width },
  };
}

/** A mesh as GLB (glTF 2.0): one node, one mesh, positions, normals, UVs and vertex colours. */
export async function glbOf(mesh: MeshData, name: string): Promise<Uint8Array<ArrayBuffer>> {
  const document = new Document();
  document.getRoot().getAsset().generator = 'Estela';
  const primitive = primitiveOf(document, mesh);
  if (mesh.colors)
    primitive.setAttribute(
      'COLOR_0',
      accessorOf(
        document,
        'VEC4',
        mesh.colors.map((c) => Math.min(Math.max(c, 0), 1)),
      ),
    );
  const node = document.createNode(name).setMesh(document.createMesh(name).addPrimitive(primitive));
  document.createScene(name).addChild(node);
  return io().writeBinary(document);
}

/** Numbers of a document, in its one buffer. */
export function accessorOf(
  document: Document,
  type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4',
  values: Float32Array | Uint32Array,
): Accessor {
  const buffer = document.getRoot().listBuffers()[0] ?? document.createBuffer();
  return document
    .createAccessor()
    .setType(type)
    .setArray(new (values.constructor as typeof Float32Array)(values))
    .setBuffer(buffer);
}

/** The triangles of a mesh, with normals and UVs. */
export const primitiveOf = (document: Document, mesh: MeshData): Primitive =>
  document
    .createPrimitive()
    .setIndices(accessorOf(document, 'SCALAR', mesh.indices))
    .setAttribute('POSITION', accessorOf(document, 'VEC3', mesh.positions))
    .setAttribute('NORMAL', accessorOf(document, 'VEC3', sound(mesh)))
    .setAttribute(UVS, accessorOf(document, 'VEC2', mesh.uvs));

/** Normals of length 1, which glTF asks for: those that are not are taken from the triangles. */
function sound(mesh: MeshData): Float32Array {
  const { normals } = mesh;
  let spare: Float32Array | undefined;
  return normals.map((x, i) => {
    const at = i - (i % 3);
    if (Math.abs(Math.hypot(normals[at]!, normals[at + 1]!, normals[at + 2]!) - 1) < 5e-4) return x;
    spare ??= withNormals(mesh, weldedPlaces(mesh)).normals;
    return spare[i]!;
  });
}
