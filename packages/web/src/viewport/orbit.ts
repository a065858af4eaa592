import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
  PerspectiveCamera,
  Plane,
  Raycaster,
  Spherical,
  Vector2,
  Vector3,
  type Face,
} from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import { acceleratedRaycast, MeshBVH } from 'three-mesh-bvh';
import type { Matrix, MeshData, Vector } from '@estela/core';
import type { CameraView } from '../gl/renderer.ts';
import { arrowStep } from '../ui/arrow-keys.ts';
import type { ProbePixel } from '../workers/probe.ts';

/** A mesh where it stands. */
export interface Placed {
  readonly mesh: MeshData;
  readonly models: readonly Matrix[];
}
export interface Picked {
  /** Which of those that were asked about. */
  readonly index: number;
  readonly pixel: ProbePixel;
  /** The triangle that was hit. */
  readonly triangle: number;
}
/** Where a camera stands and what it looks at, in metres. */
export interface CameraPose {
  readonly from: Vector;
  readonly at: Vector;
}

export interface Orbit {
  readonly see: (aspect: number) => CameraView;
  /** What lies under a place of the Stage, in shares of its size from the top left; undefined beside all meshes. */
  readonly pick: (things: readonly Placed[], x: number, y: number) => Picked | undefined;
  /**
   * The place on a level, or upright, plane through a point that lies under a place of the Stage; undefined where there
   * is none.
   */
  readonly placeOn: (through: Vector, plane: 'level' | 'upright', x: number, y: number) => Vector | undefined;
  /** Looks at all of a ball, from where it looks now. */
  readonly frame: (middle: Vector, radius: number) => void;
  readonly standpoint: () => CameraPose;
  readonly stand: (at: CameraPose) => void;
  /** Lets dragging turn the view, or not. */
  readonly enable: (on: boolean) => void;
  readonly dispose: () => void;
}

function geometryOf({ positions, normals, uvs, colors, indices }: MeshData): BufferGeometry {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(positions, 3));
  geometry.setAttribute('normal', new BufferAttribute(normals, 3));
  geometry.setAttribute('uv', new BufferAttribute(uvs, 2));
  if (colors) geometry.setAttribute('color', new BufferAttribute(colors, 4));
  geometry.setIndex(new BufferAttribute(indices, 1));
  // The mesh keeps the order of its triangles.
  geometry.boundsTree = new MeshBVH(geometry, { indirect: true });
  return geometry;
}

/** The colour of a face between its three corners; white where a mesh has none. */
function colorAt({ colors }: MeshData, { a, b, c }: Face, shares: Vector3 | null | undefined): number[] {
  const [s, t, r] = shares?.toArray() ?? [1, 0, 0];
  return [0, 1, 2, 3].map((k) =>
    colors ? colors[a * 4 + k]! * s + colors[b * 4 + k]! * t + colors[c * 4 + k]! * r : 1,
  );
}

const product = new Matrix4();
/** What a camera sees; `distance` is that to what it looks at, in metres. */
function viewOf(camera: PerspectiveCamera, aspect: number, distance: number): CameraView {
  camera.aspect = aspect;
  // Depth is finest where the planes are near what is looked at.
  camera.near = Math.min(0.05, distance / 20);
  camera.far = Math.max(50, distance * 4);
  camera.updateProjectionMatrix();
  camera.updateMatrixWorld();
  return {
    matrix: product.multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse).elements,
    eye: camera.position.toArray(),
    near: camera.near,
    far: camera.far,
  };
}

/** Degrees from the top of the view to its foot. */
const OPENING = 35;

/** What is seen from a standpoint. */
export function seenFrom({ from, at }: CameraPose, aspect: number): CameraView {
  const camera = new PerspectiveCamera(OPENING);
  camera.position.set(...from);
  camera.lookAt(...at);
  return viewOf(camera, aspect, Math.hypot(from[0] - at[0], from[1] - at[1], from[2] - at[2]));
}

/** How far a key turns the view, in radians, and by how much it moves it nearer. */
const TURN = Math.PI / 24;
const NEARER = 1.15;

/**
 * A camera that is turned about what it looks at by dragging over an element or by arrow keys on it, and moved nearer
 * by the wheel, plus and minus. With `pan` the right button moves it aside.
 */
