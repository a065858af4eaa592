import { missingImage, type Diagnostic, type Finding } from '@estela/core';
import { useMemo } from 'react';
import { useStore } from 'zustand';
import { useSession } from '../session.ts';

const RANK = { error: 0, warning: 1, note: 2 } as const;

/** Images of the text that the project has not. */
export function useMissing(): readonly Diagnostic[] {
  const { debounced, sources } = useSession();
  const images = useStore(debounced, (s) => s.derived.program.images);
  const list = useStore(sources, (s) => s.sources);
  return useMemo(() => {
    const known = new Set(list.map((s) => s.name));
    return images
      .filter((i) => i.source !== '' && !known.has(i.source))
      .map((i) => missingImage(i, 'is in this project'));
  }, [images, list]);
}

/**
 * All that was found, of the text and of the material, the gravest first; and what of it is of an older text than that
 * of now.
 */
export function useFindings(): { readonly findings: readonly Finding[]; readonly stale: ReadonlySet<Finding> } {
  const { checks, debounced } = useSession();
  const derived = useStore(debounced, (s) => s.derived);
  const found = useStore(checks, (s) => s.findings);
  const foundIn = useStore(checks, (s) => s.foundIn);
  const missing = useMissing();
  return useMemo(() => {
    const seen = derived.ok ? found : [];
    const all: readonly Finding[] = [...derived.diagnostics, ...missing, ...seen];
    return {
      findings: [...all].sort((a, b) => RANK[a.severity] - RANK[b.severity] || a.from - b.from),
      stale: new Set(foundIn === derived.text ? [] : seen),
    };
  }, [derived, found, foundIn, missing]);
}
