/**
 * The same GLSL for renderers that compute shaders on a processor without shifts lane by lane, which take several times as long
 * for a shift as for a product: hashes, which are nearly all shifts, come at twice the speed. A card of its own does a shift
 * sooner, so what leaves Estela keeps them.
 *
 * To the left is a product of a power of two. To the right, of the bits that stay: as a number they are a multiple of 2^n with at
 * most 24 bits, so that float, product and conversion are all exact, the sign apart, which the mask takes off.
 */
export function forSoftware(code: string): string {
  return code
    .replace(LEFT, (_, value: string, count: string) => `float(int(${value} * ${String(2 ** Number(count))}u))`)
    .replace(RIGHT, (all, value: string, count: string) => {
      const n = Number(count);
      if (n < LEAST) return all;
      const stays = (0xffffffff << n) >>> 0;
      const part = `float(int(${value} & ${String(stays)}u)) * ${(2 ** -n).toFixed(n)}`;
      return `${value} ^ (uint(int(${part})) & ${String(2 ** (32 - n) - 1)}u)`;
    });
}

/** A part of a hash as a number, as lattices take it: of a `uint` always. */
const LEFT = /\bfloat\(int\((\w+) << (\d+)\)\)/g;
/** A step of a hash. */
const RIGHT = /\b(\w+) \^ \(\1 >> (\d+)\)/g;
/** Of fewer, more than 24 bits stay. */
const LEAST = 8;
