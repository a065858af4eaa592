import type { ImageSlot, Node } from '../../../ir/node.ts';
import { costOf, GROUP } from './costs.ts';
import { latticesOf, latticeTerms } from './lattices.ts';
import { isLeaf, keptOf, ofImage, postorder, together, type Piece } from './places.ts';
import type { Reading } from './regions.ts';
import { stillsOf } from './stills.ts';
import { cellTerms, tablesOf, type Table, type TableSize } from './tables.ts';
import { RATES, Terms, type Term } from './terms.ts';

/** Which passes are used: all of them, but in tests that compare without. */
export interface GridPasses {
  /** What hangs on a row or a column alone is computed once for it. */
  readonly rates?: boolean;
  /** What hangs on the cell of a lattice and the row is looked up. */
  readonly tables?: boolean;
  /** What of that stays the same over several rows is computed once for them. */
  readonly lines?: boolean;
  /** What hangs on a cell alone is computed once a frame, and looked up. */
  readonly lattices?: boolean;
  /** What does not move is kept from frame to frame. */
  readonly stills?: boolean;
  /** Instructions of a region at most; 0 puts all into one. */
  readonly region?: number;
}

export interface GridSize extends TableSize {
  /** Of which rows are computed with the same dials, about: with several, what does not move is kept. */
  readonly frames: number;
}

/** Where a value is looked up. */
export interface Lookup {
  readonly table: Table;
  /** Among the table's values. */
  readonly place: number;
}

/** What is computed when: the terms of some graphs, as the passes place them. */
export class Plan {
  /** By root and component. */
  readonly results: readonly (readonly Term[])[];
  /** Filled for each row. */
  readonly tables: readonly Table[];
  /** Filled for each frame; those of `stillLattices` when dials change. */
  readonly lattices: readonly Table[];
  readonly stillLattices: readonly Table[];
  readonly lookups = new Map<Term, Lookup>();
  /** Kept from frame to frame, and how they are made. */
  readonly stills: ReadonlySet<Term>;
  readonly stillOrder: readonly Term[];
  /** Tables that only those are made with. */
  readonly stillTables: readonly Table[];
  /** What is computed for each pixel of each frame, operands first. */
  readonly order: readonly Term[];
  /** What is computed more seldom, and asked for. */
  readonly kept: ReadonlySet<Term>;
  readonly images: readonly ImageSlot[];
  readonly reading: Reading = {
    argsOf: (term) => {
      const found = this.lookups.get(term);
      return found ? [found.table.address] : term.args;
    },
    keyOf: (term) => {
      const found = this.lookups.get(term);
      return found ? `${String(found.table.address.id)} ${String(found.place >> 2)}` : ofImage(term);
    },
    costOf: (term) => (this.lookups.has(term) ? GROUP : costOf(term)),
  };
  readonly pieces = new Map<Table, { readonly fill: readonly Term[]; readonly lines: readonly Term[] }>();

  /** Throws TooManyTerms. */
  constructor(roots: readonly Node[], size: GridSize, passes: GridPasses) {
    const terms = new Terms(passes.rates !== false);
    this.results = roots.map((root) => terms.of(root));
    const results = this.results.flat();
    const { argsOf, keyOf } = this.reading;
    const all = (): Term[] => postorder(results, undefined, argsOf);
    this.images = [...new Map(all().flatMap(({ slot }) => (slot ? [[slot.name, slot]] : []))).values()];
    const tables = passes.tables === false ? [] : tablesOf(all(), results, terms, size, passes.lines !== false);
    this.#lookUpIn(tables);
    const lattices = passes.lattices === false ? [] : latticesOf(all(), results, terms, size);
    this.#lookUpIn(lattices);
    const isLookedUp = (term: Term): boolean => this.lookups.has(term);
    this.stills =
      passes.stills === false || size.frames < 2
        ? new Set()
        : stillsOf(all(), results, argsOf, isLookedUp, size.frames);
    const isElsewhere = (term: Term): boolean => isLeaf(term) || term.rate !== RATES.pixel;
    const still = postorder([...this.stills], isElsewhere, argsOf);
    const moving = postorder(results, (term) => isElsewhere(term) || this.stills.has(term), argsOf);
    const tablesIn = (order: readonly Term[]): Set<Table> =>
      new Set(order.flatMap((term) => this.lookups.get(term)?.table ?? []));
    const inMoving = tablesIn(moving);
    this.tables = tables.filter((table) => inMoving.has(table));
    this.stillTables = tables.filter((table) => !inMoving.has(table));
    const isMoving = ({ values }: Table): boolean => values.some((term) => term.moves);
    this.lattices = lattices.filter(isMoving);
    this.stillLattices = lattices.filter((table) => !isMoving(table));
    this.stillOrder = together(still, keyOf);
    this.order = together(moving, keyOf);
    const pieces: Piece[] = [
      { order: this.stillOrder, argsOf },
      { order: this.order, argsOf, goals: results },
    ];
    for (const table of tables) {
      const [index] = table.indices;
      const { indices = [], values = [] } = table.lines ?? {};
      const fill = together(cellTerms(table.values, index, new Set(values)));
      const lines = together(cellTerms(values, index));
      this.pieces.set(table, { fill, lines });
      pieces.push({ order: fill, given: [index] }, { order: lines, goals: indices, given: [index] });
    }
    for (const table of lattices) {
      const fill = together(latticeTerms(table.values, table.indices));
      this.pieces.set(table, { fill, lines: [] });
      pieces.push({ order: fill, given: table.indices.flatMap((index) => index ?? []) });
    }
    this.kept = keptOf(pieces);
  }

  #lookUpIn(tables: readonly Table[]): void {
    for (const table of tables) table.values.forEach((term, place) => this.lookups.set(term, { table, place }));
  }
}
