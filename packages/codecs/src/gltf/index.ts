export { materialGlb, type MaterialGlbOptions, type WrittenGlb } from './material-scene.ts';
export { setGlb, type GltfSet, type GltfSetItem, type SetGlbOptions } from './set-scene.ts';
