import { isSoftware } from './software.ts';

/** What EXT_disjoint_timer_query_webgl2 gives: the standard types do not know it. */
interface TimerQueries {
  readonly TIME_ELAPSED_EXT: number;
  readonly GPU_DISJOINT_EXT: number;
}

/** How long a graphics card takes to draw something. Drawing goes on beside: what it took is known some frames later. */
export class CardTimer {
  #query: WebGLQuery | undefined;

  /** Undefined where the browser does not tell, and where the processor draws. */
  static of(gl: WebGL2RenderingContext): CardTimer | undefined {
    const queries = isSoftware(gl) ? null : (gl.getExtension('EXT_disjoint_timer_query_webgl2') as TimerQueries | null);
    return queries ? new CardTimer(gl, queries) : undefined;
  }

  private constructor(
    readonly gl: WebGL2RenderingContext,
    readonly queries: TimerQueries,
  ) {}

  get isRunning(): boolean {
    return this.#query !== undefined;
  }

  /** Draws, and begins to wait for what it takes. */
  begin(draw: () => void): void {
    const { gl, queries } = this;
    const query = gl.createQuery();
    gl.beginQuery(queries.TIME_ELAPSED_EXT, query);
    draw();
    gl.endQuery(queries.TIME_ELAPSED_EXT);
    this.#query = query;
  }

  /** Milliseconds; undefined while they are not known, NaN where something else came between. */
  get took(): number | undefined {
    const { gl, queries } = this;
    if (!this.#query || !gl.getQueryParameter(this.#query, gl.QUERY_RESULT_AVAILABLE)) return undefined;
    const nanoseconds = Number(gl.getQueryParameter(this.#query, gl.QUERY_RESULT));
    gl.deleteQuery(this.#query);
    this.#query = undefined;
    return gl.getParameter(queries.GPU_DISJOINT_EXT) ? NaN : nanoseconds / 1e6;
  }
}
