export {
  lineAndColumn,
  type Diagnostic,
  type Fix,
  type Severity,
  type Span,
  type TextEdit,
} from './diagnostics/diagnostic.ts';
export { parse } from './lang/parse.ts';
export type { SyntaxTree } from './lang/tree.ts';
export type { Token } from './lang/tokens.ts';
export { check } from './check/check.ts';
export { literalText } from './check/literals.ts';
export { lapsText } from './ops/phrases.ts';
export type { Channel, Dial, DialType, Loop, Program, Step, Surface, Switch, Variant } from './check/program.ts';
export { OPERATIONS, operationNamed } from './ops/table.ts';
export { FAMILIES, flowsIn, shows, type HandleFact, type Operation, type OperationParameter } from './ops/operation.ts';
export { hexOfColor, colorOfHex } from './ops/value-type.ts';
export { fromSrgb, srgbByte, toSrgb } from './ops/srgb.ts';
export { compile, compileOrThrow, type Compiled, type Settings } from './compile.ts';
export type { Graph } from './lower/lower.ts';
export { dependsOnTime, scalarOf, widthOf, type ImageSlot, type Node, type PixelInput } from './ir/node.ts';
export { emitShader, INPUT_NAMES, type ShaderMaterial } from './backends/shader/emit.ts';
export { GLSL } from './backends/shader/glsl.ts';
export { HLSL } from './backends/shader/hlsl.ts';
export { WGSL } from './backends/shader/wgsl.ts';
export { evaluateFrame, frameEvaluator, type FrameInputs, type PixelInputs } from './ir/evaluate.ts';
export { Reference } from './backends/reference/evaluate.ts';
export type { Value } from './ir/kinds.ts';
export type { ImageSource, PixelImage } from './image/pixels.ts';
export { testGrid } from './image/test-grid.ts';
export { applyEdits, setDefault, setLoop, setOff, setTitle, titleOf } from './edits/edits.ts';
export {
  missingImage,
  readDialText,
  readSettings,
  refusedImage,
  settingValues,
  type SettingValues,
} from './check/values.ts';
export { BLOCK } from './backends/wasm/compile.ts';
export { GridEvaluator } from './backends/wasm/grid/evaluator.ts';
export { forSoftware } from './backends/shader/software.ts';
export { rowsOf, type Rows } from './backends/wasm/rows.ts';
export { WasmEvaluator, type BlockInputs } from './backends/wasm/run.ts';
export { CHANNELS } from './check/program.ts';
export { Baker, BAKE_SIDE_LIMIT, SAMPLE_LIMIT, type BakeOptions } from './bake/bake.ts';
export { BLEED_LIMIT, spreadColor, type CellOptions } from './bake/cells.ts';
export { bakeBand, bandPixels, bandsOf, pictureSize, type BandPlace, type Layout } from './bake/bands.ts';
export { enoughFrames, FRAME_CHOICES, halfSize, type Difference, type FrameChoice } from './bake/enough.ts';
export { isColor, plainPack, readPack, type Pack, type PackPick } from './bake/pack.ts';
export { columnsFor } from './bake/columns.ts';
export { BAKE_FORMATS, type BakeFormat, type BakeRecipe } from './bake/recipe.ts';
export { bakeSignature } from './bake/signature.ts';
export {
  bakeFiles,
  bakePieces,
  bandMaker,
  writtenManifest,
  type FilePiece,
  type NamedPiece,
} from './exchange/bake-files.ts';
export { flipbookText } from './exchange/flipbook-text.ts';
export { bakeManifest, memoryOf, type TextureMemory } from './exchange/bake-manifest.ts';
export {
  BAKE_FRAME_LIMIT,
  bandLength,
  bakePlan,
  BakeRefused,
  delayOf,
  frameCount,
  framesIn,
  framesOfChunk,
  SHEET_SIDE_LIMIT,
  type BakeBand,
  type BakeChunk,
  type BakeFile,
  type BakePlan,
} from './exchange/bake-plan.ts';
export { ENVIRONMENTS, type Environment, type EnvironmentName } from './exchange/environments.ts';
export type { TransformKeys, ValueKeys } from './exchange/gltf/keys.ts';
export {
  GLTF_FRAME_LIMIT,
  GLTF_IMAGES,
  GLTF_SIZES,
  type GlbReport,
  type GltfImageType,
  type GltfMaterial,
  type GltfOptions,
  type GltfPicture,
  type GltfReport,
  type GltfSlotValue,
  type GltfTexture,
  type MaterialReport,
  type SlotReport,
} from './exchange/gltf/model.ts';
export type { ReadMotion, ReadTrack } from './exchange/gltf/read-motion.ts';
export {
  gltfMaterialText,
  type MaterialText,
  type ReadMaterial,
  type ReadTexture,
} from './exchange/gltf/material-text.ts';
export { GltfMaterials } from './exchange/gltf/material.ts';
export { GLTF_SLOTS, type GltfSlot, type SlotFidelity } from './exchange/gltf/slots.ts';
export { PngWriter, type Band, type DeflateBand } from './bake/png-bands.ts';
export { encodeApng, encodePng, sheetOf, type Deflate, type RgbaPicture } from './exchange/png.ts';
export { dialsInUnits } from './exchange/dials.ts';
export { firstPicture, stageShader, type FirstPicture } from './exchange/stage-shader.ts';
export { TARGETS, type CodeOptions, type Target } from './exchange/package/code.ts';
export { materialPackage, packageCode, type PackageHost, type PackageOptions } from './exchange/package/package.ts';
export type { PackageImage } from './exchange/package/textures.ts';
export type * from './exchange/package/player-data.ts';
export type { NormalY } from './exchange/package/shaders.ts';
export { cHeader } from './exchange/package/c-header.ts';
export { userValue } from './backends/dial-units.ts';
export type { HostModel } from './exchange/package/host.ts';
export { packageName } from './exchange/package/identifier.ts';
export { jsModule, jsTypes } from './exchange/package/js-module.ts';
export { bakeStep, SIGNATURE_VERSION, stepNamed, stepSignature, type StepRecipe } from './bake/step.ts';
export type { ChannelIndex } from './image/pixels.ts';
export { packChannels, unpackChannel, type ChannelPick } from './image/channels.ts';
export { drawPathMap, flattenPath, type PathDrawing, type PathPoint, type PathSample } from './image/path-map.ts';
export { paintFlowMap, type FlowDrawing, type FlowStroke } from './image/flow-map.ts';
export { tileByBlending, tileByPatching, type TileAxes } from './image/tileable.ts';
export { likelyEncoding, type Encoding } from './image/encoding.ts';
export { histograms, type Histogram } from './measure/histogram.ts';
export { measureSeams, SEAM_SEEN, type EdgeMeasure, type SeamMeasure } from './measure/seams.ts';
export {
  dissolveCurves,
  dissolveNodes,
  dissolveShares,
  dissolvesOf,
  type Dissolve,
  type DissolveCurves,
} from './measure/dissolve.ts';
export { invertMask, levelMask, levelOf } from './edits/mask-edits.ts';
export { moveReads, type ChannelMove, type MovedReads } from './edits/move-reads.ts';
export {
  addRamp,
  rampText,
  RAMP_EASINGS,
  setRamp,
  spreadEvenly,
  reverseStops,
  writtenRamp,
  type RampEasing,
  type WrittenStop,
} from './edits/ramp-edits.ts';
export { rampPixels, stopsOfPixels } from './exchange/ramp.ts';
export { shownColor } from './lower/shown.ts';
export { expressionsOfStatement, partsOfExpression, pathTo, stagesOf } from './lang/walk.ts';
export {
  insertBelow,
  insertDeclaration,
  linesOf,
  removeLines,
  setOffBelow,
  swapLines,
  type Insertion,
} from './edits/line-edits.ts';
export { insertStage, removeArgument, removeStage, setArgument, setStageOff, swapStages } from './edits/call-edits.ts';
export {
  addVariant,
  groupsOf,
  isName,
  moveExposed,
  removeExposed,
  removeVariant,
  renameName,
  renameVariant,
  setGroup,
  setHelp,
  setRange,
  setVariantValue,
  usesOf,
} from './edits/dial-edits.ts';
export type {
  Argument,
  CallExpression,
  Expression,
  PipeExpression,
  StepStatement,
  OutputStatement,
  Statement,
} from './lang/tree.ts';
export {
  argumentsByParameter,
  literalAt,
  literalOfArgument,
  literalWith,
  nudge,
  type LiteralAt,
} from './edits/literal-at.ts';
export { freeName, literalForUse, makeConstant, makeDial, namesOf } from './edits/make-dial.ts';
export { insertOperation, stagePlace, insertOutput, sampleCall, type InsertPlace } from './edits/insert.ts';
export { declareTexture, insertTexture, replaceTexture, samples, type Texture } from './edits/texture-edits.ts';
export { randomValues } from './edits/random-values.ts';
export { heldArgument, type HeldArgument } from './edits/held-argument.ts';
export { flowPlaces, type FlowPlaces } from './measure/places.ts';
export { SHIFTS, type Shift, type Subject } from './measure/subject.ts';
export { CLOSED_WITHIN, findWitnesses, type Watched, type Witness } from './measure/witness.ts';
export { Proof } from './prove/proof.ts';
export {
  isProven,
  materialVerdicts,
  provenVerdicts,
  witnessedVerdicts,
  type AllVerdicts,
  type ByShift,
  type Verdict,
  type Verdicts,
} from './prove/verdicts.ts';
export type { Movement, StepPeriod } from './prove/motion.ts';
export { exceeded, MEASURES, type Budget, type Cost } from './prove/cost.ts';
export { JUMP_LIMIT } from './examine/cuts.ts';
export { examine, examined, type ExamineOptions, type Report } from './examine/examine.ts';
export { type IdleDial } from './examine/idle.ts';
export { countsOf, type Finding, type Lens, type Reason } from './examine/finding.ts';
export { measureJump, type Jump } from './measure/jump.ts';
export { differencePicture } from './measure/difference.ts';
export { TRACE_LOOPS, traceOf, type TraceLine } from './measure/trace.ts';
export { carriedBy, velocityField, type VelocityField } from './measure/velocity.ts';
export { keepingTheLook } from './examine/keeping.ts';
export { lapsDial } from './edits/laps-dial.ts';
export { gridOf, mergeMeshes, TRIANGLE_LIMIT, withNormals, withUvs, type MeshData } from './mesh/mesh.ts';
export { cross, type Vector } from './mesh/vector.ts';
export { SHAPES, shapeMesh, SUBDIVISION_LIMIT, type Shape, type ShapeName } from './mesh/shapes.ts';
export { islandsOf, weldedPlaces, type Islands } from './mesh/weld.ts';
export { lengthsOf, spreadOver, stretches, surfaceVelocities, type SurfacePlace } from './mesh/slopes.ts';
export { outlineOf, tilesAcross, uvSeamsOf, type UvSeam } from './mesh/seams.ts';
export { seamGaps } from './measure/mesh-seams.ts';
export {
  boundsOf,
  mapUvs,
  mapUvsWithin,
  mirrorUvs,
  translateUvs,
  normaliseUvs,
  NOTHING_SELECTED,
  repaceUvs,
  paceOf,
  scaleUvs,
  speedThrough,
  rotateUvs,
  type Axis,
  type Bounds,
  type Fitted,
  type Pace,
  type Part,
  type UvMap,
} from './mesh/fit.ts';
export { cylindrical, planar, unrolled, type LayoutAxis } from './mesh/layouts.ts';
export { straighten } from './mesh/straighten.ts';
export { allOf, isEmpty, islandsIn, noneOf, partOf, selectionOf, type Selection } from './mesh/selection.ts';
export { connectedTo, faceGraphOf, loopsThrough, wholeFaces, type FaceGraph } from './mesh/face-graph.ts';
export { LOOP_LIMIT, withLoops } from './mesh/loops.ts';
export { refit, type Fitting, type Refit } from './mesh/refit.ts';
export {
  COPY_LIMIT,
  IDENTITY,
  instancesOf,
  transformPoint,
  type Copies,
  type Matrix,
  type Placing,
} from './mesh/placing.ts';
