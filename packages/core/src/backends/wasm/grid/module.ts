import { frameValues } from '../../../ir/hoist.ts';
import { widthOf, type ImageSlot, type Node } from '../../../ir/node.ts';
import { Code, ConstantPool, encodeModule, I32, POOL_BYTES, V128 } from '../encode.ts';
import { clearNotFinite, INSTRUCTIONS, writeConversion } from '../instructions.ts';
import { HEADER_BYTES, readFunction } from '../read.ts';
import { isLeaf, placementOf, postorder, type Placement } from './places.ts';
import { regionsOf } from './regions.ts';
import { cellTerms, groupsOf, tablesOf, type Table, type Tables } from './tables.ts';
import { RATES, Terms, type Rate, type Term } from './terms.ts';

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
        : tablesOf(this.#placement.order, rateOf, width);
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

  /** Results that are not computed pixel by pixel are spread over their planes. */
  #rest(): Code {
    const isRest = (term: Term): boolean => isLeaf(term) || this.#rate(term) !== RATES.pixel;
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

/** What writing one function asks of the module. */
interface Surroundings {
  readonly reader: (slot: ImageSlot) => number;
  /** The four values that a term is looked up with, where in an entry they lie, and the plane of where entries do. */
  readonly tableOf: (
    term: Term,
  ) =>
    | { readonly table: Table; readonly terms: readonly Term[]; readonly at: number; readonly offsets: number }
    | undefined;
  /** Where in memory a term lies that is computed elsewhere. */
  readonly placeOf: (term: Term) => { readonly at: number; readonly isPlane: boolean } | undefined;
}

/** Writes the instructions of some terms, four pixels at a time; each into a local of its own. */
class Writing {
  readonly #locals = new Map<Term, number>();
  readonly #texels = new Map<Term, readonly number[]>();
  /** Addresses of four pixels' entries of a table, less where the table begins. */
  readonly #entries = new Map<Table, readonly number[]>();

  constructor(
    readonly code: Code,
    /** The local that counts through planes; undefined outside of loops. */
    readonly offset: number | undefined,
    readonly around: Surroundings,
  ) {}

  /** Loads what does not change over the loop before it: constants, and what is the same over the frame or the row. */
  holdStill(order: readonly Term[]): void {
    const own = new Set(order);
    for (const term of order)
      for (const arg of term.args) {
        if (this.#locals.has(arg) || own.has(arg)) continue;
        const isConstant = arg.op === 'constant' && arg.payload !== 0;
        const place = arg.op === 'constant' ? undefined : this.around.placeOf(arg);
        if (!isConstant && (!place || place.isPlane)) continue;
        this.push(arg);
        this.#keep(arg);
      }
  }

  all(order: readonly Term[]): void {
    for (const term of order) this.#write(term);
  }

  /** Keeps what is on the stack as a term's value. */
  #keep(term: Term): void {
    const local = this.code.local(V128);
    this.code.set(local);
    this.#locals.set(term, local);
  }

  push(term: Term): void {
    const { code } = this;
    const local = this.#locals.get(term);
    if (local !== undefined) code.get(local);
    else if (term.op === 'constant') {
      if (term.type === 'f') code.float(term.payload);
      else code.integer(term.type === 'b' ? (term.payload === 0 ? 0 : -1) : term.payload);
    } else if (this.offset !== undefined && this.#isLookedUp(term)) code.get(this.#locals.get(term)!);
    else {
      const place = this.around.placeOf(term);
      if (!place) throw new Error(`no value of ${term.op}`);
      if (!place.isPlane) {
        code.i32(place.at).memory('v128.load', 0);
        return;
      }
      code.get(this.offset!).memory('v128.load', place.at);
      this.#keep(term);
      code.get(this.#locals.get(term)!);
    }
  }

  /** Looks a term up in its table, and the values that stand beside it; false where it has none. */
  #isLookedUp(term: Term): boolean {
    const found = this.around.tableOf(term);
    if (!found) return false;
    const { code, offset } = this;
    const { table, terms, at, offsets } = found;
    let entries = this.#entries.get(table);
    if (!entries) {
      entries = [0, 4, 8, 12].map((lane) => {
        const local = code.local(I32);
        code
          .get(offset!)
          .loadI32(offsets + lane)
          .set(local);
        return local;
      });
      this.#entries.set(table, entries);
    }
    const rows = entries.map((entry) => {
      const local = code.local(V128);
      code.get(entry).memory('v128.load', at).set(local);
      return local;
    });
    const values = this.#turned(rows);
    terms.forEach((value, i) => this.#locals.set(value, values[i]!));
    return true;
  }

  /** Four vectors as rows of a square, by columns. */
  #turned(rows: readonly number[]): number[] {
    const { code } = this;
    const mixed = (a: number, b: number, lanes: readonly number[]): number => {
      const local = code.local(V128);
      code.get(a).get(b).shuffle(lanes).set(local);
      return local;
    };
    const [a, b, c, d] = rows as readonly [number, number, number, number];
    const [low, low2] = [mixed(a, b, [0, 4, 1, 5]), mixed(c, d, [0, 4, 1, 5])];
    const [high, high2] = [mixed(a, b, [2, 6, 3, 7]), mixed(c, d, [2, 6, 3, 7])];
    return [
      mixed(low, low2, [0, 1, 4, 5]),
      mixed(low, low2, [2, 3, 6, 7]),
      mixed(high, high2, [0, 1, 4, 5]),
      mixed(high, high2, [2, 3, 6, 7]),
    ];
  }

  /** In the loop that fills a table, cells are counted. */
  isNumbered(index: Term, numbers: number): void {
    this.code.get(this.offset!).memory('v128.load', numbers);
    this.#keep(index);
  }

  /** Stores where the entry of each pixel's cell begins. */
  storeOffsets(index: Term, entryBytes: number, at: number): void {
    const { code } = this;
    code.get(this.offset!);
    this.push(index);
    writeConversion(code, 'f', 'i');
    code.integer(entryBytes).simd('i32x4.mul').memory('v128.store', at);
  }

  /** Stores four cells' entries. */
  storeEntries(values: readonly Term[], at: number): void {
    const { code } = this;
    const groups = Math.ceil(values.length / 4);
    for (let group = 0; group < groups; group++) {
      const four = [0, 1, 2, 3].map((i) => {
        const local = code.local(V128);
        this.push(values[group * 4 + i] ?? values.at(-1)!);
        code.set(local);
        return local;
      });
      this.#turned(four).forEach((row, cell) => {
        // The loop counts 16 bytes for four cells; their entries take as many vectors each as there are groups.
        code
          .get(this.offset!)
          .i32(4 * groups)
          .plain('i32.mul')
          .get(row);
        code.memory('v128.store', at + (cell * groups + group) * 16);
      });
    }
  }

  #write(term: Term): void {
    const { code } = this;
    const { op, args } = term;
    switch (op) {
      case 'constant':
      case 'frame':
      case 'input':
        return;
      case 'sample': {
        args.forEach((arg) => {
          this.push(arg);
        });
        code.call(this.around.reader(term.slot!));
        const texels = [0, 1, 2, 3].map(() => code.local(V128));
        for (const local of [...texels].reverse()) code.set(local);
        this.#texels.set(term, texels);
        return;
      }
      case 'lane':
        this.#locals.set(term, this.#texels.get(args[0]!)![term.payload]!);
        return;
      case 'convert':
        this.push(args[0]!);
        writeConversion(code, term.from!, term.type);
        break;
      case 'shl':
      case 'shr':
        this.push(args[0]!);
        code.i32(term.payload).simd(op === 'shl' ? 'i32x4.shl' : term.type === 'u' ? 'i32x4.shr_u' : 'i32x4.shr_s');
        break;
      default: {
        const how = INSTRUCTIONS[op];
        if (typeof how !== 'function') throw new Error(`${op} is written by others`);
        const scalar = op === 'lt' || op === 'le' || op === 'eq' ? args[0]!.type : term.type;
        how(
          code,
          {
            push: (i) => {
              this.push(args[i]!);
            },
            constant: (i) => (args[i]?.op === 'constant' ? args[i].payload : undefined),
          },
          scalar,
        );
      }
    }
    this.#keep(term);
  }

  /** Stores a term: in a plane within a loop, else in four lanes. */
  store(term: Term, at: number): void {
    if (this.offset === undefined) this.code.i32(at);
    else this.code.get(this.offset);
    this.push(term);
    this.code.memory('v128.store', this.offset === undefined ? 0 : at);
  }

  /** Stores a result as floats, what is not finite as 0. */
  output(term: Term, at: number): void {
    const { code } = this;
    code.get(this.offset!);
    this.push(term);
    if (term.type === 'f') clearNotFinite(code, code.local(V128));
    else writeConversion(code, term.type, 'f');
    code.memory('v128.store', at);
  }
}
