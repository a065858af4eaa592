/**
 * Which run of `npm run judge` this is, from 1 on: more is judged then, other random programs each time. 0 in
 * `npm test`, which judges a fixed sample.
 */
export const JUDGE = Number(process.env.ESTELA_JUDGE ?? 0);

/** How many random programs are judged, and by which seed. */
export const sampled = (numRuns: number, seed: number): { readonly numRuns: number; readonly seed: number } =>
  JUDGE > 0 ? { numRuns: 200, seed: seed + 1000 * JUDGE } : { numRuns, seed };

/** Seconds of the loop that are looked at: others in each run. */
export const MOMENT = [0.7, 0.13, 1.9, 3.4][JUDGE % 4]!;
