/** Widths of the table's columns, in order: name, control, value, range, one for each variant. */
const COLUMNS = { name: 84, control: 132, value: 76, range: 112, variant: 104 } as const;
export const columnsFor = (variants: number): string =>
  `${String(COLUMNS.name)}px ${String(COLUMNS.control)}px ${String(COLUMNS.value)}px ${String(COLUMNS.range)}px ${`${String(COLUMNS.variant)}px `.repeat(variants)}minmax(120px, 1fr)`;
