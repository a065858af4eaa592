/**
 * Columns of a sheet where nothing is said: the frames fill whole rows where they can, the sheet about as wide as high and
 * rather wider.
 */
export function columnsFor(frames: number): number {
  const even = Math.ceil(Math.sqrt(frames));
  for (let columns = even; columns <= 2 * even; columns++) if (frames % columns === 0) return columns;
  return even;
}
