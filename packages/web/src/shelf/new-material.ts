/** Texts a new material can start from, beside those there are; each gets its title afterwards. */
export const STARTS = {
  moving: {
    label: 'Moving noise',
    text: `material "Untitled"
loop 4s at 30fps
surface unlit opaque one-sided

dial speed: laps = 1 in -4..4            "Repeats that pass in one loop"
dial tint: color = #e8dcc0               "Colour of the light parts"

flow = uv |> pan(speed, heading: 270deg)
puff = flow |> fbm(cells: 4, octaves: 4, evolve: 1 laps)

out color = tint.rgb * puff
`,
  },
  blank: {
    label: 'Blank',
    text: `material "Untitled"
loop 4s at 30fps
surface unlit opaque one-sided
`,
  },
} as const;
export type StartName = keyof typeof STARTS;
