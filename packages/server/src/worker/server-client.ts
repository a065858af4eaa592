import type { ChunkAnswer, ChunkPlace, WorkerHello, WorkerWelcome } from '@estela/contract';
import { digestOf } from '../bakes/workers/chunk-body.ts';

/** The server has answered that it will not. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    message: string,
    /** What kind of problem it is, as RFC 9457 tells it. */
    readonly kind = '',
  ) {
    super(message);
  }
}

/** Milliseconds in which a short request must be answered. */
const PATIENCE = 10_000;
/** Bytes a second of the slowest line that is put up with. */
const SLOWEST = 10_000;

/** What a worker asks of the server; each call throws a Refused where it says no, and any other error where it is not there. */
export class ServerClient {
  constructor(
    readonly server: string,
    readonly workerId: string,
    readonly token: string | undefined,
  ) {}

  async join(hello: WorkerHello): Promise<WorkerWelcome> {
    return this.#json(await this.#ask('PUT', `/workers/${this.workerId}`, { json: hello }));
  }

  async leave(): Promise<void> {
    await this.#ask('DELETE', `/workers/${this.workerId}`, { patience: 1000 });
  }

  /** Whether a chunk is still to be computed. */
  async begin(place: ChunkPlace, signal: AbortSignal): Promise<boolean> {
    const answer = await this.#ask('POST', this.#chunk(place), { signal });
    return (await this.#json<ChunkAnswer>(answer)).wanted;
  }

  async handIn(place: ChunkPlace, bytes: Buffer<ArrayBuffer>, signal: AbortSignal): Promise<void> {
    const patience = PATIENCE * 6 + Math.ceil((bytes.length / SLOWEST) * 1000);
    await this.#ask('PUT', this.#chunk(place), { bytes, signal, patience });
  }

  async fail(place: ChunkPlace, problem: string, signal: AbortSignal): Promise<void> {
    await this.#ask('POST', `${this.#chunk(place)}/failure`, { json: { problem: problem.slice(0, 2000) }, signal });
  }

  async blob(hash: string, signal: AbortSignal): Promise<Buffer> {
    const answer = await this.#ask('GET', `/blobs/${hash}`, { signal, patience: 30 * 60_000 }).catch(
      (error: unknown) => {
        throw error instanceof Refused && error.status === 404 ? new Error('An image of it no longer exists.') : error;
      },
    );
    return Buffer.from(await answer.arrayBuffer());
  }

  #chunk = ({ bakeId, first }: ChunkPlace): string =>
    `/workers/${this.workerId}/bakes/${bakeId}/chunks/${String(first)}`;

  #json = async <T>(answer: Response): Promise<T> => (await answer.json()) as T;

  async #ask(
    method: string,
    path: string,
    {
      json,
      bytes,
      signal,
      patience = PATIENCE,
    }: {
      readonly json?: object;
      readonly bytes?: Buffer<ArrayBuffer>;
      readonly signal?: AbortSignal;
      readonly patience?: number;
    },
  ): Promise<Response> {
    const late = AbortSignal.timeout(patience);
    const headers: Record<string, string> = this.token === undefined ? {} : { authorization: `Bearer ${this.token}` };
    if (json) headers['content-type'] = 'application/json';
    if (bytes) {
      headers['content-type'] = 'application/octet-stream';
      headers['content-digest'] = digestOf(bytes);
    }
    const body = json ? JSON.stringify(json) : bytes;
    const answer = await fetch(`${this.server}/api${path}`, {
      method,
      headers,
      ...(body === undefined ? {} : { body }),
      signal: signal ? AbortSignal.any([signal, late]) : late,
    });
    if (answer.ok) return answer;
    const { detail, type } = (await answer.json().catch(() => ({}))) as { readonly detail?: unknown; type?: unknown };
    throw new Refused(
      answer.status,
      typeof detail === 'string' ? detail : `The server answered ${String(answer.status)}.`,
      typeof type === 'string' ? type.replace('/problems/', '') : '',
    );
  }
}
