/** Why a file is broken, in one place; each goes on after "is a broken PNG file:". */
export const flaws = {
  cutOff: 'it is cut off',
  noFrames: 'it has no frames',
  noPixels: 'it has no pixels',
  header: 'its header cannot be read',
  notText: 'it is not text',
  unreadable: 'it cannot be read',

  // Meshes.
  noSuchVertex: 'a face refers to a vertex that does not exist',
  wrongVertex: 'a face refers to a vertex that does not exist or is not a number',
  coordinateTooLarge: 'a coordinate in it is too large',

  // glTF: the file.
  noVersion: 'it has no version',
  otherVersion: (version: string) => `it is of version ${version}, only 2.0 can be read`,
  noJson: 'it has no JSON chunk',
  longJson: 'its JSON chunk is too long',
  notJson: 'it is not valid JSON',
  notGltf: 'its JSON is not glTF',
  wrongReference: 'something it refers to is missing or of the wrong type',
  notThere: (what: string) => `${what} is referred to but does not exist`,
  notList: (name: string) => `its ${name} are not a list of objects`,
  notListOf: (name: string) => `the ${name} of an object are not a list`,
  notWhole: (what: string) => `${what} is not a whole number`,

  // glTF: buffers and accessors.
  bufferElsewhere: 'it refers to a buffer that is not in the file',
  shortBuffer: 'a buffer is shorter than its byteLength',
  viewPastEnd: 'a buffer view goes past the end of its buffer',
  accessorPastEnd: 'an accessor goes past the end of its buffer view',
  accessorType: 'an accessor has the wrong type for its use',
  componentType: 'an accessor has a component type that is not allowed for its use',
  sparseLacks: 'a sparse accessor lacks its indices or values',
  sparseTooMany: 'a sparse accessor has more elements than its accessor',
  sparseIndices: 'a sparse accessor has indices of the wrong type',
  stride: 'a stride is too short or too long',

  // glTF: the scene.
  noAttributes: 'a primitive has no attributes',
  twoParents: 'a node has two parents, or is its own ancestor',
  notFinite: 'a node has a transform that is not finite',

  // glTF: materials and animations.
  alphaMode: 'a material has an unknown alpha mode',
  textureReference: 'a texture reference of a material is not an object',
  wrapMode: 'a sampler has an unknown wrap mode',
  materialNumber: 'a number of a material is not a number, or above a million',
  factorLength: 'a material has a factor with the wrong number of values',
  noTarget: 'a channel of an animation has no target',
  wrongTarget: 'an animation has no valid target',
  noSuchMaterial: 'an animation targets a material that does not exist',
  interpolation: 'an animation has an unknown interpolation',
  unequalKeys: 'an animation has a different number of values than times',
  manyKeys: (limit: number) => `an animation has more than ${String(limit)} keys`,
  timesFall: 'the times of an animation do not increase',
  animationNumber: 'a value of an animation is not a number, or above a million',
} as const;

/** What is wrong with a band of a bake; goes on after "Band 3 of this chunk". */
export const bandFlaws = {
  length: (got: number, expected: number) => `has ${String(got)} bytes, not ${String(expected)}`,
  checksum: 'does not match its checksum',
} as const;

/** What was left out of a file that was read or written; whole sentences. */
export const notes = {
  // Import.
  pointsLeftOut: 'Points and lines are left out.',
  noSkeletons: 'Skeletons are not imported: the mesh is in its bind pose.',
  manyMaterials: (count: number, limit: number) =>
    `It has ${String(count)} materials; the first ${String(limit)} are read.`,
  nodesAtRest: 'Animated nodes are imported at their rest position.',
  animationNotImported: (of: string) => `Animation of ${of} is not imported.`,
  animatedNotImported: (property: string) => `Its ${property} is animated, which is not imported.`,
  splinesNotImported: (property: string) => `Its ${property} uses spline keys, which are not imported.`,
  extensionNotImported: (name: string) => `${name} is not imported.`,
  noOcclusion: 'Its occlusion texture is not imported.',
  textureFormat: 'A texture of an unsupported format is left out.',
  twoWraps: 'A texture has different wrap modes for u and v: the mode of u is used for both.',
  secondUvs: 'A second UV set is not imported: the first is used instead.',
  imageLeftOut: (number: number, refusal: string) => `Image ${String(number)} ${refusal} It is left out.`,

  // Export.
  noVertexColors: 'The vertex colours of the mesh are left out: they would tint the material.',
  onlyKeyLight: 'The environment and backdrop are not part of glTF: only the key light is exported.',
  noExposure: (stops: number) => `Its exposure (${String(stops)} EV) is not part of glTF: set it in the viewer.`,
  overlay: (name: string) => `"${name}" is exported as a plane in front of the camera, for a 16:9 view.`,
  separateCopies: 'Copies that spin or have a delay are exported as separate nodes.',
} as const;
