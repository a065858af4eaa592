import type { ImageSlot } from '../../../ir/node.ts';
import { I32, V128, type Code } from '../encode.ts';
import { transposed } from '../lanes.ts';
import { clearNotFinite, INSTRUCTIONS, writeConversion } from '../instructions.ts';
import { groupsOf, type Table } from './tables.ts';
import type { Term } from './terms.ts';

/** Where in memory a term lies: four equal lanes, a plane of a row, or of one of the rows that are kept. */
export interface Place {
  readonly at: number;
  readonly kind: 'lanes' | 'plane' | 'still';
}

/** Locals of four vectors. */
type Square = [number, number, number, number];

/** What writing one function asks of the module. */
export interface Surroundings {
  readonly reader: (slot: ImageSlot) => number;
  /** The four values that a term is looked up with, and where in an entry they lie. */
  readonly lookupOf: (
    term: Term,
  ) => { readonly table: Table; readonly terms: readonly Term[]; readonly at: number } | undefined;
  /** Of a term that is computed elsewhere. */
  readonly placeOf: (term: Term) => Place | undefined;
}

/** Writes the instructions of some terms, four pixels at a time; each into a local of its own. */
export class Writing {
  readonly #locals = new Map<Term, number>();
  readonly #texels = new Map<Term, readonly number[]>();
  /** Addresses of four pixels' entries of a table, less where the table begins. */
  readonly #entries = new Map<Table, readonly number[]>();

  constructor(
    readonly code: Code,
    /** The local that counts through planes; undefined outside of loops. */
    readonly offset: number | undefined,
    /** The one that counts through kept rows. */
    readonly kept: number | undefined,
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
        if (!isConstant && place?.kind !== 'lanes') continue;
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
    } else {
      const place = this.around.placeOf(term);
      if (!place) throw new Error(`no value of ${term.op}`);
      if (place.kind === 'lanes') {
        code.i32(place.at).memory('v128.load', 0);
        return;
      }
      code.get(this.#counter(place.kind)).memory('v128.load', place.at);
      this.#keep(term);
      code.get(this.#locals.get(term)!);
    }
  }

  #counter(kind: Place['kind']): number {
    return kind === 'still' ? this.kept! : this.offset!;
  }

  /** Looks a term up, and the values that stand beside it; false where it has no table. */
  #lookUp(term: Term): boolean {
    const found = this.around.lookupOf(term);
    if (!found) return false;
    const { code } = this;
    const { table, terms, at } = found;
    let entries = this.#entries.get(table);
    if (!entries) {
      entries = [0, 1, 2, 3].map((lane) => {
        const local = code.local(I32);
        this.push(table.address);
        code.lane(lane).set(local);
        return local;
      });
      this.#entries.set(table, entries);
    }
    const rows = entries.map((entry) => {
      const local = code.local(V128);
      code.get(entry).memory('v128.load', at).set(local);
      return local;
    });
    const values = transposed(code, rows as Square);
    terms.forEach((value, i) => this.#locals.set(value, values[i]!));
    return true;
  }

  /** In the loop that fills a table, cells are counted. */
  isNumbered(index: Term, numbers: number): void {
    this.code.get(this.offset!).memory('v128.load', numbers);
    this.#keep(index);
  }

  /** A term's value stands in a local already. */
  holds(term: Term, local: number): void {
    this.#locals.set(term, local);
  }

  /** And rows of cells lie at four equal lanes. */
  isAt(index: Term, at: number): void {
    this.code.i32(at).memory('v128.load', 0);
    this.#keep(index);
  }

  /** Stores four cells' entries; of `across` cells in each row of cells, where the second parameter counts those by four bytes. */
  storeEntries(values: readonly Term[], at: number, across?: number): void {
    const { code } = this;
    const groups = groupsOf(values);
    // The loop counts 16 bytes for four cells; their entries take as many vectors each as there are groups.
    const first = code.local(I32);
    code
      .get(this.offset!)
      .i32(4 * groups)
      .plain('i32.mul');
    if (across !== undefined)
      code
        .get(1)
        .i32(4 * groups * across)
        .plain('i32.mul')
        .plain('i32.add');
    code.set(first);
    for (let group = 0; group < groups; group++) {
      const four = [0, 1, 2, 3].map((i) => {
        const local = code.local(V128);
        this.push(values[group * 4 + i] ?? values.at(-1)!);
        code.set(local);
        return local;
      });
      transposed(code, four as Square).forEach((row, cell) => {
        code
          .get(first)
          .get(row)
          .memory('v128.store', at + (cell * groups + group) * 16);
      });
    }
  }

  #write(term: Term): void {
    if (this.#locals.has(term) || this.#lookUp(term)) return;
    const { code } = this;
    const { op, args } = term;
    switch (op) {
      case 'constant':
      case 'frame':
      case 'input':
      case 'size':
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
  store(term: Term, at: number, kind: Place['kind'] = 'plane'): void {
    if (this.offset === undefined) this.code.i32(at);
    else this.code.get(this.#counter(kind));
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
