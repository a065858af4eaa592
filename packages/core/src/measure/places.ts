import { Reference } from '../backends/reference/evaluate.ts';
import { within } from '../check/walk.ts';
import type { FrameInputs } from '../ir/evaluate.ts';
import type { Graph } from '../lower/lower.ts';

type Uv = readonly [number, number];

/** Where coordinates that flow into a call lie on the UV square. */
export interface FlowPlaces {
  /** The coordinate that flows in at a place of the square. */
  readonly coordinateAt: (uv: Uv) => Uv;
  /** A place where this coordinate flows in, nearest to `near` of those tried; undefined where none was found. */
  readonly placeOf: (coordinate: Uv, near?: Uv) => Uv | undefined;
}

/** The same place is reached in so many steps of Newton's method, or not at all. */
const STEPS = 24;
const DELTA = 1e-3;

/**
 * The coordinates that flow into the `nth` call of an operation in a step, at one moment; undefined where none do.
 * Images upstream are taken for the test grid.
 */
export function flowPlaces(
  graph: Graph,
  step: number,
  operation: string,
  nth: number,
  frame: FrameInputs,
): FlowPlaces | undefined {
  // The graph may be that of an older text which means the same: places in the text would not do.
  const { value } = graph.program.steps[step] ?? {};
  const calls = value
    ? [...within(value)].filter((t) => t.kind === 'call' && t.operation.name === operation).sort((a, b) => a.to - b.to)
    : [];
  const typed = calls[nth];
  if (typed?.kind === 'call') {
    const [first] = typed.operation.parameters;
    const node = first && graph.argumentsOf.get(typed)?.get(first.name);
    if (node?.type !== 'f2') return undefined;
    const reference = new Reference([node]);
    reference.setFrame(frame);
    const coordinateAt = (uv: Uv): Uv => {
      const [x = 0, y = 0] = reference.pixel({ uv })[0] ?? [];
      return [x, y];
    };
    const placeOf = (target: Uv, near: Uv = [0.5, 0.5]): Uv | undefined => {
      for (const start of [near, [0.5, 0.5], [0.25, 0.25], [0.75, 0.75], [0, 0]] as const) {
        let at: Uv = start;
        for (let i = 0; i < STEPS; i++) {
          const here = coordinateAt(at);
          const [dx, dy] = [target[0] - here[0], target[1] - here[1]];
          if (Math.hypot(dx, dy) < 1e-4) return at;
          const right = coordinateAt([at[0] + DELTA, at[1]]);
          const down = coordinateAt([at[0], at[1] + DELTA]);
          const [a, b, c, d] = [
            (right[0] - here[0]) / DELTA,
            (down[0] - here[0]) / DELTA,
            (right[1] - here[1]) / DELTA,
            (down[1] - here[1]) / DELTA,
          ];
          const determinant = a * d - b * c;
          if (Math.abs(determinant) < 1e-9) break;
          at = [at[0] + (d * dx - b * dy) / determinant, at[1] + (a * dy - c * dx) / determinant];
          if (!Number.isFinite(at[0]) || Math.hypot(at[0] - 0.5, at[1] - 0.5) > 64) break;
        }
      }
      return undefined;
    };
    return { coordinateAt, placeOf };
  }
  return undefined;
}
