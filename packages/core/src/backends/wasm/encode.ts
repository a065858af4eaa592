/** Value types of WebAssembly, as they are encoded. */
export const I32 = 0x7f;
export const V128 = 0x7b;
export type ValType = typeof I32 | typeof V128;

/** Instructions that the back end writes, by their names in the standard (WebAssembly 2.0 with fixed-width SIMD). */
const PLAIN = {
  'local.get': 0x20,
  'local.set': 0x21,
  'i32.const': 0x41,
  'i32.load': 0x28,
  'i32.add': 0x6a,
  'i32.mul': 0x6c,
  'i32.shl': 0x74,
  'i32.lt_u': 0x49,
  call: 0x10,
  loop: 0x03,
  end: 0x0b,
  br_if: 0x0d,
  if: 0x04,
} as const;
const SIMD = {
  'v128.load': 0x00,
  'v128.load32_splat': 0x09,
  'v128.store': 0x0b,
  'v128.const': 0x0c,
  'i8x16.shuffle': 0x0d,
  'i32x4.splat': 0x11,
  'i32x4.extract_lane': 0x1b,
  'i32x4.eq': 0x37,
  'i32x4.lt_s': 0x39,
  'i32x4.lt_u': 0x3a,
  'i32x4.le_s': 0x3d,
  'i32x4.le_u': 0x3e,
  'f32x4.eq': 0x41,
  'f32x4.lt': 0x43,
  'f32x4.le': 0x45,
  'v128.not': 0x4d,
  'v128.and': 0x4e,
  'v128.andnot': 0x4f,
  'v128.or': 0x50,
  'v128.xor': 0x51,
  'v128.bitselect': 0x52,
  'v128.any_true': 0x53,
  'f32x4.ceil': 0x67,
  'f32x4.floor': 0x68,
  'i32x4.abs': 0xa0,
  'i32x4.neg': 0xa1,
  'i32x4.shl': 0xab,
  'i32x4.shr_s': 0xac,
  'i32x4.shr_u': 0xad,
  'i32x4.add': 0xae,
  'i32x4.sub': 0xb1,
  'i32x4.mul': 0xb5,
  'i32x4.min_s': 0xb6,
  'i32x4.min_u': 0xb7,
  'i32x4.max_s': 0xb8,
  'i32x4.max_u': 0xb9,
  'f32x4.abs': 0xe0,
  'f32x4.neg': 0xe1,
  'f32x4.sqrt': 0xe3,
  'f32x4.add': 0xe4,
  'f32x4.sub': 0xe5,
  'f32x4.mul': 0xe6,
  'f32x4.div': 0xe7,
  'f32x4.pmin': 0xea,
  'f32x4.pmax': 0xeb,
  'i32x4.trunc_sat_f32x4_s': 0xf8,
  'i32x4.trunc_sat_f32x4_u': 0xf9,
  'f32x4.convert_i32x4_s': 0xfa,
  'f32x4.convert_i32x4_u': 0xfb,
} as const;
export type SimdOp = keyof typeof SIMD;

const view = new DataView(new ArrayBuffer(4));

/** Bytes that grow. */
export class Bytes {
  #data = new Uint8Array(1024);
  length = 0;

