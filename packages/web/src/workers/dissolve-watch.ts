import {
  compile,
  dissolveCurves,
  dissolveNodes,
  dissolvesOf,
  dissolveShares,
  WasmEvaluator,
  type Dissolve,
  type DissolveCurves,
  type SettingValues,
} from '@estela/core';
import { imagesOf, type PictureRef } from './decoded.ts';

/** A dissolve at one moment. */
export interface DissolveView {
  readonly curves: DissolveCurves;
  /** How often each of 64 mask values occurs over the UV square, as shares of the most frequent. */
  readonly histogram: readonly number[];
  readonly shares: { readonly hidden: number; readonly burning: number; readonly shown: number };
  readonly settings: { readonly progress: number; readonly edge: number; readonly core: number };
  /** A setting differs from pixel to pixel; what stands there is its mean. */
  readonly varies: boolean;
  /** The mask's value at the place that was asked for. */
  readonly marked: number | undefined;
}

interface Open {
  readonly evaluator: WasmEvaluator;
  readonly dissolve: Dissolve;
  readonly values: SettingValues;
}

/** Samples along each side of the UV square. */
const SIDE = 96;
const BINS = 64;
const SETTINGS = ['progress', 'edge', 'core'] as const;

/** Watches one dissolve of a material: compiled once a text, asked at any moment. */
export class DissolveWatch {
  #key = '';
  #open: Open | undefined;

  async look(
    text: string,
    index: number,
    time: number,
    pictures: ReadonlyMap<string, PictureRef>,
    at?: readonly [number, number],
  ): Promise<DissolveView | undefined> {
    const key = `${String(index)} ${[...pictures].map(([name, p]) => `${name}=${p.hash}`).join(' ')}\n${text}`;
    if (key !== this.#key) {
      this.#open = await this.#compile(text, index, pictures);
      this.#key = key;
    }
    if (!this.#open) return undefined;
    const { evaluator, dissolve, values } = this.#open;
    evaluator.setFrame({ time, dials: values.dials });
    const [mask, ...rest] = evaluator.picture(SIDE, SIDE);
    const counts = new Array<number>(BINS).fill(0);
    for (const value of mask!) counts[Math.min(Math.floor(Math.min(Math.max(value, 0), 1) * BINS), BINS - 1)]!++;
    const mean = (plane: Float32Array): number => plane.reduce((sum, v) => sum + v, 0) / plane.length;
    const [progress = 0, edge = 0, core = 0] = rest.map(mean);
    const settings = { progress: Math.min(Math.max(progress, 0), 1), edge: Math.max(edge, 0), core };
    const most = Math.max(...counts, 1);
    let marked: number | undefined;
    if (at) {
      const out = rest.map(() => new Float32Array(1));
      const value = new Float32Array(1);
      evaluator.block({ uv: Float32Array.from(at) }, 1, [value, ...out]);
      marked = Math.min(Math.max(value[0]!, 0), 1);
    }
    return {
      curves: dissolveCurves(dissolve.ramp, settings, 65),
      histogram: counts.map((c) => c / most),
      shares: dissolveShares(counts, settings),
      settings,
      varies: rest.some((plane) => plane.some((v) => Math.abs(v - plane[0]!) > 1e-4)),
      marked,
    };
  }

  async #compile(text: string, index: number, pictures: ReadonlyMap<string, PictureRef>): Promise<Open | undefined> {
    const { program, graph, values } = compile(text);
    const dissolve = dissolvesOf(program)[index];
    if (!dissolve) return undefined;
    const nodes = dissolveNodes(graph, dissolve);
    if (!nodes.mask) return undefined;
    const images = await imagesOf(program, pictures);
    const roots = [nodes.mask, ...SETTINGS.map((name) => nodes[name] ?? graph.builder.number(0))];
    return { evaluator: new WasmEvaluator(roots, (slot) => images.get(slot.source)), dissolve, values };
  }
}
