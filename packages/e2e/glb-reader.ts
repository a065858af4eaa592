/// <reference lib="dom" />
import {
  type Color,
  LinearFilter,
  Matrix3,
  Mesh,
  NearestFilter,
  OrthographicCamera,
  PlaneGeometry,
  RawShaderMaterial,
  Scene,
  Texture,
  WebGLRenderer,
  WebGLRenderTarget,
  GLSL3,
  type MeshPhysicalMaterial,
  type Object3D,
} from 'three';
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js';
import { PointerPlayer } from '@estela/codecs/pointer-player';

/** Pictures of the slots of a file's first material at some moments: RGBA bytes, rows from the top. */
export type SlotPictures = Readonly<Record<string, readonly (readonly number[])[]>>;

/** A slot as a shader reads it: its texture, what it is multiplied by, and whether it is colour. */
interface Shown {
  readonly map: Texture | null;
  readonly factor: readonly [number, number, number, number];
  readonly isColor: boolean;
}

const slotsOf = (m: MeshPhysicalMaterial): Readonly<Record<string, Shown>> => {
  const rgb = ({ r, g, b }: Color, by = 1): [number, number, number] => [r * by, g * by, b * by];
  // Unlit materials have no light of their own, nor any roughness.
  const lit = 'roughness' in m;
  return {
    baseColor: { map: m.map, factor: [...rgb(m.color), m.opacity], isColor: true },
    ...(lit
      ? {
          metallicRoughness: { map: m.roughnessMap, factor: [1, m.roughness, m.metalness, 1], isColor: false },
          normal: { map: m.normalMap, factor: [1, 1, 1, 1], isColor: false },
          emissive: { map: m.emissiveMap, factor: [...rgb(m.emissive, m.emissiveIntensity), 1], isColor: true },
        }
      : {}),
  };
};

const VERTEX = `in vec3 position;
out vec2 at;
void main() { at = vec2(position.x + 0.5, 0.5 - position.y); gl_Position = vec4(position.xy * 2.0, 0.0, 1.0); }`;
const FRAGMENT = `precision highp float;
uniform sampler2D map;
uniform mat3 place;
uniform vec4 factor;
uniform float has_map;
uniform float is_color;
in vec2 at;
out vec4 seen;
void main() {
  vec4 value = factor * (has_map > 0.0 ? texture(map, (place * vec3(at, 1.0)).xy) : vec4(1.0));
  value = clamp(value, 0.0, 1.0);
  vec3 coded = mix(value.rgb * 12.92, 1.055 * pow(max(value.rgb, vec3(1e-9)), vec3(1.0 / 2.4)) - 0.055, step(0.0031308, value.rgb));
  seen = vec4(is_color > 0.0 ? coded : value.rgb, value.a);
}`;

/** Reads a GLB with three and our reading of its pointers, and draws what its slots hold. */
export async function readSlots(bytes: ArrayBuffer, moments: readonly number[], side: number): Promise<SlotPictures> {
  const gltf = await new GLTFLoader().parseAsync(bytes, '');
  const player = await PointerPlayer.of(gltf);
  let material: MeshPhysicalMaterial | undefined;
  gltf.scene.traverse((object: Object3D) => {
    if (object instanceof Mesh) material ??= object.material as MeshPhysicalMaterial;
  });
  const renderer = new WebGLRenderer();
  const target = new WebGLRenderTarget(side, side);
  const pictures: Record<string, number[][]> = {};
  for (const moment of moments) {
    player.show(moment);
    for (const [name, { map, factor, isColor }] of Object.entries(slotsOf(material!))) {
      if (map) {
        // A bake has no mipmaps.
        if (map.minFilter !== NearestFilter) map.minFilter = LinearFilter;
        if (map.matrixAutoUpdate) map.updateMatrix();
        map.needsUpdate = true;
      }
      const shader = new RawShaderMaterial({
        glslVersion: GLSL3,
        vertexShader: VERTEX,
        fragmentShader: FRAGMENT,
        uniforms: {
          map: { value: map ?? new Texture() },
          place: { value: map?.matrix ?? new Matrix3() },
          factor: { value: factor },
          has_map: { value: map ? 1 : 0 },
          is_color: { value: isColor ? 1 : 0 },
        },
      });
      const scene = new Scene();
      scene.add(new Mesh(new PlaneGeometry(1, 1), shader));
      renderer.setRenderTarget(target);
      renderer.render(scene, new OrthographicCamera());
      const drawn = new Uint8Array(side * side * 4);
      renderer.readRenderTargetPixels(target, 0, 0, side, side, drawn);
      const rows = Array.from({ length: side }, (_, y) => [
        ...drawn.subarray((side - 1 - y) * side * 4).subarray(0, side * 4),
      ]);
      (pictures[name] ??= []).push(rows.flat());
    }
  }
  renderer.dispose();
  return pictures;
}
