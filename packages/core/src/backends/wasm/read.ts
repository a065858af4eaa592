import type { ImageSlot } from '../../ir/node.ts';
import { MOST_TEXELS } from '../../image/pixels.ts';
import { Code, V128 } from './encode.ts';

/** Bytes of an image's header in memory: address of its texels, width, height, each 32 bits, and room. */
export const HEADER_BYTES = 16;

/**
 * A function (u, v) to red, green, blue, alpha that reads an image for four pixels: wrapped and
 * filtered as its slot says. Texels lie in memory as four floats each, decoded already.
 */
export function readFunction(slot: ImageSlot, header: number): Code {
  const code = new Code([V128, V128], [V128, V128, V128, V128]);
  const linear = slot.filter === 'linear';
  const axes = [0, 1].map((axis) => {
    const size = code.local(V128);
    const low = code.local(V128);
    const within = code.local(V128);
    const scaled = code.local(V128);
    code
      .i32(header + 4 + axis * 4)
      .loadI32(0)
      .simd('i32x4.splat')
      .simd('f32x4.convert_i32x4_s')
      .set(size);
    // 0 where it is not finite, or too large to tell texels apart.
    code.get(axis).get(size).simd('f32x4.mul').set(scaled);
    code.get(scaled).get(scaled).simd('f32x4.abs').float(MOST_TEXELS).simd('f32x4.le').simd('v128.and');
    if (linear) {
      code.float(0.5).simd('f32x4.sub').set(within);
      code.get(within).simd('f32x4.floor').set(low);
      code.get(within).get(low).simd('f32x4.sub').set(within);
    } else code.simd('f32x4.floor').set(low);
    const indices = [wrapped(code, low, size, slot.wrap)];
    if (linear) {
      const next = code.local(V128);
      code.get(low).float(1).simd('f32x4.add').set(next);
      indices.push(wrapped(code, next, size, slot.wrap));
    }
    return { size, within, indices };
  });
  const [across, down] = axes as [(typeof axes)[0], (typeof axes)[0]];

  /** Addresses of the texels of one corner, one a lane. */
  const address = (x: number, y: number): number => {
    const local = code.local(V128);
    code
      .get(y)
      .get(across.size)
      .simd('f32x4.mul')
      .get(x)
      .simd('f32x4.add')
      .simd('i32x4.trunc_sat_f32x4_s')
      .i32(4)
      .simd('i32x4.shl');
    code.i32(header).loadI32(0).simd('i32x4.splat').simd('i32x4.add').set(local);
    return local;
  };
  const corners = down.indices.flatMap((y) => across.indices.map((x) => address(x, y)));
  const texel = (corner: number, lane: number): number => {
    const local = code.local(V128);
    code.get(corner).lane(lane).memory('v128.load', 0).set(local);
    return local;
  };
  /** from + (to - from) * weight, the weight being one lane of a vector for all four channels. */
  const mix = (from: number, to: number, weight: number): number => {
    const local = code.local(V128);
    code.get(from).get(to).get(from).simd('f32x4.sub').get(weight).simd('f32x4.mul').simd('f32x4.add').set(local);
    return local;
  };
  const laneOf = (vector: number, lane: number): number => {
    const local = code.local(V128);
    code.get(vector).get(vector).shuffle([lane, lane, lane, lane]).set(local);
    return local;
  };
  const pixels = [0, 1, 2, 3].map((lane) => {
    const texels = corners.map((corner) => texel(corner, lane));
    if (!linear) return texels[0]!;
    const [tx, ty] = [laneOf(across.within, lane), laneOf(down.within, lane)];
    return mix(mix(texels[0]!, texels[1]!, tx), mix(texels[2]!, texels[3]!, tx), ty);
  });
  // From a pixel a vector to a channel a vector.
  const pair = (a: number, b: number, lanes: readonly number[]): number => {
    const local = code.local(V128);
    code.get(a).get(b).shuffle(lanes).set(local);
    return local;
  };
  const low = [pair(pixels[0]!, pixels[1]!, [0, 4, 1, 5]), pair(pixels[2]!, pixels[3]!, [0, 4, 1, 5])] as const;
  const high = [pair(pixels[0]!, pixels[1]!, [2, 6, 3, 7]), pair(pixels[2]!, pixels[3]!, [2, 6, 3, 7])] as const;
  for (const [a, b] of [low, high]) {
    code.get(a).get(b).shuffle([0, 1, 4, 5]);
    code.get(a).get(b).shuffle([2, 3, 6, 7]);
  }
  return code;
}

/** Whole coordinates brought into 0..size - 1, as floats; exact below 2^24. */
function wrapped(code: Code, index: number, size: number, wrap: ImageSlot['wrap']): number {
  const result = code.local(V128);
  if (wrap === 'clamp') {
    code.get(index).float(0).simd('f32x4.pmax').get(size).float(1).simd('f32x4.sub').simd('f32x4.pmin').set(result);
    return result;
  }
  const period = code.local(V128);
  code.get(size);
  if (wrap === 'mirror') code.float(2).simd('f32x4.mul');
  code.set(period);
  // index - period * floor(index / period), and a correction where the quotient was rounded over a whole number.
  code
    .get(index)
    .get(period)
    .get(index)
    .get(period)
    .simd('f32x4.div')
    .simd('f32x4.floor')
    .simd('f32x4.mul')
    .simd('f32x4.sub')
    .set(result);
  code.get(result).get(period).get(result).float(0).simd('f32x4.lt').simd('v128.and').simd('f32x4.add').set(result);
  code.get(result).get(period).get(period).get(result).simd('f32x4.le').simd('v128.and').simd('f32x4.sub').set(result);
  if (wrap === 'mirror') {
    code
      .get(result)
      .get(period)
      .float(1)
      .simd('f32x4.sub')
      .get(result)
      .simd('f32x4.sub')
      .get(result)
      .get(size)
      .simd('f32x4.lt')
      .simd('v128.bitselect')
      .set(result);
  }
  // Coordinates too large to be exact must still stay inside the image.
  code.get(result).float(0).simd('f32x4.pmax').get(size).float(1).simd('f32x4.sub').simd('f32x4.pmin').set(result);
  return result;
}
