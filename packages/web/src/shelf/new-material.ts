/** The text a new material starts with: it moves at once, and shows the shape of a material. */
export function blankMaterial(title: string): string {
  return `material "${title.replace(/["\n\r]/g, ' ')}"
loop 4s at 30fps
surface unlit opaque one-sided

dial speed: laps = 1 in -4..4            "Repeats that pass in one loop"
dial tint: color = #e8dcc0               "Colour of the light parts"

flow = uv |> pan(speed, heading: 270deg)
puff = flow |> fbm(cells: 4, octaves: 4, evolve: 1 laps)

out color = tint.rgb * puff
`;
}
