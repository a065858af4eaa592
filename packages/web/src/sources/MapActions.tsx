import { Box, Button, MenuItem, Select, Typography } from '@mui/material';
import { useState, type ReactElement } from 'react';
import type { Source } from '../api/client.ts';
import { copyText } from '../ui/copy-text.ts';
import { faces, tokens } from '../ui/tokens.ts';
import { Section } from './Section.tsx';
import { SourceActions } from './SourceActions.tsx';
import type { DrawingEditor } from './use-drawing.ts';
import { usesOf } from '../project/usage.ts';
import type { ProjectSources } from '../project/use-project.ts';

/** What every drawn map has: its size, whether it is stored, the lines that use it, and its place among the sources. */
export function MapActions({
  source,
  shown,
  editor,
  size,
  setSize,
  channels,
  lines,
}: {
  readonly source: Source;
  readonly shown: ProjectSources;
  readonly editor: Pick<DrawingEditor<object>, 'status' | 'problem'>;
  readonly size: number;
  readonly setSize: (size: number) => void;
  /** What stands in the channels. */
  readonly channels: string;
  /** Wake that reads it. */
  readonly lines: readonly string[];
}): ReactElement {
  const [copied, setCopied] = useState('');
  const uses = usesOf(source.name, shown.materials);
  return (
    <>
      <Section title="Use it">
        <Box
          component="pre"
          sx={{
            m: 0,
            p: 1,
            bgcolor: tokens.pit,
            fontFamily: faces.figures,
            fontVariantLigatures: 'none',
            fontSize: 12,
            whiteSpace: 'pre-wrap',
            overflowWrap: 'anywhere',
          }}
        >
          {lines.join('\n')}
        </Box>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mt: 0.5 }}>
          <Button
            variant="outlined"
            onClick={() => {
              void copyText(`${lines.join('\n')}\n`).then((done) => {
                setCopied(done ? 'copied' : 'The browser does not allow copying.');
              });
            }}
          >
            Copy these lines
          </Button>
          <Typography role="status" sx={{ color: 'text.secondary' }}>
            {copied}
          </Typography>
        </Box>
        <Typography sx={{ color: 'text.secondary', mt: 1 }}>
          {uses.length === 0
            ? 'No material uses it yet.'
            : `Used by ${[...new Set(uses.map((u) => u.material.title))].join(', ')}.`}
        </Typography>
      </Section>
      <Section title="The map">
        <Typography sx={{ color: 'text.secondary', mb: 1 }}>{channels}</Typography>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: 1 }}>
          <Select
            variant="outlined"
            value={size}
            onChange={(event) => {
              setSize(event.target.value);
            }}
            inputProps={{ 'aria-label': 'Size of the map' }}
            sx={{ width: 130 }}
          >
            {[...new Set([64, 128, 256, 512, 1024, 2048, size])]
              .sort((a, b) => a - b)
              .map((n) => (
                <MenuItem key={n} value={n}>
                  {n} x {n}
                </MenuItem>
              ))}
          </Select>
          <Typography
            role="status"
            aria-label="Saving"
            sx={{ color: editor.status === 'failed' ? tokens.coral : 'text.secondary' }}
          >
            {editor.status === 'failed' ? `Not saved: ${editor.problem}` : editor.status}
          </Typography>
        </Box>
        <SourceActions source={source} shown={shown} losing="Undo restores it with its strokes." />
      </Section>
    </>
  );
}
