/**
 * Why the server, its threads and its workers did not do something, in one place: what is passed on to a problem, a
 * bake's cause, a note or the log. Whole sentences, but for those said to go on after a name or a colon.
 */
export const why = {
  // Bakes.
  tooLongToPlan: 'It takes too long to process.',
  partTooLong: 'A part of it took more than 15 minutes.',
  noSuchOutput: 'This material does not have this output.',
  imagesMissing: (names: readonly string[]) => `It reads images that are not in the project: ${names.join(', ')}.`,
  tooManyWaiting: (limit: number) => `${String(limit)} bakes of this project are already waiting.`,
  projectFull: 'The bakes of this project have reached the limit of 8 GB. Delete some of them.',
  bakeTooLarge: 'It needs more than the limit of 1 GB. Use fewer or smaller frames.',
  framesMissing: 'Some computed frames are missing. Bake again.',
  endsWorkers: (times: number) => `One part of it has ended its worker ${String(times)} times.`,

  // Redis, after "Redis at ... cannot be reached:".
  redisAway: (address: string, cause: string) => `Redis at ${address} cannot be reached: ${cause}.`,
  noAnswer: 'it does not answer',
  needsPassword: 'it asks for a password: redis://:PASSWORD@HOST:PORT',
  wrongPassword: 'the password is wrong',
  notRedis: 'the server at this address is not Redis',
  // Why bakes wait.
  waitsForRedis: 'Redis cannot be reached',
  waitsForWorkers: 'no worker is connected',

  // Workers.
  otherVersion: (name: string, its: string, own: string) =>
    `"${name}" runs another version of Estela (${its}) than the server (${own}). Update it to the same version.`,
  clockApart: (name: string, seconds: number) =>
    `The clock of "${name}" is ${String(Math.abs(seconds))} seconds ${seconds > 0 ? 'ahead of' : 'behind'} the server's. Synchronise it, for example with NTP.`,
  otherResults: (name: string, node: string) =>
    `"${name}" computes different results than the server: it has another version of Node or faulty memory. Start it with Node ${node}.`,
  notPictures: (name: string) => `"${name}" sent bytes that are not a picture. Check its memory and start it again.`,
  wrongBand: (band: number, flaw: string) => `Band ${String(band)} of this chunk ${flaw}.`,
  bandMissing: 'is missing',
  bandLength: (got: number, expected: number) => `has ${String(got)} bytes, not ${String(expected)}`,
  bandCutOff: 'is cut off',
  bytesLeftOver: 'This chunk has extra bytes after its last band.',

  // Exports.
  tooLongToExport: 'It takes too long to export.',
  tooLongForGlb: 'It takes too long to export. Use a smaller size, or fewer frames.',
  tooMuchMemory: 'It needs too much memory. Use a smaller size, or fewer frames.',
  hasErrors: (first: string) => `It has errors: ${first}`,
  noSuchVariant: (name: string) => `It has no variant named "${name}".`,
  ofItsMesh: (refusal: string) => `Its mesh ${refusal}`,
  meshGone: 'A mesh of it is no longer in the project and is left out.',
  materialGone: 'A material of it is no longer in the project: its mesh is plain grey.',

  // Meshes: goes on after the name of the file.
  meshTooHeavy: (needs: 'more memory' | 'more time') =>
    `needs ${needs} to read than is allowed for one mesh. Reduce it in your mesh editor.`,
  notGlb: 'is a broken GLB file: it has no GLB header.',
  needsGlb: 'Send a GLB file, or the hash of a stored one.',
} as const;
