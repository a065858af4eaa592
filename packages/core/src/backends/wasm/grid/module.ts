import { frameValues } from '../../../ir/hoist.ts';
import { widthOf, type ImageSlot, type Node } from '../../../ir/node.ts';
import { Code, ConstantPool, encodeModule, I32, POOL_BYTES, type ValType } from '../encode.ts';
import { gatherFunction, HEADER_BYTES, sizePlace } from '../texels.ts';
import { termsAt } from './places.ts';
import { Plan, type GridPasses, type GridSize } from './plan.ts';
import { regionsOf } from './regions.ts';
import { inFours, tableBytes, type Table } from './tables.ts';
import { RATES, type Rate, type Term } from './terms.ts';
import { weave, type Woven } from './weave.ts';
import { Writing, type Place } from './writing.ts';

/** Where everything lies in the module's memory, in bytes. A plane holds one component of a row's pixels. */
export interface GridLayout {
  readonly frame: ReadonlyMap<Node, number>;
  /** 0, 1, 2 and so on, `most` of them: numbers of cells. */
  readonly numbers: { readonly at: number; readonly most: number };
  /** The plane of u, and four lanes of v. */
  readonly u: number;
  readonly v: number;
  /** By root and component. */
  readonly outputs: readonly (readonly number[])[];
  /** By root: where pixels of several components are put together, and the plane of others. */
  readonly woven: readonly Woven[];
  readonly images: readonly { readonly slot: ImageSlot; readonly header: number }[];
  readonly constants: readonly { readonly bits: number; readonly address: number }[];
  /** Bytes a row of what is kept from frame to frame, and for how many rows there is room: the first is for rows that are not. */
  readonly still: { readonly rowBytes: number; readonly rows: number };
  readonly end: number;
}

export interface GridModule {
  /**
   * Exports, to be called in this order: for a frame `frame()` and, where dials have changed, `dials()`; `columns(bytes)`; for
   * a row `row()`, `still(bytes, kept)` where that row is not kept already, and `pixels(bytes, kept)`, the bytes from the
   * first row's kept values to this row's; `weave(bytes)` where pixels are wanted put together.
   */
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly layout: GridLayout;
}

/** Bytes of what is kept from frame to frame, at most. */
const KEPT_BYTES = 32 * 1024 * 1024;

/** Compiles graphs for rows of pixels. Throws TooManyTerms where they would take too much code. */
export function compileGrid(roots: readonly Node[], size: GridSize, passes: GridPasses = {}): GridModule {
  return new GridCompiler(roots, size, passes).compile();
}

class GridCompiler {
  readonly #pool = new ConstantPool();
  readonly #functions: Code[] = [];
  readonly #readers = new Map<string, number>();
  readonly #frame = new Map<Node, number>();
  readonly #outputs: number[][];
  readonly #woven: readonly Woven[];
  readonly #plan: Plan;
  readonly #regions: Readonly<Record<'still' | 'moving', readonly (readonly Term[])[]>>;
  /** Where terms lie that are computed elsewhere. */
  readonly #places = new Map<Term, Place>();
  /** And those that tables have of a line of cells. */
  readonly #lines = new Map<Term, Place>();
  readonly #images = new Map<string, { readonly slot: ImageSlot; readonly header: number }>();
  readonly #numbers: { readonly at: number; readonly most: number };
  readonly #entries = new Map<Table, number>();
  /** The numbers of the cell that the last row lay in, and four lanes of how far down a lattice is filled. */
  readonly #last = new Map<Table, number>();
  readonly #down: number;
  readonly #plane: number;
  readonly #u: number;
  readonly #v: number;
  readonly #still: { readonly rowBytes: number; readonly rows: number };
  #end = 16 + POOL_BYTES;

