import { frameValues } from '../../../ir/hoist.ts';
import { widthOf, type ImageSlot, type Node } from '../../../ir/node.ts';
import { Code, ConstantPool, encodeModule, I32, POOL_BYTES } from '../encode.ts';
import { HEADER_BYTES, readFunction } from '../read.ts';
import { isLeaf, placementOf, postorder, type Placement } from './places.ts';
import { regionsOf } from './regions.ts';
import { cellTerms, groupsOf, tablesOf, type Table, type Tables } from './tables.ts';
import { RATES, Terms, type Rate, type Term } from './terms.ts';
import { Writing } from './writing.ts';

/** Which passes are used: all of them, but in tests that compare without. */
export interface GridPasses {
  /** What hangs on a row or a column alone is computed once for it. */
  readonly rates?: boolean;
  /** What hangs on the cell of a lattice and the row is looked up. */
  readonly tables?: boolean;
  /** Instructions of a region at most; 0 puts all into one. */
  readonly region?: number;
}

/** Where everything lies in the module's memory, in bytes. A plane holds one component of a row's pixels. */
export interface GridLayout {
  readonly frame: ReadonlyMap<Node, number>;
  /** 0, 1, 2 and so on: numbers of cells. */
  readonly numbers: number;
  /** The plane of u, and four lanes of v. */
  readonly u: number;
  readonly v: number;
  /** By root and component. */
  readonly outputs: readonly (readonly number[])[];
  readonly images: readonly { readonly slot: ImageSlot; readonly header: number }[];
  readonly constants: readonly { readonly bits: number; readonly address: number }[];
  readonly end: number;
}

export interface GridModule {
  /** Exports `frame()`, `columns(bytes)`, `row()` and `pixels(bytes)`, to be called in that order. */
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly layout: GridLayout;
}

/**
 * Compiles graphs for rows of `width` pixels. Throws TooManyTerms where they would take too much code.
 */
export function compileGrid(roots: readonly Node[], width: number, passes: GridPasses = {}): GridModule {
  return new GridCompiler(roots, width, passes).compile();
}

class GridCompiler {
  readonly #pool = new ConstantPool();
  readonly #functions: Code[] = [];
  readonly #readers = new Map<string, number>();
  readonly #frame = new Map<Node, number>();
  readonly #outputs: number[][];
  readonly #results: readonly (readonly Term[])[];
  readonly #placement: Placement;
  /** Where kept terms lie: planes of columns, four lanes of the rest. */
  readonly #kept = new Map<Term, number>();
  /** Planes of values that go from one region to another. */
  readonly #crossing = new Map<Term, number>();
  readonly #regions: readonly (readonly Term[])[];
  readonly #images = new Map<string, { readonly slot: ImageSlot; readonly header: number }>();
  readonly #plane: number;
  readonly #u: number;
  readonly #v: number;
  readonly #numbers: number;
  readonly #tables: Tables;
  /** Where a table's entries begin, and the plane of where each pixel's entry does. */
  readonly #tablePlaces = new Map<Table, { readonly entries: number; readonly offsets: number }>();
  /** The table that a value is looked up in, and its place among its values. */
  readonly #lookedUp = new Map<Term, { readonly table: Table; readonly place: number }>();
  #end = 16 + POOL_BYTES;

