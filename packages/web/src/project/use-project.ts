import { useEffect, useMemo, useState } from 'react';
import { useStore } from 'zustand';
import { api, isMissing, sentence, type Material, type Project } from '../api/client.ts';
import { sourcesOf, type SourcesState, type SourcesStore } from './sources-store.ts';
import { freshnessOf, readMaterials, type Freshness, type ReadMaterial } from './usage.ts';

export interface ProjectSources {
  readonly state: 'loading' | 'missing' | 'failed' | 'ready';
  readonly message: string;
  readonly project: Project | undefined;
  readonly store: SourcesStore;
  readonly sources: SourcesState['sources'];
  readonly materials: readonly ReadMaterial[];
  readonly freshness: ReadonlyMap<string, Freshness>;
  /** Reads everything anew. */
  readonly reload: () => void;
}

/** A project with its sources and the materials that read them, kept up to date while it is shown. */
export function useProject(projectId: string): ProjectSources {
  const store = sourcesOf(projectId);
  const { sources, status, message, travels } = useStore(store);
  const [project, setProject] = useState<Project>();
  const [materials, setMaterials] = useState<readonly Material[]>([]);
  const [problem, setProblem] = useState<{ missing: boolean; message: string }>();
  const [round, setRound] = useState(0);

  useEffect(() => {
    const abort = new AbortController();
    const open = async (): Promise<void> => {
      try {
        const found = await api.project(projectId);
        const list = await api.materials(projectId, abort.signal);
        if (abort.signal.aborted) return;
        setProject(found);
        setMaterials(list);
        setProblem(undefined);
      } catch (error) {
        if (!abort.signal.aborted)
          setProblem({
            missing: isMissing(error),
            message: sentence(error),
          });
      }
    };
    void open();
    void store.load();
    return () => {
      abort.abort();
    };
  }, [projectId, store, round, travels]);

  const read = useMemo(() => readMaterials(materials), [materials]);
  const [freshness, setFreshness] = useState<ReadonlyMap<string, Freshness>>(new Map());
  useEffect(() => {
    let gone = false;
    void freshnessOf(sources, read).then((judged) => {
      if (!gone) setFreshness(judged);
    });
    return () => {
      gone = true;
    };
  }, [sources, read]);

  const state = problem
    ? problem.missing
      ? 'missing'
      : 'failed'
    : status === 'failed'
      ? 'failed'
      : project && status === 'ready'
        ? 'ready'
        : 'loading';
  return {
    state,
    message: problem?.message ?? message,
    project,
    store,
    sources,
    materials: read,
    freshness,
    reload: () => {
      setRound(round + 1);
    },
  };
}