  /** Makes room for so many more. */
  #grow(more: number): void {
    if (this.length + more <= this.#data.length) return;
    const grown = new Uint8Array(Math.max(this.#data.length * 2, this.length + more));
    grown.set(this.#data);
    this.#data = grown;
  }

  byte(value: number): this {
    if (this.length === this.#data.length) this.#grow(1);
    this.#data[this.length++] = value;
    return this;
  }

  /** LEB128, unsigned. */
  u32(value: number): this {
    let rest = value >>> 0;
    while (rest >= 0x80) {
      this.byte((rest & 0x7f) | 0x80);
      rest >>>= 7;
    }
    return this.byte(rest);
  }

  /** LEB128, signed. */
  s32(value: number): this {
    let rest = value | 0;
    for (;;) {
      const part = rest & 0x7f;
      rest >>= 7;
      if ((rest === 0 && (part & 0x40) === 0) || (rest === -1 && (part & 0x40) !== 0)) return this.byte(part);
      this.byte(part | 0x80);
    }
  }

  text(value: string): this {
    this.u32(value.length);
    for (const c of value) this.byte(c.charCodeAt(0));
    return this;
  }

  append(other: Bytes): this {
    return this.bytes(other.done());
  }

  bytes(values: Uint8Array): this {
    this.#grow(values.length);
    this.#data.set(values, this.length);
    this.length += values.length;
    return this;
  }

  done(): Uint8Array<ArrayBuffer> {
    return this.#data.slice(0, this.length);
  }
}

/** Bytes of memory that hold constants, from address 16 on. */
export const POOL_BYTES = 16 * 1024;

/**
 * Vectors of four equal lanes in memory. Engines build a constant vector anew at each use, from several
 * instructions; loading it is one.
 */
export class ConstantPool {
  readonly #addresses = new Map<number, number>();

  /** Where the vector of these bits lies; undefined once there is no more room. */
  address(bits: number): number | undefined {
    const known = this.#addresses.get(bits);
    if (known !== undefined) return known;
    const next = 16 + this.#addresses.size * 16;
    if (next + 16 > 16 + POOL_BYTES) return undefined;
    this.#addresses.set(bits, next);
    return next;
  }

  /** What the host must write: 32 bits, four times, at each address. */
  entries(): { readonly bits: number; readonly address: number }[] {
    return [...this.#addresses].map(([bits, address]) => ({ bits, address }));
  }
}

/** Writes the body of one function. */
export class Code {
  readonly body = new Bytes();
  readonly #locals: ValType[] = [];

  constructor(
    readonly parameters: readonly ValType[],
    readonly results: readonly ValType[],
    readonly pool?: ConstantPool,
  ) {}

  local(type: ValType): number {
    this.#locals.push(type);
    return this.parameters.length + this.#locals.length - 1;
  }

  get(local: number): this {
    this.body.byte(PLAIN['local.get']).u32(local);
    return this;
  }

  set(local: number): this {
    this.body.byte(PLAIN['local.set']).u32(local);
    return this;
  }

  plain(name: 'i32.add' | 'i32.mul' | 'i32.shl' | 'i32.lt_u' | 'end'): this {
    this.body.byte(PLAIN[name]);
    return this;
  }

  i32(value: number): this {
    this.body.byte(PLAIN['i32.const']).s32(value);
    return this;
  }

  loadI32(offset: number): this {
    this.body.byte(PLAIN['i32.load']).byte(2).u32(offset);
    return this;
  }

  loop(): this {
    this.body.byte(PLAIN.loop).byte(0x40);
    return this;
  }

  /** Until `end`, only where what is on the stack is not 0. */
  when(): this {
    this.body.byte(PLAIN.if).byte(0x40);
    return this;
  }

  branchIf(depth: number): this {
    this.body.byte(PLAIN.br_if).u32(depth);
    return this;
  }

  /** Ends a loop over planes: it goes on with the next four pixels while the local `offset` is below the local `bytes`. */
  nextFour(offset: number, bytes: number): this {
    this.get(offset).i32(16).plain('i32.add').set(offset);
    return this.get(offset).get(bytes).plain('i32.lt_u').branchIf(0).plain('end');
  }

  call(index: number): this {
    this.body.byte(PLAIN.call).u32(index);
    return this;
  }

  simd(name: SimdOp): this {
    this.body.byte(0xfd).u32(SIMD[name]);
    return this;
  }

  /** Loads or stores 16 bytes at an address on the stack plus `offset`, or loads four to all lanes. */
  memory(name: 'v128.load' | 'v128.load32_splat' | 'v128.store', offset: number): this {
    this.simd(name);
    this.body.u32(name === 'v128.load32_splat' ? 2 : 4).u32(offset);
    return this;
  }

  lane(index: number): this {
    this.simd('i32x4.extract_lane');
    this.body.byte(index);
    return this;
  }

  /** Takes four 32-bit lanes out of the eight of two vectors. */
  shuffle(lanes: readonly number[]): this {
    this.simd('i8x16.shuffle');
    for (const lane of lanes) for (let i = 0; i < 4; i++) this.body.byte(lane * 4 + i);
    return this;
  }

  /** The same float in all lanes. */
  float(value: number): this {
    view.setFloat32(0, value, true);
    return this.#splat();
  }

  /** The same integer in all lanes. */
  integer(value: number): this {
    view.setInt32(0, value | 0, true);
    return this.#splat();
  }

  #splat(): this {
    const bits = view.getInt32(0, true);
    // Zero is made by one instruction wherever it is.
    const address = bits === 0 ? undefined : this.pool?.address(bits);
    if (address !== undefined) return this.i32(address).memory('v128.load', 0);
    this.simd('v128.const');
    for (let lane = 0; lane < 4; lane++) for (let i = 0; i < 4; i++) this.body.byte(view.getUint8(i));
    return this;
  }

  /** As it stands in the code section. */
  encoded(): Bytes {
    const locals = new Bytes();
    const runs: { type: ValType; count: number }[] = [];
    for (const type of this.#locals) {
      const last = runs.at(-1);
      if (last?.type === type) last.count++;
      else runs.push({ type, count: 1 });
    }
    locals.u32(runs.length);
    for (const { type, count } of runs) locals.u32(count).byte(type);
    const size = locals.length + this.body.length + 1;
    return new Bytes().u32(size).append(locals).append(this.body).byte(PLAIN.end);
  }
}

/** A module of functions over one imported memory, `host.memory`; without a word the last one is exported as `run`. */
export function encodeModule(
  functions: readonly Code[],
  exported: Readonly<Record<string, number>> = { run: functions.length - 1 },
): Uint8Array<ArrayBuffer> {
  const types: string[] = [];
  const indices = functions.map((f) => {
    const key = JSON.stringify([f.parameters, f.results]);
    if (!types.includes(key)) types.push(key);
    return types.indexOf(key);
  });
  const out = new Bytes().bytes(Uint8Array.of(0, 0x61, 0x73, 0x6d, 1, 0, 0, 0));
  const section = (id: number, content: Bytes): void => {
    out.byte(id).u32(content.length).append(content);
  };
  const typeSection = new Bytes().u32(types.length);
  for (const key of types) {
    const [parameters, results] = JSON.parse(key) as [number[], number[]];
    typeSection
      .byte(0x60)
      .u32(parameters.length)
      .bytes(Uint8Array.from(parameters))
      .u32(results.length)
      .bytes(Uint8Array.from(results));
  }
  section(1, typeSection);
  section(2, new Bytes().u32(1).text('host').text('memory').byte(2).byte(0).u32(1));
  const functionSection = new Bytes().u32(functions.length);
  for (const index of indices) functionSection.u32(index);
  section(3, functionSection);
  const exportSection = new Bytes().u32(Object.keys(exported).length);
  for (const [name, index] of Object.entries(exported)) exportSection.text(name).byte(0).u32(index);
  section(7, exportSection);
  const codeSection = new Bytes().u32(functions.length);
  for (const f of functions) codeSection.append(f.encoded());
  section(10, codeSection);
  return out.done();
}
