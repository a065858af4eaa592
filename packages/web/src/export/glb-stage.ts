import {
  AmbientLight,
  AnimationMixer,
  Box3,
  Color,
  Mesh,
  PerspectiveCamera,
  PMREMGenerator,
  Scene,
  Sphere,
  Vector3,
  WebGLRenderer,
  type Material,
  type Object3D,
} from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import { RoomEnvironment } from 'three/addons/environments/RoomEnvironment.js';
import { GLTFLoader, type GLTF } from 'three/addons/loaders/GLTFLoader.js';
import { PointerPlayer } from './gltf-pointers.ts';

/** A GLB as another program shows it. */
export interface GlbStage {
  /** Names of its material variants. */
  readonly variants: readonly string[];
  /** Shows a variant; the base without one. */
  readonly wear: (variant: string | undefined) => Promise<void>;
  readonly end: () => void;
}

interface Mapping {
  readonly mappings: readonly { readonly material: number; readonly variants: readonly number[] }[];
}

/** Opens a GLB on a canvas and plays it. Throws where it cannot be read, or there is no WebGL. */
export async function openGlb(canvas: HTMLCanvasElement, file: Blob, backdrop: string): Promise<GlbStage> {
  const gltf = await new GLTFLoader().parseAsync(await file.arrayBuffer(), '');
  const renderer = new WebGLRenderer({ canvas, antialias: true });
  const scene = new Scene();
  scene.background = new Color(backdrop);
  const pmrem = new PMREMGenerator(renderer);
  scene.environment = pmrem.fromScene(new RoomEnvironment()).texture;
  scene.add(gltf.scene, new AmbientLight(0xffffff, 0.2));
  const camera = new PerspectiveCamera(35);
  const controls = new OrbitControls(camera, canvas);
  const ball = new Box3().setFromObject(gltf.scene).getBoundingSphere(new Sphere());
  controls.target.copy(ball.center);
  camera.position.copy(ball.center).add(new Vector3(0.35, 0.25, 2.1).normalize().multiplyScalar(ball.radius * 3.6));
  camera.near = ball.radius / 50;
  camera.far = ball.radius * 50;
  const pointers = await PointerPlayer.of(gltf);
  const mixer = new AnimationMixer(gltf.scene);
  for (const clip of gltf.animations) mixer.clipAction(clip).play();
  const started = performance.now();
  let frame = 0;
  const draw = (): void => {
    frame = requestAnimationFrame(draw);
    const seconds = (performance.now() - started) / 1000;
    pointers.show(seconds);
    mixer.setTime(seconds);
    const { clientWidth, clientHeight } = canvas;
    if (canvas.width !== clientWidth || canvas.height !== clientHeight) {
      renderer.setSize(clientWidth, clientHeight, false);
      camera.aspect = clientWidth / Math.max(clientHeight, 1);
      camera.updateProjectionMatrix();
    }
    controls.update();
    renderer.render(scene, camera);
  };
  draw();
  return {
    variants: variantsIn(gltf),
    wear: (variant) => wear(gltf, variant),
    end() {
      cancelAnimationFrame(frame);
      controls.dispose();
      pmrem.dispose();
      renderer.dispose();
    },
  };
}

const variantsIn = ({ parser }: GLTF): string[] =>
  (
    (parser.json as { extensions?: { KHR_materials_variants?: { variants: { name: string }[] } } }).extensions
      ?.KHR_materials_variants?.variants ?? []
  ).map((v) => v.name);

/** Gives meshes the material that a variant maps them to: KHR_materials_variants, which three itself leaves out. */
async function wear(gltf: GLTF, variant: string | undefined): Promise<void> {
  const index = variantsIn(gltf).indexOf(variant ?? '');
  const meshes: Mesh[] = [];
  gltf.scene.traverse((object: Object3D) => {
    if (object instanceof Mesh) meshes.push(object as Mesh);
  });
  for (const mesh of meshes) {
    const data = mesh.userData as { base?: Material; gltfExtensions?: { KHR_materials_variants?: Mapping } };
    data.base ??= mesh.material as Material;
    const mapping = data.gltfExtensions?.KHR_materials_variants?.mappings.find((m) => m.variants.includes(index));
    if (!mapping) {
      mesh.material = data.base;
      continue;
    }
    mesh.material = (await gltf.parser.getDependency('material', mapping.material)) as Material;
    gltf.parser.assignFinalMaterial(mesh);
  }
}
