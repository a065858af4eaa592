import type { MeshData } from './mesh.ts';

/** A copy of a mesh to which vertices are added: copies of present ones, or mixtures of two, with UVs of their own. */
export class Rebuild {
  readonly #positions: number[];
  readonly #normals: number[];
  readonly #uvs: number[];
  readonly #colors: number[] | undefined;

  constructor(mesh: MeshData) {
    this.#positions = [...mesh.positions];
    this.#normals = [...mesh.normals];
    this.#uvs = [...mesh.uvs];
    this.#colors = mesh.colors && [...mesh.colors];
  }

  setUv(vertex: number, u: number, v: number): void {
    this.#uvs[vertex * 2] = u;
    this.#uvs[vertex * 2 + 1] = v;
  }

  uvOf(vertex: number): readonly [number, number] {
    return [this.#uvs[vertex * 2]!, this.#uvs[vertex * 2 + 1]!];
  }

  /** A new vertex at `share` of the way from one to another; of all they have. */
  between(a: number, b: number, share: number): number {
    for (const [values, width] of [
      [this.#positions, 3],
      [this.#normals, 3],
      [this.#uvs, 2],
      [this.#colors, 4],
    ] as const) {
      if (!values) continue;
      const mixed = Array.from(
        { length: width },
        (_, k) => values[a * width + k]! * (1 - share) + values[b * width + k]! * share,
      );
      if (values === this.#normals) {
        const length = Math.hypot(...mixed);
        // Between opposite ones there is no mean; the nearer one stays.
        const nearer = (share < 0.5 ? a : b) * 3;
        values.push(...(length > 1e-6 ? mixed.map((x) => x / length) : values.slice(nearer, nearer + 3)));
      } else values.push(...mixed);
    }
    return this.#positions.length / 3 - 1;
  }

  /** A new vertex like another but for its UV. */
  copy(vertex: number, u: number, v: number): number {
    const made = this.between(vertex, vertex, 0);
    this.setUv(made, u, v);
    return made;
  }

  /** The mesh with these triangles; vertices that none uses are left out. */
  finish(triangles: readonly number[]): MeshData {
    const next = new Map<number, number>();
    const indices = Uint32Array.from(triangles, (v) => {
      let known = next.get(v);
      if (known === undefined) next.set(v, (known = next.size));
      return known;
    });
    const kept = [...next.keys()];
    const pick = (values: number[], width: number): Float32Array => {
      const result = new Float32Array(kept.length * width);
      kept.forEach((v, i) => {
        for (let k = 0; k < width; k++) result[i * width + k] = values[v * width + k]!;
      });
      return result;
    };
    return {
      positions: pick(this.#positions, 3),
      normals: pick(this.#normals, 3),
      uvs: pick(this.#uvs, 2),
      ...(this.#colors ? { colors: pick(this.#colors, 4) } : {}),
      indices,
    };
  }
}
