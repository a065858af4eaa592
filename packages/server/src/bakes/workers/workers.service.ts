import type { BakeWorker, ChunkPlace } from '@estela/contract';
import { Injectable } from '@nestjs/common';
import { chunkKey } from '../queue/chunk-job.ts';

/** Milliseconds after which a worker that has given no sign is taken for lost. */
const SILENCE = 25_000;
/** Milliseconds for which a lost worker is told of. */
const REMEMBERED = 10 * 60_000;
/** Milliseconds over which the rate of a worker is measured. */
const RATE_TIME = 30_000;

/** What a worker says of itself. */
export interface WorkerFacts {
  readonly name: string;
  /** Threads that it computes in. */
  readonly jobs: number;
}

/** A worker, as it is known now. */
export interface KnownWorker extends WorkerFacts {
  readonly id: string;
  readonly state: BakeWorker['state'];
  /** When it gave a sign, in milliseconds since 1970. */
  readonly seen: number;
  /** Chunks that were kept of it. */
  readonly chunks: number;
  /** Frames a second over the last half minute; null before there is one. */
  readonly rate: number | null;
  /** How many chunks of which bakes it has in hand. */
  readonly at: ReadonlyMap<string, number>;
}

interface Entry {
  facts: WorkerFacts;
  seen: number;
  readonly silence: number;
  /** In hand, by `chunkKey`, and since when. */
  readonly at: Map<string, ChunkPlace & { readonly began: number }>;
  chunks: number;
  /** What was kept of it in the last half minute. */
  did: { readonly began: number; readonly at: number; readonly frames: number }[];
}

/** Who computes bakes, what they have in hand, and how fast they are. In memory alone: workers say who they are again. */
@Injectable()
export class WorkersService {
  readonly #entries = new Map<string, Entry>();

  /** Takes down a worker, or that it is still there. */
  put(id: string, facts: WorkerFacts, silence = SILENCE): void {
    const now = Date.now();
    const known = this.#entries.get(id);
    if (known) Object.assign(known, { facts, seen: now });
    else this.#entries.set(id, { facts, seen: now, silence, at: new Map(), chunks: 0, did: [] });
  }

  has(id: string): boolean {
    return this.#entries.has(id);
  }

  /** Forgets a worker; false where it was not known. */
  drop(id: string): boolean {
    return this.#entries.delete(id);
  }

  /** Takes down all that a worker has in hand. */
  holds(id: string, places: readonly ChunkPlace[]): void {
    const at = this.#entries.get(id)?.at;
    const held = new Map(places.map((place) => [chunkKey(place), place]));
    for (const key of at?.keys() ?? []) if (!held.has(key)) at?.delete(key);
    for (const [key, place] of held) if (!at?.has(key)) at?.set(key, { ...place, began: Date.now() });
  }

  took(id: string, place: ChunkPlace): void {
    const entry = this.#entries.get(id);
    if (!entry) return;
    entry.seen = Date.now();
    entry.at.set(chunkKey(place), { ...place, began: entry.seen });
  }

  /** A worker is done with a chunk, of which so many frames were kept. */
  ended(id: string, place: ChunkPlace, frames = 0): void {
    const entry = this.#entries.get(id);
    if (!entry) return;
    const now = Date.now();
    const { began = now } = entry.at.get(chunkKey(place)) ?? {};
    entry.seen = now;
    entry.at.delete(chunkKey(place));
    if (frames === 0) return;
    entry.chunks++;
    entry.did = [...entry.did.filter(({ at }) => now - at < RATE_TIME), { began, at: now, frames }];
  }

  /** How many are there, and their threads. */
  get there(): { readonly workers: number; readonly jobs: number } {
    const now = Date.now();
    let [workers, jobs] = [0, 0];
    for (const { facts, seen, silence } of this.#entries.values()) {
      if (now - seen > silence) continue;
      workers++;
      jobs += facts.jobs;
    }
    return { workers, jobs };
  }

  /** In the order in which they came. */
  list(): KnownWorker[] {
    const now = Date.now();
    for (const [id, { seen, silence }] of this.#entries)
      if (now - seen > silence + REMEMBERED) this.#entries.delete(id);
    return [...this.#entries].map(([id, { facts, seen, silence, at, chunks, did }]) => {
      const isLost = now - seen > silence;
      const recent = did.filter((d) => now - d.at < RATE_TIME);
      const frames = recent.reduce((sum, d) => sum + d.frames, 0);
      const seconds = (now - Math.min(...recent.map((d) => d.began))) / 1000;
      const counts = new Map<string, number>();
      for (const { bakeId } of at.values()) counts.set(bakeId, (counts.get(bakeId) ?? 0) + 1);
      return {
        ...{ id, ...facts, seen, chunks, at: counts },
        state: isLost ? 'lost' : at.size > 0 ? 'busy' : 'idle',
        rate: isLost || recent.length === 0 || seconds <= 0 ? null : frames / seconds,
      };
    });
  }
}
