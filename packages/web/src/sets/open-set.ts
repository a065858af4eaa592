import { api, bodyOf, type SetBody, type StoredSet } from '../api/client.ts';
import { createAutosavedHistory, type AutosavedHistory } from '../history/autosaved-history.ts';
import type { SetsStore } from '../project/sets-store.ts';

/** A set that is open to be changed. */
export interface OpenSet {
  readonly kept: AutosavedHistory<SetBody>;
  /** Learns the version that is stored now, for saving over it. */
  readonly refresh: () => Promise<void>;
}

/** Opens a set: what is changed is saved by itself, guarded by the version it was changed from. */
export function openSet(store: SetsStore, set: StoredSet): OpenSet {
  const { id, projectId } = set;
  // Not the store's: that may have learnt of a version that was never seen here.
  let { version } = set;
  const stored = async (): Promise<StoredSet | undefined> => (await api.sets(projectId)).find((s) => s.id === id);
  const kept = createAutosavedHistory<SetBody>(bodyOf(set), {
    async write(body) {
      ({ version } = await store.save({ ...body, id, projectId, version }));
    },
    async recognise(sent) {
      const now = await stored();
      const known = now && sent.find((body) => JSON.stringify(bodyOf(body)) === JSON.stringify(bodyOf(now)));
      if (now && known) ({ version } = now);
      return known;
    },
  });
  return {
    kept,
    async refresh() {
      version = (await stored())?.version ?? version;
    },
  };
}