  constructor(
    readonly roots: readonly Node[],
    { width, rows, frames }: GridSize,
    readonly passes: GridPasses,
  ) {
    const plan = new Plan(roots, { width, rows, frames }, passes);
    this.#plan = plan;
    this.#plane = inFours(width) * 4;
    for (const node of frameValues(roots)) this.#frame.set(node, this.#room(widthOf(node.type) * 16));
    this.#u = this.#room(this.#plane);
    this.#v = this.#room(16);
    const tables = [...plan.pieces.keys()];
    const most = Math.max(inFours(width), ...tables.flatMap(({ counts }) => counts.map(inFours)));
    this.#numbers = { at: this.#room(most * 4), most };
    this.#down = this.#room(16);
    for (const table of tables) {
      this.#entries.set(table, this.#room(tableBytes(table)));
      if (!table.lines) continue;
      this.#last.set(table, this.#room(16 * table.lines.indices.length));
      const bytes = inFours(table.counts[0]) * 4;
      for (const term of table.lines.values) this.#lines.set(term, { at: this.#room(bytes), kind: 'plane' });
    }
    for (const term of plan.kept) {
      if (term.rate === RATES.column) this.#give(term, 'plane', this.#plane);
      else this.#give(term, 'lanes', 16);
    }
    this.#outputs = plan.results.map((result) => result.map(() => this.#room(this.#plane)));
    this.#woven = this.#outputs.map((planes) => ({
      planes,
      at: planes.length === 1 ? planes[0]! : this.#room(this.#plane * planes.length),
    }));
    for (const slot of plan.images) this.#images.set(slot.name, { slot, header: this.#room(HEADER_BYTES) });
    const cut = (order: readonly Term[]): Term[][] =>
      regionsOf(order, plan.reading, passes.region === 0 ? Infinity : passes.region);
    this.#regions = { still: cut(plan.stillOrder), moving: cut(plan.order) };
    for (const regions of Object.values(this.#regions)) this.#giveCrossing(regions);
    const rowBytes = plan.stills.size * this.#plane;
    this.#still = { rowBytes, rows: rowBytes === 0 ? 0 : 1 + Math.min(rows, Math.floor(KEPT_BYTES / rowBytes)) };
    [...plan.stills].forEach((term, i) => this.#places.set(term, { at: this.#end + i * this.#plane, kind: 'still' }));
    this.#room(rowBytes * this.#still.rows);
  }

  #room(bytes: number): number {
    const at = this.#end;
    this.#end += bytes;
    return at;
  }

  #give(term: Term, kind: Place['kind'], bytes: number): void {
    this.#places.set(term, { at: this.#room(bytes), kind });
  }

  /** Planes for what goes from one region to another. */
  #giveCrossing(regions: readonly (readonly Term[])[]): void {
    const regionOf = new Map(regions.flatMap((region, i) => region.map((term) => [term, i] as const)));
    regions.forEach((region, i) => {
      for (const arg of region.flatMap((term) => this.#plan.reading.argsOf(term))) {
        const own = regionOf.get(arg);
        if (own !== undefined && own !== i && !this.#places.has(arg)) this.#give(arg, 'plane', this.#plane);
      }
    });
  }

  compile(): GridModule {
    for (const { slot, header } of this.#images.values()) {
      this.#readers.set(slot.name, this.#functions.length);
      this.#functions.push(gatherFunction(slot, header));
    }
    const { tables, lattices, stillLattices, stillTables } = this.#plan;
    const frame = this.#frameCode(lattices);
    const dials = this.#calls(stillLattices.map((table) => this.#lattice(table)));
    const columns = this.#add(this.#columns());
    const row = this.#calls([this.#add(this.#once(RATES.row)), ...tables.map((table) => this.#rowTable(table))]);
    const still = this.#pixels('still', stillTables);
    const pixels = this.#pixels('moving', []);
    const woven = this.#add(weave(this.#woven));
    return {
      bytes: encodeModule(this.#functions, { frame, dials, columns, row, still, pixels, weave: woven }),
      layout: {
        frame: this.#frame,
        numbers: this.#numbers,
        u: this.#u,
        v: this.#v,
        outputs: this.#outputs,
        woven: this.#woven,
        images: [...this.#images.values()],
        constants: this.#pool.entries(),
        still: this.#still,
        end: this.#end,
      },
    };
  }

  #add(code: Code): number {
    this.#functions.push(code);
    return this.#functions.length - 1;
  }

  /** A function that calls others, one after the other. */
  #calls(functions: readonly number[]): number {
    const code = new Code([], []);
    for (const one of functions) code.call(one);
    return this.#add(code);
  }

  #code(parameters: readonly ValType[] = [I32]): Code {
    return new Code(parameters, [], this.#pool);
  }

  /** What is computed once a frame or a row, four equal lanes each. */
  #once(rate: Rate): Code {
    const goals = [...this.#plan.kept];
    const writing = this.#writing(this.#code([]), undefined);
    writing.all(termsAt(goals, rate));
    for (const term of goals) if (term.rate === rate) writing.store(term, this.#places.get(term)!.at);
    return writing.code;
  }

  #frameCode(lattices: readonly Table[]): number {
    const once = this.#once(RATES.frame);
    // No number of a cell has these bits: the next row is a new one.
    for (const [table, at] of this.#last)
      table.lines!.indices.forEach((_, i) =>
        once
          .i32(at + i * 16)
          .integer(-1)
          .memory('v128.store', 0),
      );
    return this.#calls([this.#add(once), ...lattices.map((table) => this.#lattice(table))]);
  }

  /** What is computed once a column, into planes. */
  #columns(): Code {
    const goals = [...this.#plan.kept].filter((term) => term.rate === RATES.column);
    if (goals.length === 0) return this.#code();
    const order = termsAt(goals, RATES.column);
    return this.#loop(order, (writing) => {
      writing.all(order);
      for (const term of goals) writing.store(term, this.#places.get(term)!.at);
    });
  }

  /** Fills a table for a row: what stays the same while rows lie in one cell, only where that changes. */
  #rowTable(table: Table): number {
    const { indices, counts, values, lines } = table;
    const bytes = inFours(counts[0]) * 4;
    const piece = this.#plan.pieces.get(table)!;
    const fill = this.#add(
      this.#loop(piece.fill, (writing) => {
        writing.isNumbered(indices[0], this.#numbers.at);
        writing.all(piece.fill);
        writing.storeEntries(values, this.#entries.get(table)!);
      }),
    );
    const code = this.#code([]);
    if (!lines) return this.#add(code.i32(bytes).call(fill));
    const line = this.#add(
      this.#loop(piece.lines, (writing) => {
        writing.isNumbered(indices[0], this.#numbers.at);
        writing.all(piece.lines);
        for (const term of lines.values) writing.store(term, this.#lines.get(term)!.at);
      }),
    );
    const last = this.#last.get(table)!;
    lines.indices.forEach((index, i) => {
      code.i32(this.#places.get(index)!.at).memory('v128.load', 0);
      code
        .i32(last + i * 16)
        .memory('v128.load', 0)
        .simd('v128.xor');
      if (i > 0) code.simd('v128.or');
    });
    if (lines.indices.length === 0) code.integer(-1);
    code.simd('v128.any_true').when();
    lines.indices.forEach((index, i) => {
      code
        .i32(last + i * 16)
        .i32(this.#places.get(index)!.at)
        .memory('v128.load', 0)
        .memory('v128.store', 0);
    });
    code.i32(bytes).call(line);
    const isWhole = values.every((term) => lines.values.includes(term));
    if (isWhole) code.i32(bytes).call(fill);
    code.plain('end');
    return this.#add(isWhole ? code : code.i32(bytes).call(fill));
  }

  /** Fills a lattice's table, row by row. */
  #lattice(table: Table): number {
    const { indices, counts, values } = table;
    const { fill } = this.#plan.pieces.get(table)!;
    const [i, j] = indices as readonly [Term, Term];
    const across = inFours(counts[0]);
    // The second parameter is how far down, in bytes of a row of numbers.
    const row = this.#add(
      this.#loop(
        fill,
        (writing) => {
          writing.isNumbered(i, this.#numbers.at);
          writing.isAt(j, this.#down);
          writing.all(fill);
          writing.storeEntries(values, this.#entries.get(table)!, across);
        },
        [I32, I32],
      ),
    );
    const code = this.#code([]);
    const down = code.local(I32);
    code.loop();
    code.i32(this.#down).get(down).memory('v128.load32_splat', this.#numbers.at).memory('v128.store', 0);
    code
      .i32(across * 4)
      .get(down)
      .call(row);
    code.get(down).i32(4).plain('i32.add').set(down);
    code
      .get(down)
      .i32(counts[1] * 4)
      .plain('i32.lt_u')
      .branchIf(0)
      .plain('end');
    return this.#add(code);
  }

  /** What is computed for each pixel of a row, or what of it is kept. */
  #pixels(which: 'still' | 'moving', tables: readonly Table[]): number {
    const fills = tables.map((table) => this.#rowTable(table));
    const regions = this.#regions[which].map((region) => this.#add(this.#region(region, which === 'moving')));
    if (which === 'moving') regions.push(this.#add(this.#rest()));
    const code = this.#code([I32, I32]);
    for (const one of fills) code.call(one);
    for (const region of regions) code.get(0).get(1).call(region);
    return this.#add(code);
  }

  #region(region: readonly Term[], isMoving: boolean): Code {
    const own = new Set(region);
    return this.#pixelLoop(region, (writing) => {
      writing.all(region);
      for (const term of region) {
        const place = this.#places.get(term);
        if (place) writing.store(term, place.at, place.kind);
      }
      if (!isMoving) return;
      this.#plan.results.forEach((result, r) => {
        result.forEach((term, c) => {
          if (own.has(term)) writing.output(term, this.#outputs[r]![c]!);
        });
      });
    });
  }

  /** Results that are not computed pixel by pixel in this frame are spread over their planes. */
  #rest(): Code {
    const own = new Set(this.#plan.order);
    const goals = this.#plan.results.flatMap((result, r) =>
      result.flatMap((term, c) => (own.has(term) ? [] : [{ term, at: this.#outputs[r]![c]! }])),
    );
    if (goals.length === 0) return this.#code([I32, I32]);
    return this.#pixelLoop([], (writing) => {
      for (const { term, at } of goals) writing.output(term, at);
    });
  }

  #pixelLoop(order: readonly Term[], write: (writing: Writing) => void): Code {
    return this.#loop(order, write, [I32, I32], true);
  }

  /** A loop over planes of as many bytes as the first parameter says. */
  #loop(
    order: readonly Term[],
    write: (writing: Writing) => void,
    parameters: readonly ValType[] = [I32],
    isOfPixels = false,
  ): Code {
    const code = this.#code(parameters);
    const offset = code.local(I32);
    const kept = isOfPixels && this.#plan.stills.size > 0 ? code.local(I32) : undefined;
    const writing = this.#writing(code, offset, kept, isOfPixels);
    writing.holdStill(order);
    code.loop();
    if (kept !== undefined) code.get(offset).get(1).plain('i32.add').set(kept);
    write(writing);
    return code.nextFour(offset, 0);
  }

  /** Only pixels look up: what fills tables has their values as they are. */
  #writing(code: Code, offset: number | undefined, kept?: number, looksUp = false): Writing {
    return new Writing(code, offset, kept, {
      reader: (slot) => this.#readers.get(slot.name)!,
      lookupOf: (term) => {
        const found = looksUp ? this.#plan.lookups.get(term) : undefined;
        if (!found) return undefined;
        const { table, place } = found;
        const group = place >> 2;
        const terms = table.values.slice(group * 4, group * 4 + 4);
        return { table, terms, at: this.#entries.get(table)! + group * 16 };
      },
      placeOf: (term) => {
        if (term.op === 'input')
          return term.payload === 0 ? { at: this.#u, kind: 'plane' } : { at: this.#v, kind: 'lanes' };
        if (term.op === 'size') return sizePlace(term, this.#images.get(term.slot!.name)!.header);
        if (term.op === 'frame') return { at: this.#frame.get(term.node!)! + term.payload * 16, kind: 'lanes' };
        return (looksUp ? undefined : this.#lines.get(term)) ?? this.#places.get(term);
      },
    });
  }
}
