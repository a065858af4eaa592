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
import { PointerPlayer } from '@estela/codecs/pointer-player';

/** A GLB as another program shows it. */
export interface GlbStage {
  /** Names of its material variants. */
  readonly variants: readonly string[];
  /** Shows a variant; the base without one. */
  readonly wear: (variant: string | undefined) => Promise<void>;
  /** Lets time go on, or holds it. */
  readonly play: (on: boolean) => void;
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
  const ball = new Box3().setFromObject(gltf.scene).getBoundingSphere(new Sphere());
  // All of it is seen, also where the view is higher than wide.
  const distance = ball.radius * 3.6 * Math.max(1, canvas.clientHeight / Math.max(canvas.clientWidth, 1));
  const controls = new OrbitControls(camera, canvas);
  controls.target.copy(ball.center);
  camera.position.copy(ball.center).add(new Vector3(0.35, 0.25, 2.1).normalize().multiplyScalar(distance));
  camera.near = ball.radius / 50;
  camera.far = ball.radius * 50;
  const pointers = await PointerPlayer.of(gltf);
  const mixer = new AnimationMixer(gltf.scene);
  for (const clip of gltf.animations) mixer.clipAction(clip).play();
  let [frame, seconds, last, playing] = [0, 0, performance.now(), true];
  const draw = (): void => {
    frame = requestAnimationFrame(draw);
    const now = performance.now();
    if (playing) seconds += (now - last) / 1000;
    last = now;
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
    play: (on) => {
      playing = on;
    },
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
