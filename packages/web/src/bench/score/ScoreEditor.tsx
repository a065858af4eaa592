import { EditorView } from '@codemirror/view';
import { samples } from '@estela/core';
import { Box } from '@mui/material';
import { useEffect, useRef, type ReactElement } from 'react';
import { useSession } from '../session.ts';
import { pickFiles } from '../textures/place-texture.ts';
import { DropZone, type DropLine } from '../textures/DropZone.tsx';
import { createScore, stepIndexAt } from './score.ts';
import { StepPlayer } from './step-player.ts';

/** The Score: the text of the material, in one CodeMirror editor. */
export function ScoreEditor({ opened }: { readonly opened: () => void }): ReactElement {
  const { material, document, panel, clock, sources, selection, value, cover, probed, checks, intake } = useSession();
  const parent = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!parent.current) return undefined;
    const player = new StepPlayer(document, clock, sources);
    const close = createScore(parent.current, {
      document,
      player,
      selection,
      probed,
      checks,
      sources,
      material: material.id,
      openPanel: (open) => {
        panel.setState({ open });
      },
      openValue: (at) => {
        value.setState({ at });
      },
      importFiles: () => {
        pickFiles({ intake });
      },
      insert: () => {
        cover.setState({ open: 'palette' });
      },
    });
    opened();
    return () => {
      close();
      player.dispose();
    };
  }, [material.id, document, panel, clock, sources, selection, value, cover, probed, checks, intake, opened]);
  const lineAt = (x: number, y: number): DropLine | undefined => {
    const view = parent.current && EditorView.findFromDOM(parent.current);
    const at = view?.posAtCoords({ x, y }, false);
    const { derived } = document.getState();
    const index = at === undefined ? undefined : stepIndexAt(derived, at);
    const step = index === undefined ? undefined : derived.program.steps[index];
    if (!view || index === undefined || !step) return undefined;
    const { top, bottom } = view.lineBlockAt(step.span.from);
    const shift = view.documentTop - parent.current!.getBoundingClientRect().top;
    const name = step.kind === 'out' ? `out ${step.name}` : step.name;
    return {
      step: index,
      top: top + shift,
      height: bottom - top,
      words: samples(derived.program, index) ? `Replace the image of ${name}` : `Sample it below ${name}`,
    };
  };
  return (
    <DropZone words="Drop to sample it in a new step" lineAt={lineAt}>
      <Box ref={parent} sx={{ flex: 1, minHeight: 0, overflow: 'hidden', '& .cm-editor': { height: '100%' } }} />
    </DropZone>
  );
}
