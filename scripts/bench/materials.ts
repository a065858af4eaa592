/** One octave of gradient noise between two patterns: a 3D lattice noise. */
export const ONE_NOISE = 'loop 4s at 30fps\nn = uv |> gradient(cells: 64, evolve: 1 laps)\nout color = n\n';

/** Mostly fBm. */
export const HEAVY = `loop 4s at 30fps
dial drift: laps = 1 in -4..4
a = uv |> pan(drift, heading: 90deg) |> fbm(cells: 4, octaves: 5, evolve: 2 laps)
b = uv |> distort(a, amount: 0.2) |> fbm(cells: 6, octaves: 5, evolve: 1 laps, seed: 3)
out color = (a, b, a * b)
`;

/** Steps that each build on the ones above, as materials do. */
export function chain(count: number): string {
  const lines = [
    'loop 4s at 30fps',
    'dial go: laps = 1 in -4..4',
    'p0 = uv |> pan(go, heading: 270deg)',
    'n0 = p0 |> fbm(cells: 3, octaves: 3, evolve: 1 laps)',
  ];
  for (let i = 1; lines.length < count + 2; i++) {
    lines.push(
      `p${String(i)} = p${String(i - 1)} |> distort(n${String(i - 1)}, amount: 0.0${String((i % 9) + 1)}) |> turn(${String(i)}deg)`,
    );
    lines.push(
      i % 4 === 0
        ? `n${String(i)} = p${String(i)} |> gradient(cells: ${String(2 + (i % 5))}, evolve: 1 laps)`
        : `n${String(i)} = (p${String(i)} |> radial_gradient(radius: 0.${String((i % 8) + 1)})) * 0.5 + n${String(i - 1)} * 0.5`,
    );
  }
  const steps = lines.slice(0, count + 2);
  return `${steps.join('\n')}\nout color = ${steps.findLast((l) => l.startsWith('n'))!.split(' ')[0]!}\n`;
}
