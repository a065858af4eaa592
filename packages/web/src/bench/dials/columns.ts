/** Widths of the table's columns in pixels: the name with the space before it, control, value, range, each variant. */
export const COLUMNS = { name: 104, control: 122, value: 74, range: 106, variant: 96 } as const;
export const GAP = 8;

/** Width of the table without the column of what each does, in pixels. */
export const widthFor = (variants: number): number =>
  COLUMNS.name + COLUMNS.control + COLUMNS.value + COLUMNS.range + variants * (COLUMNS.variant + GAP) + 3 * GAP + 12;

/**
 * Width of a variant's column in pixels, so that no column is cut at the right edge of a table that is so wide: those
 * that are in sight share the room, and the others begin beyond it.
 */
export function variantWidth(width: number, variants: number): number {
  const room = width - widthFor(0);
  const fit = Math.floor(room / (COLUMNS.variant + GAP));
  return fit >= variants || fit < 1 ? COLUMNS.variant : Math.floor(room / fit) - GAP;
}
