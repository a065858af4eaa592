import type { GlbReport, GltfMaterial, Matrix, MeshData, Vector, GltfImageType } from '@estela/core';
import { Document, MathUtils, type Mesh, type Node, type Primitive, type vec3, type vec4 } from '@gltf-transform/core';
import {
  EXTMeshGPUInstancing,
  EXTTextureWebP,
  KHRLightsPunctual,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsTransmission,
  KHRMaterialsUnlit,
  KHRMaterialsVariants,
  KHRTextureTransform,
} from '@gltf-transform/extensions';
import { Matrix4, Quaternion, Vector3 } from 'three';
import { accessorOf, primitiveOf } from '../mesh/glb.ts';
import { AnimationPointer, PointerIO } from './animation-pointer.ts';
import { MaterialWriter } from './material-writer.ts';
import { withTangents } from './tangents.ts';

/** A material as one of a set of variants has it. */
export interface GltfVariant {
  readonly name: string;
  readonly material: GltfMaterial;
}
/** A mesh on a scene, with all its copies. */
export interface GltfThing {
  readonly name: string;
  readonly mesh: MeshData;
  /** Where each copy stands; all have one material, or each its own. */
  readonly copies: readonly { readonly matrix: Matrix; readonly material: GltfMaterial | undefined }[];
  readonly variants: readonly GltfVariant[];
  /** Seconds that a turn about its own upright takes; 0 for none, below 0 the other way. */
  readonly turning: number;
}
/** Where a camera stands and what it looks at, in metres. */
export interface GltfCamera {
  readonly from: Vector;
  readonly at: Vector;
  /** From the top of the view to its foot, in degrees. */
  readonly opening: number;
  /** Materials that lie over the whole view. */
  readonly overlays: readonly GltfMaterial[];
}
/** Light from afar: towards it, and its linear colour times its strength. */
export interface GltfLight {
  readonly towards: Vector;
  readonly light: Vector;
}
export interface GltfScene {
  readonly name: string;
  readonly things: readonly GltfThing[];
  readonly camera?: GltfCamera | undefined;
  readonly light?: GltfLight | undefined;
  /** Copies that only stand are one mesh with many places. */
  readonly isInstanced: boolean;
  readonly images: GltfImageType;
  readonly report: GlbReport;
}

const EXTENSIONS = [
  AnimationPointer,
  EXTMeshGPUInstancing,
  EXTTextureWebP,
  KHRLightsPunctual,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsTransmission,
  KHRMaterialsUnlit,
  KHRMaterialsVariants,
  KHRTextureTransform,
];

/** Writes a scene as GLB (glTF 2.0). */
export async function sceneGlb(scene: GltfScene): Promise<Uint8Array<ArrayBuffer>> {
  const writing = new SceneWriter(scene);
  await writing.write();
  return new PointerIO().registerExtensions(EXTENSIONS).writeBinary(writing.document);
}

/** Metres before the camera at which what lies over the whole view stands. */
const FILM_AT = 0.2;
/** Width of the view for its height, which a file cannot leave open for what fills it. */
const OVERLAY_ASPECT = 16 / 9;

class SceneWriter {
  readonly document = new Document();
  readonly #materials;
  readonly #primitives = new Map<MeshData, Promise<Primitive>[]>();
  readonly #meshes = new Map<string, Mesh>();
  readonly #root;

