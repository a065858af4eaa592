import { SRGB_STEPS as STEPS, srgbSteps } from '../../ops/srgb.ts';
import { Code, encodeModule, I32, V128 } from './encode.ts';

/** One channel of many pixels: where it comes from, by the address of its plane, and how it is stored in a byte. */
export type ByteChannel =
  | { readonly kind: 'constant'; readonly byte: number }
  /** 0..1 as it is. */
  | { readonly kind: 'plain'; readonly plane: number }
  /** -1..1, or 1..-1. */
  | { readonly kind: 'signed'; readonly plane: number; readonly sign: 1 | -1 }
  /** Light of 0..1 as sRGB, or as it is; times the plane of what covers, where that is given. */
  | { readonly kind: 'srgb' | 'light'; readonly plane: number; readonly times: number | undefined };

/** What is stored of each pixel, and where. */
export interface ByteStore {
  /** Red, green, blue and alpha. */
  readonly channels: readonly ByteChannel[];
  /** A plane; where it is 0 or less, the whole pixel is 0. */
  readonly clear: number | undefined;
  /** Where the pixels go, four bytes each. */
  readonly out: number;
  /** Where the table of sRGB lies. */
  readonly table: number;
}

/** Bytes of the table: of each step the byte at its beginning, and the float from which on it is the next. */
export const SRGB_TABLE_BYTES = (STEPS + 1) * 8 + 16;

const float = new DataView(new ArrayBuffer(4));
/** The least float of 32 bits that is not below a number above 0. */
function floatFrom(value: number): number {
  const near = Math.fround(value);
  if (near >= value) return near;
  float.setFloat32(0, near);
  float.setUint32(0, float.getUint32(0) + 1);
  return float.getFloat32(0);
}

/** The table of sRGB, as it lies in memory. Rounded bytes of all floats of 0..1 follow from it exactly. */
export function srgbTable(): Uint8Array {
  const table = new DataView(new ArrayBuffer(SRGB_TABLE_BYTES));
  const { changes, bytes } = srgbSteps();
  bytes.forEach((byte, step) => {
    table.setInt32(step * 8, byte, true);
    table.setFloat32(step * 8 + 4, byte === 255 ? 2 : floatFrom(changes[byte]!), true);
  });
  return new Uint8Array(table.buffer);
}

/** A module whose `run(bytes)` stores pixels whose planes take so many bytes, four at a time. */
export function encodeByteStore({ channels, clear, out, table }: ByteStore): Uint8Array<ArrayBuffer> {
  const code = new Code([I32], []);
  const offset = code.local(I32);
  const [value, step, base, change, pixel] = Array.from({ length: 5 }, () => code.local(V128)) as [
    number,
    number,
    number,
    number,
    number,
  ];
  const lanes = [0, 1, 2, 3].map(() => code.local(V128));

  const load = (plane: number): Code => code.get(offset).memory('v128.load', plane);
  /** Holds what is on the stack to 0..1. */
  const held = (): Code => code.float(0).simd('f32x4.pmax').float(1).simd('f32x4.pmin');
  /** 0..1 on the stack becomes bytes. */
  const plain = (): Code =>
    held().float(255).simd('f32x4.mul').float(0.5).simd('f32x4.add').simd('i32x4.trunc_sat_f32x4_u');
  /** Light of 0..1 on the stack becomes bytes of sRGB. */
  const srgb = (): void => {
    code.set(value).get(value).float(STEPS).simd('f32x4.mul').simd('i32x4.trunc_sat_f32x4_u').i32(3).simd('i32x4.shl');
    code.set(step);
    lanes.forEach((lane, i) => {
      code.get(step).lane(i).memory('v128.load', table).set(lane);
    });
    const [a, b, c, d] = lanes as [number, number, number, number];
    // Bytes and changes of two steps, then of four.
    code.get(a).get(b).shuffle([0, 4, 1, 5]).set(a);
    code.get(c).get(d).shuffle([0, 4, 1, 5]).set(c);
    code.get(a).get(c).shuffle([0, 1, 4, 5]).set(base);
    code.get(a).get(c).shuffle([2, 3, 6, 7]).set(change);
    // What is true is -1.
    code.get(base).get(change).get(value).simd('f32x4.le').simd('i32x4.sub');
  };
  const write = (channel: ByteChannel): void => {
    switch (channel.kind) {
      case 'constant':
        code.integer(channel.byte);
        return;
      case 'plain':
        load(channel.plane);
        plain();
        return;
      case 'signed':
        load(channel.plane)
          .float(0.5 * channel.sign)
          .simd('f32x4.mul')
          .float(0.5)
          .simd('f32x4.add');
        plain();
        return;
      case 'srgb':
      case 'light':
        load(channel.plane);
        held();
        if (channel.times !== undefined) {
          load(channel.times);
          held().simd('f32x4.mul');
        }
        if (channel.kind === 'light') plain();
        else srgb();
    }
  };

  code.loop();
  channels.forEach((channel, c) => {
    write(channel);
    if (c > 0)
      code
        .i32(c * 8)
        .simd('i32x4.shl')
        .get(pixel)
        .simd('v128.or');
    code.set(pixel);
  });
  code.get(offset).get(pixel);
  if (clear !== undefined) {
    code.float(0);
    load(clear).simd('f32x4.lt').simd('v128.and');
  }
  code.memory('v128.store', out);
  code.nextFour(offset, 0);
  return encodeModule([code]);
}
