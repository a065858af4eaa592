/** One octave of gradient noise between two patterns: a 3D lattice noise. The step before the last one. */
export const oneNoise = (cells: number, turned: boolean): string =>
  `loop 4s at 30fps\nn = uv |> ${turned ? 'turn(30deg) |> ' : ''}gradient(cells: ${String(cells)}, evolve: 1 lap)\nout color = n\n`;

/** Mostly fBm. */
export const HEAVY = `loop 4s at 30fps
dial drift: laps = 1 in -4..4
a = uv |> pan(drift, heading: 90deg) |> fbm(cells: 4, octaves: 5, evolve: 2 laps)
b = uv |> distort(a, amount: 0.2) |> fbm(cells: 6, octaves: 5, evolve: 1 lap, seed: 3)
out color = (a, b, a * b)
`;

/** Steps that each build on the ones above, as materials do; each switch has a part in every so many of them. */
export function chain(count: number, switches = 0): string {
  const lines = ['p0 = uv |> pan(go, heading: 270deg)', 'n0 = p0 |> fbm(cells: 3, octaves: 3, evolve: 1 lap)'];
  for (let i = 1; lines.length < count; i++) {
    const before = switches === 0 ? '0.5' : `(0.4 + 0.1 * w${String(i % switches)})`;
    lines.push(
      `p${String(i)} = p${String(i - 1)} |> distort(n${String(i - 1)}, amount: 0.0${String((i % 9) + 1)}) |> turn(${String(i)}deg)`,
    );
    lines.push(
      i % 4 === 0
        ? `n${String(i)} = p${String(i)} |> gradient(cells: ${String(2 + (i % 5))}, evolve: 1 lap)`
        : `n${String(i)} = (p${String(i)} |> radial_gradient(radius: 0.${String((i % 8) + 1)})) * 0.5 + n${String(i - 1)} * ${before}`,
    );
  }
  const head = ['loop 4s at 30fps', 'dial go: laps = 1 in -4..4'];
  for (let s = 0; s < switches; s++) head.push(`switch w${String(s)} = on`);
  const steps = lines.slice(0, count);
  const last = steps.findLast((l) => l.startsWith('n'))!.split(' ')[0]!;
  return `${[...head, ...steps].join('\n')}\nout color = ${last}\n`;
}

/** As many steps as wanted, each the one above with a little more; the first is given. */
export function additions(count: number, first: string): string {
  const more = (_: unknown, i: number): string => `a${String(i + 1)} = a${String(i)} + 0.${String((i % 9) + 1)}`;
  const lines = [`a0 = ${first}`, ...Array.from({ length: count - 1 }, more)];
  return `loop 4s at 30fps\n${lines.join('\n')}\nout color = a${String(count - 1)}\n`;
}