  constructor(readonly scene: GltfScene) {
    const { document } = this;
    Object.assign(document.getRoot().getAsset(), { generator: 'Estela', extras: { estela: scene.report } });
    this.#materials = new MaterialWriter(document, scene.images);
    this.#root = document.createScene(scene.name);
    document.getRoot().setDefaultScene(this.#root);
  }

  async write(): Promise<void> {
    const { things, camera, light } = this.scene;
    for (const thing of things) await this.#thing(thing);
    if (camera) await this.#camera(camera);
    if (light) this.#light(light);
  }

  async #thing(thing: GltfThing): Promise<void> {
    const { name, mesh, copies, variants, turning } = thing;
    const own = this.document.createNode(name);
    this.#root.addChild(own);
    const [first] = copies;
    const isAlike = copies.every((c) => c.material === first?.material);
    if (this.scene.isInstanced && copies.length > 1 && isAlike && turning === 0) {
      own.setMesh(await this.#mesh(mesh, first?.material, variants, name));
      this.#instances(
        own,
        copies.map((c) => c.matrix),
      );
      return;
    }
    for (const [i, { matrix, material }] of copies.entries()) {
      const node = copies.length === 1 ? own : this.document.createNode(`${name} ${String(i + 1)}`);
      if (node !== own) own.addChild(node);
      node.setMesh(await this.#mesh(mesh, material, i === 0 || isAlike ? variants : [], name));
      place(node, matrix);
      if (turning !== 0) this.#turn(node, turning);
    }
  }

  /** A mesh with a material, once for all nodes that show it. */
  async #mesh(
    data: MeshData,
    of: GltfMaterial | undefined,
    variants: readonly GltfVariant[],
    name: string,
  ): Promise<Mesh> {
    const needsTangents = [of, ...variants.map((v) => v.material)].some((m) => m?.slots.has('normal'));
    const base = await this.#primitive(data, needsTangents);
    const material = of ? await this.#materials.material(of) : this.#materials.plain();
    const key = [base, material, ...variants.map((v) => v.material)].map((part) => numberOf(part)).join();
    const known = this.#meshes.get(key);
    if (known) return known;
    // Vertices are shared; a primitive has one material.
    const primitive = base.clone().setMaterial(material);
    if (variants.length > 0) {
      const extension = this.document.createExtension(KHRMaterialsVariants);
      const list = extension.createMappingList();
      for (const variant of variants) {
        const said =
          extension.listVariants().find((v) => v.getName() === variant.name) ?? extension.createVariant(variant.name);
        list.addMapping(
          extension
            .createMapping()
            .setMaterial(await this.#materials.material(variant.material, `${variant.material.name}: ${variant.name}`))
            .addVariant(said),
        );
      }
      primitive.setExtension('KHR_materials_variants', list);
    }
    const made = this.document.createMesh(name).addPrimitive(primitive);
    this.#meshes.set(key, made);
    return made;
  }

  #primitive(mesh: MeshData, needsTangents: boolean): Promise<Primitive> {
    const kinds = this.#primitives.get(mesh) ?? [];
    this.#primitives.set(mesh, kinds);
    return (kinds[Number(needsTangents)] ??= needsTangents
      ? withTangents(mesh).then(({ mesh: split, tangents }) =>
          primitiveOf(this.document, split).setAttribute('TANGENT', accessorOf(this.document, 'VEC4', tangents)),
        )
      : Promise.resolve(primitiveOf(this.document, mesh)));
  }

