import { BufferAttribute, BufferGeometry, DoubleSide, Matrix4, Mesh, MeshBasicMaterial, PerspectiveCamera, Raycaster, Vector2 } from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import type { MeshData } from '@estela/core';
import type { CameraView } from '../../gl/renderer.ts';
import type { ProbePixel } from '../../workers/probe.ts';

export interface Orbit {
  readonly see: (aspect: number) => CameraView;
  /** The pixel of a mesh under a place of the Stage, in shares of its size from the top left; undefined beside the mesh. */
  readonly pick: (mesh: MeshData, x: number, y: number) => ProbePixel | undefined;
  readonly dispose: () => void;
}

function geometryOf({ positions, normals, uvs, indices }: MeshData): BufferGeometry {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(positions, 3));
  geometry.setAttribute('normal', new BufferAttribute(normals, 3));
  geometry.setAttribute('uv', new BufferAttribute(uvs, 2));
  geometry.setIndex(new BufferAttribute(indices, 1));
  return geometry;
}

/** A camera that is turned about the mesh by dragging over an element, and moved nearer by the wheel. */
export function createOrbit(element: HTMLElement, changed: () => void): Orbit {
  const camera = new PerspectiveCamera(35, 1, 0.05, 50);
  camera.position.set(0.35, 0.25, 2.1);
  const controls = new OrbitControls(camera, element);
  controls.minDistance = 0.8;
  controls.maxDistance = 8;
  controls.enablePan = false;
  controls.addEventListener('change', changed);
  controls.update();
  const product = new Matrix4();
  const ray = new Raycaster();
  const material = new MeshBasicMaterial({ side: DoubleSide });
  let held: { mesh: MeshData; geometry: BufferGeometry } | undefined;
  return {
    see(aspect) {
      camera.aspect = aspect;
      camera.updateProjectionMatrix();
      camera.updateMatrixWorld();
      return {
        matrix: product.multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse).elements,
        eye: camera.position.toArray(),
        near: camera.near,
        far: camera.far,
      };
    },
    pick(mesh, x, y) {
      if (held?.mesh !== mesh) {
        held?.geometry.dispose();
        held = { mesh, geometry: geometryOf(mesh) };
      }
      ray.setFromCamera(new Vector2(x * 2 - 1, 1 - y * 2), camera);
      const [hit] = ray.intersectObject(new Mesh(held.geometry, material));
      if (!hit?.uv || !hit.normal) return undefined;
      const point = hit.point.toArray();
      const facing = Math.abs(hit.normal.dot(camera.position.clone().sub(hit.point).normalize()));
      return { uv: [hit.uv.x, hit.uv.y], others: { position: point, world: point, screen: [x, y], facing: [facing] } };
    },
    dispose() {
      held?.geometry.dispose();
      controls.dispose();
    },
  };
}
