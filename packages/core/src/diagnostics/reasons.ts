/**
 * Why an edit, a fit, a bake or an export cannot be made, or what it leaves out, in one place; whole sentences. What is
 * found in a text is said by `wording.ts`.
 */
export const reasons = {
  // Dials and their values.
  takes: (name: string, form: string) => `'${name}' takes ${form}.`,
  takesOnOff: (name: string) => `'${name}' is a switch: it takes on or off.`,
  noSuchVariant: (name: string) => `There is no variant named "${name}".`,
  noSuchDial: (name: string) => `There is no dial or switch named '${name}'.`,
  dialElsewhere: 'Only a value in a step or an output can become a dial.',
  dialCompiled: (name: string) => `'${name}' is compiled into the shader, so it cannot be a dial.`,
  dialKind: 'A dial cannot have this kind of value.',

  // Packed channels.
  emptyPack: (named: readonly string[]) =>
    `A packing names an output for each channel, such as 'r=color.r g=opacity', or is one of ${named.join(', ')}.`,
  notInPack: (word: string) => `'${word}' is not part of a packing: write r=, g=, b= or a= followed by an output.`,
  setTwice: (channel: string) => `'${channel}' is set twice.`,
  notOutput: (text: string, outputs: readonly string[]) =>
    `'${text}' is not an output: use one of ${outputs.join(', ')}, or a number from 0 to 1.`,
  singleNumber: (output: string, letter: string) => `'${output}' is a single number: remove '.${letter}'.`,
  whichChannel: (output: string, letters: readonly string[]) =>
    `'${output}' has several channels: use one of ${letters.map((l) => `${output}.${l}`).join(', ')}.`,

  // Reading a packed image in place of others.
  usesNone: 'It uses none of these sources.',
  textErrors: 'Its text has errors.',
  wholeImage: (line: number, image: string) =>
    `On line ${String(line)} the whole of '${image}' is used, not a single channel.`,
  notPacked: (line: number, image: string, channel: string) =>
    `On line ${String(line)} '${image}' is read in channel ${channel}, which is not packed.`,
  notData: (image: string, encoding: string) =>
    `'${image}' is read as ${encoding}, but a packed image is read as data: its values would change.`,

  // Fitting a mesh.
  nothingSelected: 'Nothing is selected. Click an island or a face in the layout or on the mesh, or press Select all.',
  noExtent: (axis: string) => `The selection has no extent along ${axis}. Straighten or re-project it first.`,
  noLength: 'The selection has zero length on the surface.',
  separateAlready: 'The selection is separate already: it consists of whole islands.',
  nothingToJoin: 'The selection has no edges to join: its islands do not touch in space.',
  seenEdgeOn: 'Seen along this axis the selection has no extent. Pick another axis.',
  flatAlongAxis: 'The selection is flat along this axis. Pick another axis, or unroll it.',
  noRadius: 'The selection has no extent outward from this axis. Pick another axis.',
  coversMiddle:
    'A face covers the middle, so it has no single angle around it. Add a vertex there in your mesh editor, or pick another axis.',
  loopsAlready: 'There are already edge loops at all these positions. Add more.',
  triangles: (count: number, of: number) =>
    `${count === 1 ? 'One face is a triangle' : `${String(count)} of ${String(of)} faces are triangles`}, so this is not a strip of quads. Deselect the marked faces, or use Planar or Unroll.`,
  branches:
    'Three or more faces meet at one edge, so the strip branches there. Deselect the marked faces of one branch.',
  closesTwice: 'The strip closes in two ways that do not fit. Deselect the marked faces.',
  pieces: 'The selection is several pieces in space. Select one of them: deselect the marked faces.',
  overlaps: 'Several faces would lie at one position of the strip. Deselect the marked faces.',
  notches:
    'The selection has branches, notches or holes: its quads do not fill rows and columns. Deselect the marked faces.',

  // Bakes.
  wholeNumber: (what: string, low: number, high: number, got: number) =>
    `${what} must be a whole number from ${String(low)} to ${String(high)}, not ${String(got)}.`,
  noSuchFrame: (last: number, frame: number) =>
    `The loop has frames 0 to ${String(last)}; frame ${String(frame)} does not exist.`,
  everyOfSpread: 'Frames spread over the loop are all baked: every k-th frame does not apply.',
  noFrames: 'The list of frames is empty.',
  framesReversed: (first: number, last: number) =>
    `The first frame, ${String(first)}, comes after the last, ${String(last)}.`,
  packedOrNot: 'Bake outputs either separately or packed, not both.',
  noSuchOutput: (output: string, outputs: readonly string[]) =>
    `The material has no output ${output}; its outputs are: ${outputs.join(', ') || 'none'}.`,
  outputGone: (output: string) => `The material has no output ${output}.`,
  noOutputs: 'Select the outputs to bake.',
  outputTwice: 'Each output can be baked only once.',
  hasErrors: (first: string) => `The material has errors: ${first}`,
  bleedOfSheets: 'Bleed only applies to sheets.',
  powerOfSheets: 'Power-of-two rounding only applies to sheets. Set the frame size to a power of two.',
  columnsOfSheets: 'Columns only apply to sheets.',
  spreadPremultiplied: 'Spreading colour has no effect with premultiplied alpha: transparent pixels have no colour.',
  tooMuchWork: (times: number) =>
    `This is ${times.toFixed(1)} times the pixel limit of one bake. Use fewer or smaller frames, or fewer samples.`,
  sheetTooLarge: (width: number, height: number, limit: number) =>
    `This sheet is ${String(width)} x ${String(height)} pixels; the limit is ${String(limit)} per side. Use fewer or smaller frames, or change the columns.`,
  spreadTooLarge: (megabytes: number, limit: number) =>
    `Spreading colour needs a whole row of frames in memory: ${String(megabytes)} MB here, the limit is ${String(limit)} MB. Use fewer columns or smaller frames.`,
  partsMissing: 'Parts of this bake are missing.',

  // glTF.
  colorClamped: "'color' goes above 1 in places and is clamped there: glTF allows 0 to 1.",
  beyondUnit:
    'Its values leave 0 to 1 at times, the range glTF allows, so it cannot be split into a texture and an animated factor.',
  framesSideBySide: (outputs: string) =>
    `${outputs}: frames lie side by side in one texture; a mesh with UVs outside 0-1 shows the neighbouring frames.`,
  framesSmaller: (outputs: string, side: number) =>
    `${outputs}: frames are ${String(side)} pixels wide, so that all go into one texture.`,
  noAdditive: 'glTF has no additive blending: alpha blending is exported instead.',
  unlitOutput: (output: string) => `It is unlit: '${output}' has no effect and is left out.`,
  singleInGltf: (output: string) => `'${output}' is a single number in glTF: the value at the centre is exported.`,
  normalStrength: 'glTF cannot animate the strength of a normal map.',
  doesNotTile: 'What moves does not tile: a texture would repeat past its edge.',
  dependsOn: (input: string) => `It depends on ${input}, which a texture cannot hold.`,
  valuesChange: 'Its values change over time, not only its UVs.',
  noScale: 'Its scale is zero in the first frame.',
  twoMotions: 'It combines two different motions; a glTF texture can have only one.',
  shears: 'Its motion shears it, which no texture transform can do.',
  steppedKeys: 'Its keys are stepped.',
  unevenKeys: 'Its motion is not uniform.',
  firstFrame: (source: string, why: string) => `"${source}": ${why} Its first frame is shown.`,
} as const;
