/** Every sentence of the command line but its help, in one place. */
export const say = {
  // Options.
  takes: (option: string, what: string, got: string) => `${option} takes ${what}, not '${got}'.`,
  goesFrom: (option: string, low: number, high: number) => `${option} goes from ${String(low)} to ${String(high)}.`,
  wholeNumber: 'a whole number',
  numbers: (count: number) => (count === 1 ? 'a number' : `${String(count)} numbers separated by commas`),
  frames: 'all, or frame numbers and ranges such as 0,15,20..29',
  someOf: (words: readonly string[]) => `${words.join(', ')}, separated by commas`,
  countOfAll: '--count spreads frames over the whole loop: use it without --frames.',
  meshes: (shapes: readonly string[], endings: readonly string[]) =>
    `--mesh takes ${shapes.join(', ')}, or a file that ends with ${endings.join(', ')}.`,
  budget: (part: string) => `'${part}' is not a budget: write operations=N, reads=N or samplers=N.`,
  nowhereToWrite: 'Nothing to write: give --out a .zip, or --gltf a .glb.',
  manyFiles: (count: number) => `This bake makes ${String(count)} files: give --out a folder or a .zip.`,

  // Files.
  unreadable: (file: string, reason?: string) => `${file} cannot be read${reason === undefined ? '' : `: ${reason}`}.`,
  noSuchFile: 'the file does not exist',
  notGltf: (file: string) => `${file} is not a .glb or .gltf file.`,
  isFolder: (path: string) => `${path} is a folder: give a file name.`,

  // Materials.
  nothingNamed: (kind: 'step' | 'output', name: string) => `There is no ${kind} named '${name}'.`,
  open: (variant: string | undefined, shift: 'loop' | 'tile_u' | 'tile_v') =>
    `${variant === undefined ? 'It' : `Its variant "${variant}"`} does not ${{ loop: 'loop', tile_u: 'tile horizontally', tile_v: 'tile vertically' }[shift]}.`,
  noProblems: (file: string) => `${file}: no problems found`,
  leftOut: (finding: string) => `${finding} It is left out.`,

  // What came of it.
  wrote: (what: string, to: string) => `Wrote ${what} to ${to}.`,
  wroteFile: (file: string, bytes: number, files?: number) =>
    `Wrote ${file}: ${files === undefined ? '' : `${String(files)} files, `}${String(Math.ceil(bytes / 1000))} kB.`,
  stopped: 'Stopped. Nothing was exported.',
  imagesMissing: 'Nothing was exported. Use --leave-out-missing to export without missing images.',

  // Video.
  noFfmpeg: 'WebM needs ffmpeg, which is not installed. Install it, or make the video on the Bench, under Bake.',
  noVp9: 'The installed ffmpeg cannot write VP9: it was built without libvpx.',
  unevenVideo: 'A video needs evenly spaced frames: use all frames, one range, or --count.',
  manyVideos: 'A video shows one output only.',
  videoFailed: (complaint: string) => `ffmpeg could not write the video: ${complaint || 'it ended without a message.'}`,
};
