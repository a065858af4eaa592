import { Matrix4, PerspectiveCamera } from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import type { CameraView } from '../../gl/renderer.ts';

export interface Orbit {
  readonly see: (aspect: number) => CameraView;
  readonly dispose: () => void;
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
  return {
    see(aspect) {
      camera.aspect = aspect;
      camera.updateProjectionMatrix();
      camera.updateMatrixWorld();
      return { matrix: product.multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse).elements, eye: camera.position.toArray() };
    },
    dispose() {
      controls.dispose();
    },
  };
}
