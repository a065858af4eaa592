import { Box, type SxProps } from '@mui/material';
import { useState, type DragEvent, type ReactElement, type ReactNode } from 'react';
import { sentence } from '../../api/client.ts';
import { tokens } from '../../ui/tokens.ts';
import { DropHint } from '../../ui/DropHint.tsx';
import { StageNote } from '../../viewport/Legend.tsx';
import { useSession } from '../session.ts';
import { DRAGGED_SOURCE, placeTexture, takeIn } from './place-texture.ts';

/** A line that is dropped on: its step, and where it lies in the zone, in pixels. */
export interface DropLine {
  readonly step: number;
  readonly top: number;
  readonly height: number;
  /** What letting go does there. */
  readonly words: string;
}

const carries = ({ dataTransfer: { types } }: DragEvent): boolean =>
  types.includes('Files') || types.includes(DRAGGED_SOURCE);

/**
 * A part of the Bench on which files, and sources that are dragged, go into the material; `lineAt` tells which line lies
 * at a height of the window, for those that have lines.
 */
export function DropZone({
  words,
  lineAt,
  sx,
  children,
}: {
  readonly words: string;
  readonly lineAt?: (x: number, y: number) => DropLine | undefined;
  readonly sx?: SxProps;
  readonly children: ReactNode;
}): ReactElement {
  const session = useSession();
  const [over, setOver] = useState<{ readonly line: DropLine | undefined }>();
  const [problem, setProblem] = useState('');
  const line = over?.line;
  return (
    <Box
      // Before the editor, which would take the file's text.
      onDragOverCapture={(event) => {
        if (!carries(event)) return;
        event.preventDefault();
        event.stopPropagation();
        event.dataTransfer.dropEffect = 'copy';
        const next = lineAt?.(event.clientX, event.clientY);
        if (!over || over.line?.step !== next?.step || over.line?.top !== next?.top) setOver({ line: next });
      }}
      onDragLeave={(event) => {
        if (!event.currentTarget.contains(event.relatedTarget as Node | null)) setOver(undefined);
      }}
      onDropCapture={(event) => {
        setOver(undefined);
        const { files } = event.dataTransfer;
        const dragged = event.dataTransfer.getData(DRAGGED_SOURCE);
        const source = session.sources.getState().sources.find((s) => s.id === dragged);
        if (files.length === 0 && !source) return;
        event.preventDefault();
        event.stopPropagation();
        const step = lineAt?.(event.clientX, event.clientY)?.step;
        setProblem('');
        if (source)
          placeTexture(session, source, { onto: step }).catch((error: unknown) => {
            setProblem(`${source.name} cannot be used. ${sentence(error)}`);
          });
        else takeIn(session, [...files], step);
      }}
      sx={{ position: 'relative', flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column', ...sx }}
    >
      {children}
      {problem !== '' && (
        <StageNote role="alert" wrong>
          {problem}
        </StageNote>
      )}
      {over &&
        (line ? (
          <Box
            aria-hidden="true"
            sx={{
              position: 'absolute',
              left: 4,
              right: 4,
              top: line.top,
              height: line.height,
              border: `2px dashed ${tokens.bone}`,
              borderRadius: '3px',
              pointerEvents: 'none',
              display: 'flex',
              justifyContent: 'flex-end',
              alignItems: 'center',
              zIndex: 3,
              '& span': { bgcolor: tokens.pit, px: 1, borderRadius: '3px' },
            }}
          >
            <span>{line.words}</span>
          </Box>
        ) : (
          <DropHint words={words} />
        ))}
    </Box>
  );
}