  constructor(
    readonly roots: readonly Node[],
    width: number,
    readonly passes: GridPasses,
  ) {
    this.#plane = Math.ceil(width / 4) * 16;
    const terms = new Terms();
    this.#results = roots.map((root) => terms.of(root));
    const rateOf = (term: Term): Rate => this.#rate(term);
    this.#placement = placementOf(this.#results.flat(), rateOf);
    this.#tables =
      passes.tables === false || passes.rates === false
        ? { all: [], inside: new Set() }
        : tablesOf(this.#placement, this.#results.flat(), rateOf, width);
    for (const node of frameValues(roots)) this.#frame.set(node, this.#room(widthOf(node.type) * 16));
    this.#u = this.#room(this.#plane);
    this.#v = this.#room(16);
    this.#numbers = this.#room(this.#plane);
    for (const table of this.#tables.all) {
      const entries = Math.ceil(table.count / 4) * 4 * groupsOf(table) * 16;
      this.#tablePlaces.set(table, { entries: this.#room(entries), offsets: this.#room(this.#plane) });
      table.values.forEach((term, place) => this.#lookedUp.set(term, { table, place }));
    }
    for (const term of this.#placement.kept)
      this.#kept.set(term, this.#room(this.#rate(term) === RATES.column ? this.#plane : 16));
    this.#outputs = this.#results.map((result) => result.map(() => this.#room(this.#plane)));
    for (const { slot } of this.#placement.order)
      if (slot && !this.#images.has(slot.name)) this.#images.set(slot.name, { slot, header: this.#room(HEADER_BYTES) });
    const order = lanesBeside(
      this.#placement.order.filter((t) => !isLeaf(t) && this.#rate(t) === RATES.pixel && !this.#tables.inside.has(t)),
    );
    this.#regions = regionsOf(order, passes.region === 0 ? Infinity : passes.region);
    const regionOf = new Map(this.#regions.flatMap((region, i) => region.map((term) => [term, i] as const)));
    for (const term of order)
      for (const arg of term.args)
        if (regionOf.has(arg) && regionOf.get(arg) !== regionOf.get(term) && !this.#crossing.has(arg))
          this.#crossing.set(arg, this.#room(this.#plane));
  }

  #room(bytes: number): number {
    const at = this.#end;
    this.#end += bytes;
    return at;
  }

  #rate({ rate }: Term): Rate {
    return this.passes.rates === false && rate !== RATES.frame ? RATES.pixel : rate;
  }

  compile(): GridModule {
    for (const { slot, header } of this.#images.values()) {
      this.#readers.set(slot.name, this.#functions.length);
      this.#functions.push(readFunction(slot, header));
    }
    const keptAt = (rate: Rate): Term[] => [...this.#kept.keys()].filter((term) => this.#rate(term) === rate);
    const frame = this.#add(this.#once(RATES.frame, keptAt(RATES.frame)));
    const columns = this.#add(this.#columns(keptAt(RATES.column)));
    const rowOnce = this.#add(this.#once(RATES.row, keptAt(RATES.row)));
    const tables = this.#tables.all.map((table) => [table, this.#add(this.#table(table))] as const);
    const rowStart = new Code([], []);
    rowStart.call(rowOnce);
    for (const [{ count }, fill] of tables) rowStart.i32(Math.ceil(count / 4) * 16).call(fill);
    const row = this.#add(rowStart);
    const regions = this.#regions.map((region) => this.#add(this.#region(region)));
    const rest = this.#add(this.#rest());
    const pixels = new Code([I32], []);
    for (const region of [...regions, rest]) pixels.get(0).call(region);
    return {
      bytes: encodeModule(this.#functions.concat(pixels), { frame, columns, row, pixels: this.#functions.length }),
      layout: {
        frame: this.#frame,
        numbers: this.#numbers,
        u: this.#u,
        v: this.#v,
        outputs: this.#outputs,
        images: [...this.#images.values()],
        constants: this.#pool.entries(),
        end: this.#end,
      },
    };
  }

  #add(code: Code): number {
    this.#functions.push(code);
    return this.#functions.length - 1;
  }

  /** What is computed once a frame or a row, four equal lanes each. */
  #once(rate: Rate, goals: readonly Term[]): Code {
    const writing = this.#writing(new Code([], [], this.#pool), undefined);
    writing.all(this.#below(goals, rate));
    for (const term of goals) writing.store(term, this.#kept.get(term)!);
    return writing.code;
  }

  /** What is computed once a column, into planes. */
  #columns(goals: readonly Term[]): Code {
    const code = new Code([I32], [], this.#pool);
    const indices = [...this.#tablePlaces.keys()].map((table) => table.index);
    if (goals.length + indices.length === 0) return code;
    const order = this.#below([...goals, ...indices], RATES.column);
    return this.#loop(code, order, (writing) => {
      writing.all(order);
      for (const term of goals) writing.store(term, this.#kept.get(term)!);
      for (const [table, { offsets }] of this.#tablePlaces)
        writing.storeOffsets(table.index, groupsOf(table) * 16, offsets);
    });
  }

  /** Fills a table for a row, four cells at a time. */
  #table(table: Table): Code {
    const order = cellTerms(table, (term) => this.#rate(term));
    const { entries } = this.#tablePlaces.get(table)!;
    return this.#loop(new Code([I32], [], this.#pool), order, (writing) => {
      writing.isNumbered(table.index, this.#numbers);
      writing.all(order);
      writing.storeEntries(table.values, entries);
    });
  }

  /** Terms of a rate below some. */
  #below(goals: readonly Term[], rate: Rate): Term[] {
    return lanesBeside(postorder(goals, (term) => isLeaf(term) || this.#rate(term) !== rate));
  }

  #region(region: readonly Term[]): Code {
    return this.#loop(new Code([I32], [], this.#pool), region, (writing) => {
      const own = new Set(region);
      writing.all(region);
      for (const term of region) {
        const plane = this.#crossing.get(term);
        if (plane !== undefined) writing.store(term, plane);
      }
      this.#results.forEach((result, r) => {
        result.forEach((term, c) => {
          if (own.has(term)) writing.output(term, this.#outputs[r]![c]!);
        });
      });
    });
  }

  /** Results that are not computed pixel by pixel, or looked up, are spread over their planes. */
  #rest(): Code {
    const isRest = (term: Term): boolean =>
      isLeaf(term) || this.#rate(term) !== RATES.pixel || this.#tables.inside.has(term);
    const goals = this.#results.flatMap((result, r) =>
      result.flatMap((term, c) => (isRest(term) ? [{ term, at: this.#outputs[r]![c]! }] : [])),
    );
    const code = new Code([I32], [], this.#pool);
    if (goals.length === 0) return code;
    return this.#loop(code, [], (writing) => {
      for (const { term, at } of goals) writing.output(term, at);
    });
  }

  #loop(code: Code, order: readonly Term[], write: (writing: Writing) => void): Code {
    const offset = code.local(I32);
    const writing = this.#writing(code, offset);
    writing.holdStill(order);
    code.loop();
    write(writing);
    return code.nextFour(offset, 0);
  }

  #writing(code: Code, offset: number | undefined): Writing {
    return new Writing(code, offset, {
      reader: (slot) => this.#readers.get(slot.name)!,
      tableOf: (term) => {
        const found = this.#lookedUp.get(term);
        if (!found) return undefined;
        const { table, place } = found;
        const group = Math.floor(place / 4);
        const { entries, offsets } = this.#tablePlaces.get(table)!;
        const terms = table.values.slice(group * 4, group * 4 + 4);
        return { table, terms, at: entries + group * 16, offsets };
      },
      placeOf: (term) => {
        if (term.op === 'frame') return { at: this.#frame.get(term.node!)! + term.payload * 16, isPlane: false };
        if (term.op === 'input')
          return term.payload === 0 ? { at: this.#u, isPlane: true } : { at: this.#v, isPlane: false };
        const kept = this.#kept.get(term);
        if (kept !== undefined) return { at: kept, isPlane: this.#rate(term) === RATES.column };
        const crossing = this.#crossing.get(term);
        return crossing === undefined ? undefined : { at: crossing, isPlane: true };
      },
    });
  }
}

/** The lanes of an image that is read come right after it. */
function lanesBeside(order: readonly Term[]): Term[] {
  const lanes = new Map<Term, Term[]>();
  for (const term of order)
    if (term.op === 'lane') lanes.set(term.args[0]!, [...(lanes.get(term.args[0]!) ?? []), term]);
  return order.flatMap((term) => (term.op === 'lane' ? [] : [term, ...(lanes.get(term) ?? [])]));
}
