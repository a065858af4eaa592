/** Words of GLSL ES 3.00 that a variable cannot be called, and functions that emitted code calls. */
const TAKEN = new Set(
  `attribute const uniform varying layout centroid flat smooth break continue do for while switch case default if else in out inout
  float int uint void bool true false invariant discard return mat2 mat3 mat4 vec2 vec3 vec4 ivec2 ivec3 ivec4 uvec2 uvec3 uvec4 bvec2 bvec3 bvec4
  lowp mediump highp precision sampler2D sampler3D samplerCube struct common partition active asm class union enum typedef template this
  resource patch sample subroutine goto inline noinline volatile public static extern external interface long short double half fixed unsigned
  superp input output filter image1D image2D image3D sizeof cast namespace using noperspective main material texture textureGrad
  radians degrees sin cos tan asin acos atan pow exp log exp2 log2 sqrt inversesqrt abs sign floor trunc round ceil fract mod min max clamp
  mix step smoothstep isnan isinf length distance dot cross normalize reflect refract transpose inverse lessThan lessThanEqual equal any all not
  dFdx dFdy fwidth uv uv2 screen position world vertex_color facing gap coherent restrict readonly writeonly shared buffer atomic_uint row_major`
    .split(/\s+/)
    .filter(Boolean),
);

/**
 * Gives out names, each once in a scope and in those around it: the wanted one where it is free and legal, else with a
 * number behind.
 */
export class Names {
  readonly #used = new Set<string>();
  /** Where counting goes on for a name that was wanted before. */
  readonly #next = new Map<string, number>();

  /** `around` is the scope that this one stands in; what is taken there afterwards may hide what is here. */
  constructor(readonly around?: Names) {}

  has(name: string): boolean {
    return this.#used.has(name) || (this.around?.has(name) ?? false);
  }

  take(wanted: string): string {
    const base = wanted.replace(/_+/g, '_').replace(/^gl_/, 'g_').replace(/_$/, '');
    let name = base === '' || TAKEN.has(base) ? `${base}_1` : base;
    let n = this.#next.get(base) ?? 2;
    while (this.has(name)) name = `${base}_${String(n++)}`;
    this.#next.set(base, n);
    this.#used.add(name);
    return name;
  }
}
