import { api, bodyOf, type SetBody, type StoredSet } from '../api/client.ts';
import { bringBack, createAutosavedHistory, type AutosavedHistory } from '../history/autosaved-history.ts';
import { findValueDraft, keepValue } from '../history/value-drafts.ts';
import { withOverlays } from '../project/set-edits.ts';
import type { SetsStore } from '../project/sets-store.ts';

/** A set that is open to be changed. */
export interface OpenSet {
  readonly kept: AutosavedHistory<SetBody>;
  /** Learns the version that is stored now, for saving over it. */
  readonly refresh: () => Promise<void>;
  /** What was changed but not saved was found in this browser, and is there again. */
  readonly restored: boolean;
  /** Lets go of it, and of its draft. */
  readonly end: () => void;
}

/** Opens a set: what is changed is saved by itself, guarded by the version it was changed from. */
export async function openSet(store: SetsStore, set: StoredSet): Promise<OpenSet> {
  const { id, projectId } = set;
  const thing = `set ${id}`;
  const draft = await findValueDraft<SetBody>(thing);
  const keeper = keepValue<SetBody>(thing);
  // Not the store's: that may have learnt of a version that was never seen here.
  let { version } = draft ?? set;
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
    draft: { keep: (body) => keeper.keep(body, version), forget: () => void keeper.forget() },
  });
  if (draft) bringBack(kept, draft, withOverlays(draft.value));
  const isAtRest = (): boolean => kept.getState().saving === 'saved' && kept.settled() === kept.getState().value;
  // What others do is seen at once; where something waits to be saved here, its save tells.
  const unfollow = store.subscribe(({ sets }) => {
    const now = sets.find((s) => s.id === id);
    if (!now || now.version <= version || !isAtRest()) return;
    ({ version } = now);
    kept.take('changed elsewhere', bodyOf(now));
  });
  return {
    kept,
    restored: draft !== undefined,
    end() {
      unfollow();
      void keeper.forget();
      keeper.close();
    },
    async refresh() {
      version = (await stored())?.version ?? version;
    },
  };
}
