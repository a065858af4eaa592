import { Box, Button, LinearProgress, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { Link } from 'react-router';
import { useStore } from 'zustand';
import { tokens } from '../ui/tokens.ts';
import { isSettled, isWorking, type Importer, type ImportItem } from './import-store.ts';

const SHARE: Record<ImportItem['stage'], number> = {
  waiting: 0,
  reading: 0.3,
  'asks frames': 0.6,
  'asks uvs': 0.6,
  'asks materials': 0.6,
  'asks name': 0.6,
  sending: 0.8,
  done: 1,
  refused: 1,
  'left out': 1,
};
const WORDS: Record<ImportItem['stage'], string> = {
  waiting: 'waiting',
  reading: 'reading',
  'asks frames': 'has several frames',
  'asks uvs': 'has no UVs',
  'asks materials': 'has materials',
  'asks name': 'name is in use',
  sending: 'uploading',
  done: 'imported',
  refused: 'not imported',
  'left out': 'skipped',
};

/** What becomes of the files that were handed in: progress, questions and refusals, one line a file. */
export function ImportTray({ importer }: { readonly importer: Importer }): ReactElement | null {
  const items = useStore(importer, (s) => s.items);
  if (items.length === 0) return null;
  const share = items.reduce((sum, item) => sum + SHARE[item.stage], 0) / items.length;
  const working = items.some(isWorking);
  const done = items.filter((i) => i.stage === 'done').length;
  const asking = items.filter((i) => i.stage === 'asks name').length;
  const refused = items.filter((i) => i.stage === 'refused').length;
  return (
    <Box
      component="section"
      aria-label="Imported files"
      sx={{
        flex: 'none',
        borderTop: 1,
        borderColor: 'divider',
        maxHeight: 260,
        display: 'flex',
        flexDirection: 'column',
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, px: 2, height: 40, flex: 'none' }}>
        <Typography role="status">
          {done} of {items.length} imported{refused > 0 ? `, ${String(refused)} refused` : ''}
        </Typography>
        <LinearProgress variant="determinate" value={share * 100} aria-label="Import" sx={{ width: 160 }} />
        {asking > 1 && (
          <>
            <Button variant="outlined" onClick={() => importer.answerName('all', 'replace')}>
              Replace all {asking}
            </Button>
            <Button variant="outlined" onClick={() => importer.answerName('all', 'keep both')}>
              Keep both of all
            </Button>
          </>
        )}
        <Box sx={{ ml: 'auto' }}>
          {working ? (
            <Button onClick={importer.cancel}>Stop</Button>
          ) : (
            <Button disabled={!items.some(isSettled)} onClick={importer.clear}>
              Clear the list
            </Button>
          )}
        </Box>
      </Box>
      <Box component="ul" tabIndex={0} aria-label="Files" sx={{ m: 0, p: 0, listStyle: 'none', overflow: 'auto' }}>
        {items.map((item) => (
          <Line key={item.id} item={item} importer={importer} />
        ))}
      </Box>
    </Box>
  );
}

function Line({ item, importer }: { readonly item: ImportItem; readonly importer: Importer }): ReactElement {
  const { id, name, stage, message, frames, materials } = item;
  return (
    <Box
      component="li"
      sx={{
        display: 'flex',
        flexWrap: 'wrap',
        alignItems: 'center',
        columnGap: 1.5,
        rowGap: 0.5,
        px: 2,
        py: 0.5,
        borderTop: 1,
        borderColor: 'divider',
        minHeight: 36,
        '& .MuiButton-root': { flex: 'none' },
      }}
    >
      <Typography noWrap title={name} sx={{ width: 220, maxWidth: '30%', flex: 'none' }}>
        {name}
      </Typography>
      <Typography
        sx={{
          minWidth: 90,
          flex: 'none',
          color: stage === 'refused' ? tokens.coral : stage === 'done' ? 'text.primary' : 'text.secondary',
        }}
      >
        {WORDS[stage]}
      </Typography>
      {stage === 'asks frames' && (
        <>
          <Button variant="outlined" onClick={() => importer.answerFrames(id, false)}>
            First frame
          </Button>
          <Button variant="outlined" onClick={() => importer.answerFrames(id, true)}>
            All {frames} as a flipbook sheet
          </Button>
        </>
      )}
      {stage === 'asks uvs' && (
        <>
          <Button
            variant="outlined"
            title="Projected along its average normal"
            onClick={() => importer.answerUvs(id, 'planar')}
          >
            Planar
          </Button>
          <Button
            variant="outlined"
            title="Around its vertical axis"
            onClick={() => importer.answerUvs(id, 'cylindrical')}
          >
            Cylindrical
          </Button>
          <Button onClick={() => importer.answerUvs(id, 'none')}>Import without UVs</Button>
        </>
      )}
      {stage === 'asks materials' && (
        <>
          <Button
            variant="outlined"
            title="Its textures become sources, and its materials become materials of the project"
            onClick={() => importer.answerMaterials(id, true)}
          >
            Mesh, textures and materials
          </Button>
          <Button variant="outlined" onClick={() => importer.answerMaterials(id, false)}>
            Mesh alone
          </Button>
        </>
      )}
      {stage === 'asks name' && (
        <>
          <Button variant="outlined" onClick={() => importer.answerName(id, 'replace')}>
            Replace
          </Button>
          <Button variant="outlined" onClick={() => importer.answerName(id, 'keep both')}>
            Keep both
          </Button>
          <Button onClick={() => importer.answerName(id, 'leave out')}>Skip</Button>
        </>
      )}
      <Typography sx={{ color: stage === 'refused' ? tokens.coral : 'text.secondary' }}>{message}</Typography>
      {materials.map((material) => (
        <Button key={material.id} component={Link} to={`/materials/${material.id}`}>
          Open {material.title}
        </Button>
      ))}
    </Box>
  );
}