  #instances(node: Node, matrices: readonly Matrix[]): void {
    const parts = matrices.map(partsOf);
    const attribute = (type: 'VEC3' | 'VEC4', values: readonly (readonly number[])[]) =>
      accessorOf(this.document, type, Float32Array.from(values.flat()));
    node.setExtension(
      'EXT_mesh_gpu_instancing',
      this.document
        .createExtension(EXTMeshGPUInstancing)
        .setRequired(true)
        .createInstancedMesh()
        .setAttribute(
          'TRANSLATION',
          attribute(
            'VEC3',
            parts.map((p) => p.translation),
          ),
        )
        .setAttribute(
          'ROTATION',
          attribute(
            'VEC4',
            parts.map((p) => p.rotation),
          ),
        )
        .setAttribute(
          'SCALE',
          attribute(
            'VEC3',
            parts.map((p) => p.scale),
          ),
        ),
    );
  }

  /** A whole turn about its own upright: thirds, so that each goes the shorter way. */
  #turn(node: Node, turning: number): void {
    const seconds = Math.abs(turning);
    const start = new Quaternion(...node.getRotation());
    const values = [0, 1, 2, 3].flatMap((third) => {
      const angle = (Math.sign(turning) * third * 2 * Math.PI) / 3;
      return start
        .clone()
        .multiply(new Quaternion().setFromAxisAngle(new Vector3(0, 1, 0), angle))
        .toArray();
    });
    const sampler = this.document
      .createAnimationSampler()
      .setInput(this.#materials.times([0, seconds / 3, (seconds * 2) / 3, seconds]))
      .setOutput(accessorOf(this.document, 'VEC4', Float32Array.from(values)));
    const channel = this.document
      .createAnimationChannel()
      .setTargetNode(node)
      .setTargetPath('rotation')
      .setSampler(sampler);
    this.#materials.animation(seconds).addSampler(sampler).addChannel(channel);
  }

  async #camera({ from, at, opening, overlays }: GltfCamera): Promise<void> {
    const fov = (opening * Math.PI) / 180;
    const camera = this.document
      .createCamera('View')
      .setType('perspective')
      .setYFov(fov)
      .setZNear(0.05)
      .setZFar(Math.max(50, new Vector3(...from).distanceTo(new Vector3(...at)) * 4));
    const node = this.document.createNode('View').setCamera(camera);
    const towards = new Matrix4().lookAt(new Vector3(...from), new Vector3(...at), new Vector3(0, 1, 0));
    node.setTranslation([...from]).setRotation(new Quaternion().setFromRotationMatrix(towards).toArray());
    this.#root.addChild(node);
    for (const [i, overlay] of overlays.entries()) {
      // Later ones lie in front.
      const distance = FILM_AT * 0.9 ** i;
      const height = 2 * distance * Math.tan(fov / 2);
      const mesh = await this.#mesh(square(height * OVERLAY_ASPECT, height), overlay, [], overlay.name);
      node.addChild(
        this.document.createNode(`${overlay.name}, over the view`).setMesh(mesh).setTranslation([0, 0, -distance]),
      );
    }
  }

  #light({ towards, light }: GltfLight): void {
    const strength = Math.max(...light);
    if (!(strength > 0)) return;
    const made = this.document
      .createExtension(KHRLightsPunctual)
      .createLight('Key light')
      .setType('directional')
      .setIntensity(strength)
      .setColor(light.map((c) => c / strength) as vec3);
    const turn = new Quaternion().setFromUnitVectors(new Vector3(0, 0, 1), new Vector3(...towards).normalize());
    this.#root.addChild(
      this.document.createNode('Key light').setRotation(turn.toArray()).setExtension('KHR_lights_punctual', made),
    );
  }
}

const numbers = new WeakMap<object, number>();
let last = 0;
/** A number of its own for each object. */
function numberOf(part: object | undefined): number {
  if (!part) return 0;
  let number = numbers.get(part);
  if (number === undefined) numbers.set(part, (number = ++last));
  return number;
}

interface Parts {
  readonly translation: vec3;
  readonly rotation: vec4;
  readonly scale: vec3;
}
function partsOf(matrix: Matrix): Parts {
  const parts: Parts = { translation: [0, 0, 0], rotation: [0, 0, 0, 1], scale: [1, 1, 1] };
  MathUtils.decompose(
    [...matrix] as Parameters<typeof MathUtils.decompose>[0],
    parts.translation,
    parts.rotation,
    parts.scale,
  );
  return parts;
}

function place(node: Node, matrix: Matrix): void {
  const { translation, rotation, scale } = partsOf(matrix);
  node.setTranslation(translation).setRotation(rotation).setScale(scale);
}

/** A square that looks along z, in metres. */
const square = (width: number, height: number): MeshData => ({
  positions: Float32Array.of(
    -width / 2,
    height / 2,
    0,
    width / 2,
    height / 2,
    0,
    -width / 2,
    -height / 2,
    0,
    width / 2,
    -height / 2,
    0,
  ),
  normals: Float32Array.of(0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1),
  uvs: Float32Array.of(0, 0, 1, 0, 0, 1, 1, 1),
  indices: Uint32Array.of(0, 2, 1, 1, 2, 3),
});
