/** The only place where colours, faces and measures of the interface are written. */
export const tokens = {
  pit: '#131313',
  floor: '#1b1b1b',
  row: '#232323',
  raise: '#2c2c2c',
  line: '#383838',
  text: '#ece8df',
  bone: '#cfc8b8',
  dim: '#989286',
  amber: '#f2a93b',
  coral: '#ff6f61',
  select: '#34322d',
} as const;

/** Red, green and blue of a colour, 0..1, as they are shown: sRGB, not linear. */
export const codedOf = (hex: string): [number, number, number] =>
  [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16) / 255) as [number, number, number];

export const faces = {
  interface: "'Barlow Semi Condensed', sans-serif",
  figures: "'JetBrains Mono', monospace",
} as const;
