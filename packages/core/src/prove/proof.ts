import type { Dial, Program, Step } from '../check/program.ts';
import type { SettingValues } from '../check/values.ts';
import { compile } from '../compile.ts';
import { lower, type Graph } from '../lower/lower.ts';
import type { Node } from '../ir/node.ts';
import type { Shift } from '../measure/subject.ts';
import { fractionIn } from './exact.ts';
import { Shifts, type Setting } from './shifts.ts';

/** Most switches whose settings are all gone through. */
const SWITCH_LIMIT = 6;

/**
 * Every setting of the switches, that of `first` before the others; undefined where there are too many to go through.
 */
function switchSettings(
  { switches }: Program,
  first: ReadonlyMap<string, boolean>,
): ReadonlyMap<string, boolean>[] | undefined {
  if (switches.length > SWITCH_LIMIT) return undefined;
  return Array.from(
    { length: 2 ** switches.length },
    (_, bits) => new Map(switches.map((s, i) => [s.name, first.get(s.name) !== ((bits >> i) % 2 === 1)])),
  );
}

const NOTHING: Setting = new Map();

/** Which value of a graph is asked about: a step's by its index, or an output's by its channel. */
export type Asked = number | string;
const nodeOf = (graph: Graph, asked: Asked): Node | undefined =>
  typeof asked === 'number' ? graph.steps[asked] : graph.outputs.get(asked);

/** What is proven of one material in one setting: its base or a variant. Works out no more than it is asked. */
export class Proof {
  readonly values: SettingValues;
  readonly graph: Graph;
  readonly #others: (() => readonly Graph[]) | undefined;
  #graphs: readonly Graph[] | undefined;
  readonly #present = new Map<Shift, Shifts>();
  readonly #any = new Map<Shift, Shifts[]>();
  readonly #open = new Map<Shift, Shifts>();
  /** With switches left open. */
  #graph: Graph | undefined;

  constructor(
    readonly program: Program,
    readonly variant?: string,
    /** The program compiled for the variant, where that is done already. */
    compiled = compile(program, { variant }),
  ) {
    const { values, graph } = compiled;
    this.values = values;
    this.graph = graph;
    const settings = switchSettings(program, this.values.switches);
    this.#others =
      settings &&
      (() =>
        (this.#graphs ??= settings
          .slice(1)
          .map((switches) => compile(program, { values: { ...values, switches } }).graph)));
  }

  /** What the shift does to the values of the present setting. */
  shifts(shift: Shift): Shifts {
    let known = this.#present.get(shift);
    if (!known) this.#present.set(shift, (known = new Shifts(this.graph, shift, this.values.dials)));
    return known;
  }

  /** `always` for every setting of dials and switches, `present` for this one; undefined where neither is proven. */
  proven(asked: Asked, shift: Shift): 'always' | 'present' | undefined {
    const step = typeof asked === 'number' ? this.program.steps[asked] : undefined;
    if (!this.#returns(this.shifts(shift), asked, step)) return undefined;
    // Without dials and switches this setting is every setting.
    if (this.program.dials.length + this.program.switches.length === 0) return 'always';
    return this.#always(asked, shift, step) ? 'always' : 'present';
  }

  /**
   * How far a value moves under a shift in this setting, by its component that moves most; a pair, from the nearest
   * whole repeat. Undefined where that is not a known number: 0 of what returns.
   */
  distance(asked: Asked, shift: Shift): number | undefined {
    const node = nodeOf(this.graph, asked);
    if (!node || this.graph.builder.full) return undefined;
    const wraps = typeof asked === 'number' && this.program.steps[asked]?.type === 'vec2';
    let most: number | undefined;
    for (const change of this.shifts(shift).changeOf(node)) {
      const moved = change && fractionIn(change)?.valueOf();
      if (moved === undefined) continue;
      most = Math.max(most ?? 0, Math.abs(wraps ? moved - Math.round(moved) : moved));
    }
    return most;
  }

  /** Dials without whose value the outputs are not proven to return: alone of all dials they may not be turned. */
  binding(shift: Shift): readonly Dial[] {
    return this.program.dials.filter((dial) => {
      const others = new Map([...this.values.dials].filter(([name]) => name !== dial.name));
      const shifts = new Shifts(this.graph, shift, others);
      return [...this.graph.outputs.keys()].some((name) => !this.#returns(shifts, name, undefined));
    });
  }

  #always(asked: Asked, shift: Shift, step: Step | undefined): boolean {
    let all = this.#any.get(shift);
    if (!all) this.#any.set(shift, (all = [new Shifts(this.graph, shift, NOTHING)]));
    if (!this.#returns(all[0]!, asked, step)) return false;
    if (this.program.switches.length === 0 || this.#returns(this.#left(shift), asked, step)) return true;
    if (!this.#others) return false;
    // Other settings of the switches are gone through only where this one holds.
    if (all.length === 1) all.push(...this.#others().map((g) => new Shifts(g, shift, NOTHING)));
    return all.every((s) => this.#returns(s, asked, step));
  }

  /** What the shift does where dials and switches are all left open. */
  #left(shift: Shift): Shifts {
    let known = this.#open.get(shift);
    if (!known) {
      this.#graph ??= lower(this.program, 'open');
      this.#open.set(shift, (known = new Shifts(this.#graph, shift, NOTHING)));
    }
    return known;
  }

  /** A pair is a place in a picture that repeats: whole repeats lead back to it. */
  #returns(shifts: Shifts, asked: Asked, step: Step | undefined): boolean {
    const node = nodeOf(shifts.graph, asked);
    if (!node || shifts.returns(node)) return true;
    return (
      step?.type === 'vec2' && !shifts.graph.builder.full && shifts.changeOf(node).every((c) => c && shifts.isWhole(c))
    );
  }
}
