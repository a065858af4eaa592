export { GLTF_IMAGES, type GltfImageType } from './encode-image.ts';
export { materialGlb, type GlbReport, type MaterialGlbOptions, type WrittenGlb } from './material-scene.ts';
export { sceneGlb, type GltfScene, type GltfThing, type GltfVariant, type MaterialReport } from './scene.ts';
