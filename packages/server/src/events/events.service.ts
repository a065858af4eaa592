import type { ProjectEvent } from '@estela/contract';
import { randomBytes } from 'node:crypto';
import { Injectable } from '@nestjs/common';

/** Most events of one project that are kept for those who were away for a moment. */
const KEPT = 200;
/** Most who follow at once. */
const MOST_FOLLOWERS = 500;

/** An event with its place among those of its project. */
export interface Told {
  /** `EPOCH-NUMBER`: another run of the server counts anew. */
  readonly id: string;
  readonly event: ProjectEvent;
}
interface Channel {
  number: number;
  /** The newest that is not kept any more. */
  dropped: number;
  told: { readonly number: number; readonly told: Told }[];
  readonly followers: Set<(told: Told) => void>;
}

/** Tells all who look at a project, or at all of them (undefined), what has changed. */
@Injectable()
export class EventsService {
  readonly #epoch = randomBytes(6).toString('hex');
  readonly #channels = new Map<string | undefined, Channel>();
  readonly #ends = new Set<() => void>();

  /** Tells of a change that is stored. */
  tell(event: ProjectEvent): void {
    for (const who of [event.projectId, undefined]) {
      const channel = this.#channelOf(who);
      const told = { id: `${this.#epoch}-${String(++channel.number)}`, event };
      // What has changed before is told by its last change.
      channel.told = channel.told.filter(
        ({ told: { event: e } }) => e.id !== event.id || e.change !== 'changed' || event.change !== 'changed',
      );
      channel.told.push({ number: channel.number, told });
      if (channel.told.length > KEPT) channel.dropped = channel.told.shift()!.number;
      for (const follower of channel.followers) follower(told);
    }
  }

  /** What came after an event, by its id; undefined where that cannot be told any more. */
  since(projectId: string | undefined, id: string): readonly Told[] | undefined {
    const { told, number, dropped } = this.#channelOf(projectId);
    const [epoch, last = ''] = id.split('-');
    const at = /^\d+$/.test(last) ? Number(last) : NaN;
    const known = epoch === this.#epoch && at >= dropped && at <= number;
    return known ? told.filter((t) => t.number > at).map((t) => t.told) : undefined;
  }

  /** The id of the newest event of a project. */
  newest(projectId: string | undefined): string {
    return `${this.#epoch}-${String(this.#channelOf(projectId).number)}`;
  }

  /**
   * Hands on what is told from now on, until the function that it gives is called; `end` is called where the server
   * ends first. Undefined where too many follow already.
   */
  follow(projectId: string | undefined, follower: (told: Told) => void, end: () => void): (() => void) | undefined {
    if (this.#ends.size >= MOST_FOLLOWERS) return undefined;
    const { followers } = this.#channelOf(projectId);
    followers.add(follower);
    this.#ends.add(end);
    return () => {
      followers.delete(follower);
      this.#ends.delete(end);
    };
  }

  /** Ends all that follow. */
  end(): void {
    for (const end of [...this.#ends]) end();
  }

  #channelOf(projectId: string | undefined): Channel {
    let channel = this.#channels.get(projectId);
    if (!channel) this.#channels.set(projectId, (channel = { number: 0, dropped: 0, told: [], followers: new Set() }));
    return channel;
  }
}
