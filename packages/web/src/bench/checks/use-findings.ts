import { missingImage, type Diagnostic, type Finding } from '@estela/core';
import { useMemo } from 'react';
import { useStore } from 'zustand';
import { useSession } from '../session.ts';

const RANK = { error: 0, warning: 1, note: 2 } as const;

/** Images of the text that the project has not. */
export function useMissing(): readonly Diagnostic[] {
  const { rested, sources } = useSession();
  const images = useStore(rested, (s) => s.derived.program.images);
  const list = useStore(sources, (s) => s.sources);
  return useMemo(() => {
    const known = new Set(list.map((s) => s.name));
    return images.filter((i) => i.source !== '' && !known.has(i.source)).map((i) => missingImage(i, 'is in this project'));
  }, [images, list]);
}

/** All that was found, of the text and of the material, the gravest first. */
export function useFindings(): readonly Finding[] {
  const { checks, rested } = useSession();
  const derived = useStore(rested, (s) => s.derived);
  const report = useStore(checks, (s) => s.report);
  const text = useStore(checks, (s) => s.text);
  const missing = useMissing();
  return useMemo(() => {
    const found: readonly Finding[] = derived.ok && report && text === derived.text ? report.findings : [];
    return [...derived.diagnostics, ...missing, ...found].sort((a, b) => RANK[a.severity] - RANK[b.severity] || a.from - b.from);
  }, [derived, report, text, missing]);
}
