import { Box, Button, LinearProgress, Tab, Tabs, Typography } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';
import { Link } from 'react-router';
import { download } from '../project/project-zip.ts';
import type { Written } from '../project/use-written.ts';
import { Notice, Place, TopBar } from '../ui/Page.tsx';
import type { Opened } from './opened.ts';

/** Ways in which a material leaves. */
export const PARTS = { code: 'Shader code', gltf: 'glTF' } as const;
export type PartName = keyof typeof PARTS;

export interface PartProps {
  readonly opened: Opened;
  /** Counts questions that were asked again. */
  readonly attempt: number;
  readonly again: () => void;
  readonly choose: (part: PartName) => void;
}

/** Where a material is on its way out, and what it is given as. */
export function ExportBar({
  opened: { material, project },
  file,
}: {
  readonly opened: Opened;
  /** What is downloaded, once it is written. */
  readonly file: { readonly bytes: Blob; readonly name: string } | undefined;
}): ReactElement {
  return (
    <TopBar least={800}>
      <Place
        links={[
          { to: '/', label: 'Shelf' },
          { label: project.name },
          { to: `/materials/${material.id}`, label: material.title },
        ]}
        here="Export"
      />
      <Typography sx={{ color: 'text.secondary', whiteSpace: 'nowrap' }}>
        revision {String(material.revision)}
      </Typography>
      <Button
        variant="contained"
        disabled={!file}
        sx={{ ml: 'auto', flex: 'none' }}
        onClick={() => {
          if (file) download(file.bytes, file.name);
        }}
      >
        {file ? `Download ${file.name}` : 'Download'}
      </Button>
    </TopBar>
  );
}

/** As what a material leaves, and how. */
export function ExportSettings({
  part,
  choose,
  children,
}: {
  readonly part: PartName;
  readonly choose: (part: PartName) => void;
  readonly children: ReactNode;
}): ReactElement {
  return (
    <Box
      sx={{
        width: 270,
        flex: 'none',
        overflow: 'auto',
        borderRight: 1,
        borderColor: 'divider',
      }}
    >
      <Tabs
        value={part}
        variant="fullWidth"
        aria-label="As"
        onChange={(_, next: PartName) => {
          choose(next);
        }}
        sx={{ minHeight: 36, borderBottom: 1, borderColor: 'divider' }}
      >
        {Object.entries(PARTS).map(([name, label]) => (
          <Tab key={name} value={name} label={label} sx={{ minHeight: 36, py: 0, textTransform: 'none' }} />
        ))}
      </Tabs>
      <Box sx={{ p: 1.5, display: 'grid', gap: 2, alignContent: 'start' }}>{children}</Box>
    </Box>
  );
}

/** While the server writes a file, and where it does not. */
export function NotWritten({
  what,
  opened: { material, project },
  written,
  leaveOut,
  again,
}: {
  /** What is written, as it stands in a sentence. */
  readonly what: string;
  readonly opened: Opened;
  readonly written: Exclude<Written<unknown>, { readonly state: 'ready' }>;
  readonly leaveOut: () => void;
  readonly again: () => void;
}): ReactElement {
  if (written.state === 'loading')
    return (
      <Box sx={{ flex: 1, p: 4 }} role="status">
        <Typography sx={{ mb: 1 }}>Writing {what}</Typography>
        <LinearProgress
          aria-label={`Writing ${what}`}
          variant={written.share > 0 ? 'determinate' : 'indeterminate'}
          value={written.share * 100}
        />
      </Box>
    );
  const { message, missing } = written;
  return (
    <Notice
      alert
      title="Nothing was exported"
      detail={message}
      action={
        <Box sx={{ display: 'flex', gap: 1 }}>
          {missing.length > 0 && (
            <Button variant="outlined" onClick={leaveOut}>
              Leave {missing.length === 1 ? 'it' : 'them'} out
            </Button>
          )}
          {missing.length > 0 && (
            <Button component={Link} to={`/projects/${project.id}/sources`}>
              To the sources
            </Button>
          )}
          <Button component={Link} to={`/materials/${material.id}`}>
            To the Bench
          </Button>
          <Button onClick={again}>Try again</Button>
        </Box>
      }
    />
  );
}
