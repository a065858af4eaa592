import type { ImageSlot } from '../../ir/node.ts';
import { Code, V128 } from './encode.ts';
import { shuffled, transposed } from './lanes.ts';
import { postorder } from './grid/places.ts';
import { Terms, type Term } from './grid/terms.ts';
import { Writing, type Place } from './grid/writing.ts';

/** Bytes of an image's header in memory: the address of its texels, and room; then four lanes each of SIZES. */
export const HEADER_BYTES = 80;

/** Where an image's size lies, of a term that is one. */
export const sizePlace = ({ payload }: Term, header: number): Place => ({
  at: header + 16 + payload * 16,
  kind: 'lanes',
});

/** A function (u, v) to red, green, blue, alpha that reads an image for four pixels: wrapped and filtered as its slot says. */
export function readFunction(slot: ImageSlot, header: number): Code {
  const code = new Code([V128, V128], [V128, V128, V128, V128]);
  const terms = new Terms();
  const place = terms.place();
  const writing = new Writing(code, undefined, undefined, {
    reader: () => 0,
    lookupOf: () => undefined,
    placeOf: (term) => (term.op === 'size' ? sizePlace(term, header) : undefined),
  });
  place.forEach((term, local) => {
    writing.holds(term, local);
  });
  const texels = terms.texels(slot, ...place);
  writing.all(postorder(texels));
  const locals = texels.map((term) => {
    const local = code.local(V128);
    writing.push(term);
    code.set(local);
    return local;
  });
  return gather(code, locals, header);
}

/** The same from what `Terms.texels` gives. */
export function gatherFunction(slot: ImageSlot, header: number): Code {
  const parameters = Array.from<typeof V128>({ length: slot.filter === 'linear' ? 6 : 2 }).fill(V128);
  const code = new Code(parameters, [V128, V128, V128, V128]);
  return gather(
    code,
    parameters.map((_, local) => local),
    header,
  );
}

/**
 * Loads the texels of four pixels, four floats each, and mixes them: of locals that hold columns, how far between them, where
 * rows begin, and how far between those; of texels as they are, a column and where a row begins.
 */
function gather(code: Code, locals: readonly number[], header: number): Code {
  const isMixed = locals.length > 2;
  const [columns, rows] = isMixed ? [locals.slice(0, 2), locals.slice(3, 5)] : [locals.slice(0, 1), locals.slice(1)];
  /** Addresses of the texels of one corner, one a lane. */
  const address = (column: number, row: number): number => {
    const local = code.local(V128);
    code.get(row).get(column).simd('f32x4.add').simd('i32x4.trunc_sat_f32x4_s').i32(4).simd('i32x4.shl');
    code.i32(header).loadI32(0).simd('i32x4.splat').simd('i32x4.add').set(local);
    return local;
  };
  const corners = rows.flatMap((row) => columns.map((column) => address(column, row)));
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
  const laneOf = (vector: number, lane: number): number => shuffled(code, vector, vector, [lane, lane, lane, lane]);
  const pixels = [0, 1, 2, 3].map((lane) => {
    const texels = corners.map((corner) => texel(corner, lane));
    if (!isMixed) return texels[0]!;
    const [tx, ty] = [laneOf(locals[2]!, lane), laneOf(locals[5]!, lane)];
    return mix(mix(texels[0]!, texels[1]!, tx), mix(texels[2]!, texels[3]!, tx), ty);
  });
  for (const channel of transposed(code, pixels as [number, number, number, number])) code.get(channel);
  return code;
}
