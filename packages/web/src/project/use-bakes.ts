import { useMemo } from 'react';
import { useStore } from 'zustand';
import { useTitleProgress } from '../ui/title.ts';
import { bakesOf, isUnderWay, type BakesStore } from './bakes-store.ts';

/** The bakes of a project, followed for as long as they are shown; the title of the window says how far they are. */
export function useBakes(projectId: string): BakesStore {
  const store = bakesOf(projectId);
  const bakes = useStore(store, (s) => s.bakes);
  const share = useMemo(() => {
    const running = bakes.filter(isUnderWay);
    const total = running.reduce((sum, b) => sum + b.total, 0);
    return total === 0 ? undefined : running.reduce((sum, b) => sum + b.done, 0) / total;
  }, [bakes]);
  useTitleProgress(share);
  return store;
}
