import { TRIANGLE_LIMIT } from '@estela/core';
import type { GLTF } from '@gltf-transform/core';
import { at, broken, fail, isPart, missing, partsIn, whole, type Part } from './gltf-part.ts';
import { tooManyVertices } from './limits.ts';
import { flaws } from '../wording.ts';

/** Most elements that the attributes and indices of all shown meshes may have between them: five for each corner. */
const VALUE_LIMIT = 15 * TRIANGLE_LIMIT;

/** Parts that are kept, each once, under new numbers. */
export class Kept {
  readonly list: Part[] = [];
  readonly #numbers = new Map<number, number>();
  keep(index: number, make: () => Part): number {
    let number = this.#numbers.get(index);
    if (number === undefined) {
      number = this.list.push(make()) - 1;
      this.#numbers.set(index, number);
    }
    return number;
  }
}

/** Bytes a component of each type, and components of each kind of element (glTF 2.0, 3.6.2). */
const COMPONENT_BYTES: Readonly<Record<number, number>> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 };
const COMPONENTS: Readonly<Record<string, number>> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4 };
/** Keeps accessors whose bytes are there. `lengths` are those of the buffers, in bytes. */
export class Accessors {
  readonly accessors = new Kept();
  readonly #views = new Kept();
  readonly #given: { readonly accessors: readonly Part[]; readonly bufferViews: readonly Part[] };
  #values = 0;
  constructor(
    json: Part,
    readonly lengths: readonly number[],
  ) {
    this.#given = { accessors: partsIn(json, 'accessors'), bufferViews: partsIn(json, 'bufferViews') };
  }

  /** What was kept, as a file of its own: buffer i is named by its number. */
  json(version: string): GLTF.IGLTF {
    return {
      asset: { version },
      buffers: this.lengths.map((byteLength, i) => ({ uri: String(i), byteLength })),
      bufferViews: this.#views.list as unknown as GLTF.IBufferView[],
      accessors: this.accessors.list as unknown as GLTF.IAccessor[],
    };
  }

  keep(index: unknown, kinds: readonly string[], integers = false): number {
    const part = at(this.#given.accessors, index, 'an accessor');
    if (!kinds.includes(part.type as string)) throw broken(flaws.accessorType);
    return this.accessors.keep(index as number, () => this.#checked(part, integers));
  }

  /** How many elements an accessor that was kept has. */
  count(kept: number): number {
    return this.accessors.list[kept]!.count as number;
  }

  #checked(
    { type, componentType, count: counted, bufferView, byteOffset, normalized, sparse }: Part,
    integers: boolean,
  ): Part {
    const bytes = COMPONENT_BYTES[whole(componentType, 'a component type')];
    if (bytes === undefined || (integers && ![5121, 5123, 5125].includes(componentType as number)))
      throw broken(flaws.componentType);
    const count = whole(counted, 'the count of an accessor');
    this.#values += count;
    if (this.#values > VALUE_LIMIT) throw tooManyVertices(this.#values, VALUE_LIMIT);
    const element = COMPONENTS[type as string]! * bytes;
    return {
      type,
      componentType,
      count,
      normalized: normalized === true,
      ...(bufferView === undefined
        ? {}
        : {
            bufferView: this.#view(bufferView, byteOffset, count, element),
            byteOffset: whole(byteOffset, 'an offset', 0),
          }),
      ...(sparse === undefined ? {} : { sparse: this.#sparse(sparse, count, element) }),
    };
  }

  /** Some elements given apart: their places, and their values. */
  #sparse(sparse: unknown, of: number, element: number): Part {
    if (!isPart(sparse) || !isPart(sparse.indices) || !isPart(sparse.values)) throw broken(flaws.sparseLacks);
    const { indices, values } = sparse;
    const count = whole(sparse.count, 'the count of a sparse accessor');
    if (count > of) throw broken(flaws.sparseTooMany);
    const bytes = [5121, 5123, 5125].includes(indices.componentType as number)
      ? COMPONENT_BYTES[indices.componentType as number]
      : undefined;
    if (bytes === undefined) throw broken(flaws.sparseIndices);
    const part = ({ bufferView, byteOffset, componentType }: Part, size: number): Part => ({
      bufferView: this.#view(bufferView, byteOffset, count, size),
      byteOffset: whole(byteOffset, 'an offset', 0),
      ...(componentType === undefined ? {} : { componentType }),
    });
    return { count, indices: part(indices, bytes), values: part(values, element) };
  }

  /** Which bytes of which buffer a view holds. */
  bytesOf(index: unknown): { readonly buffer: number; readonly start: number; readonly end: number } {
    const { buffer, byteOffset, byteLength } = at(this.#given.bufferViews, index, 'a buffer view');
    const number = whole(buffer, 'the number of a buffer');
    const room = this.lengths[number] ?? fail(missing('a buffer'));
    const [start, length] = [whole(byteOffset, 'an offset', 0), whole(byteLength, 'the length of a buffer view')];
    if (start + length > room) throw broken(flaws.viewPastEnd);
    return { buffer: number, start, end: start + length };
  }

  /** A view that holds so many elements from an offset on, inside a buffer that is there. */
  #view(index: unknown, offset: unknown, count: number, element: number): number {
    const { byteStride } = at(this.#given.bufferViews, index, 'a buffer view');
    const { buffer, start, end } = this.bytesOf(index);
    const length = end - start;
    const stride = whole(byteStride, 'a stride', element);
    if (stride < element || stride > 252) throw broken(flaws.stride);
    if (count > 0 && whole(offset, 'an offset', 0) + stride * (count - 1) + element > length)
      throw broken(flaws.accessorPastEnd);
    return this.#views.keep(index as number, () => ({
      buffer,
      byteOffset: start,
      byteLength: length,
      ...(byteStride === undefined ? {} : { byteStride }),
    }));
  }
}