export function createOrbit(element: HTMLElement, changed: () => void, pan = false): Orbit {
  const camera = new PerspectiveCamera(OPENING);
  camera.position.set(0.35, 0.25, 2.1);
  const controls = new OrbitControls(camera, element);
  controls.minDistance = 0.2;
  controls.maxDistance = 40;
  controls.enablePan = pan;
  controls.addEventListener('change', changed);
  controls.update();
  const keyed = (event: KeyboardEvent): void => {
    if (event.ctrlKey || event.metaKey || event.altKey || event.target !== element) return;
    const step = arrowStep(event.key);
    const by = { '+': 1 / NEARER, '=': 1 / NEARER, '-': NEARER }[event.key];
    if (!step && by === undefined) return;
    event.preventDefault();
    const spherical = new Spherical().setFromVector3(camera.position.clone().sub(controls.target));
    spherical.theta -= (step?.[0] ?? 0) * TURN;
    spherical.phi -= (step?.[1] ?? 0) * TURN;
    spherical.radius = Math.min(Math.max(spherical.radius * (by ?? 1), controls.minDistance), controls.maxDistance);
    camera.position.setFromSpherical(spherical.makeSafe()).add(controls.target);
    controls.update();
    changed();
  };
  element.addEventListener('keydown', keyed);
  const ray = new Raycaster();
  ray.firstHitOnly = true;
  const material = new MeshBasicMaterial({ side: DoubleSide });
  const held = new Map<MeshData, BufferGeometry>();
  const geometry = (mesh: MeshData): BufferGeometry => {
    let known = held.get(mesh);
    if (!known) held.set(mesh, (known = geometryOf(mesh)));
    return known;
  };
  const aim = (x: number, y: number): void => {
    camera.updateMatrixWorld();
    ray.setFromCamera(new Vector2(x * 2 - 1, 1 - y * 2), camera);
  };
  return {
    see: (aspect) => viewOf(camera, aspect, controls.getDistance()),
    pick(things, x, y) {
      for (const [mesh, kept] of held)
        if (!things.some((t) => t.mesh === mesh)) {
          kept.dispose();
          held.delete(mesh);
        }
      aim(x, y);
      let [best, nearest]: [Picked | undefined, number] = [undefined, Infinity];
      things.forEach(({ mesh, models }, index) => {
        for (const model of models) {
          const object = new Mesh(geometry(mesh), material);
          object.raycast = acceleratedRaycast;
          object.matrixAutoUpdate = false;
          object.matrixWorld.fromArray(model);
          const [hit] = ray.intersectObject(object);
          if (!hit?.uv || !hit.normal || !hit.face || hit.faceIndex == null || hit.distance >= nearest) continue;
          nearest = hit.distance;
          const world = hit.point.toArray();
          const normal = hit.normal.transformDirection(object.matrixWorld);
          const facing = Math.abs(normal.dot(camera.position.clone().sub(hit.point).normalize()));
          const color = colorAt(mesh, hit.face, hit.barycoord);
          const position = hit.point.clone().applyMatrix4(new Matrix4().copy(object.matrixWorld).invert()).toArray();
          best = {
            index,
            triangle: hit.faceIndex,
            pixel: {
              uv: [hit.uv.x, hit.uv.y],
              others: { position, world, screen: [x, y], facing: [facing], vertex_color: color },
            },
          };
        }
      });
      return best;
    },
    placeOn(through, plane, x, y) {
      aim(x, y);
      const normal =
        plane === 'level' ? new Vector3(0, 1, 0) : camera.getWorldDirection(new Vector3()).setY(0).normalize();
      const hit = ray.ray.intersectPlane(
        new Plane().setFromNormalAndCoplanarPoint(normal, new Vector3(...through)),
        new Vector3(),
      );
      return hit?.toArray();
    },
    frame(middle, radius) {
      const towards = camera.position.clone().sub(controls.target).normalize();
      controls.target.set(...middle);
      camera.position.copy(controls.target).addScaledVector(towards, Math.max(radius, 1e-3) * 3.6);
      controls.minDistance = Math.min(0.2, radius * 0.4);
      controls.maxDistance = Math.max(8, radius * 30);
      controls.update();
      changed();
    },
    standpoint: () => ({ from: camera.position.toArray(), at: controls.target.toArray() }),
    stand({ from, at }) {
      controls.target.set(...at);
      camera.position.set(...from);
      controls.update();
      changed();
    },
    enable(on) {
      controls.enabled = on;
    },
    dispose() {
      for (const kept of held.values()) kept.dispose();
      element.removeEventListener('keydown', keyed);
      controls.dispose();
      material.dispose();
    },
  };
}
