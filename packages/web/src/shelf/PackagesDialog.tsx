import {
  Box,
  Button,
  Checkbox,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  FormControlLabel,
  LinearProgress,
  Typography,
} from '@mui/material';
import { useEffect, useRef, useState, type ReactElement } from 'react';
import { sentence, type Material, type Project } from '../api/client.ts';
import { fetchFile, NotExported } from '../project/fetch-file.ts';
import { download } from '../project/project-zip.ts';
import { tokens } from '../ui/tokens.ts';

/** Chooses materials whose shader packages leave in one zip, a folder each. */
export function PackagesDialog({
  project,
  materials,
  close,
}: {
  readonly project: Project;
  readonly materials: readonly Material[];
  readonly close: () => void;
}): ReactElement {
  const [chosen, setChosen] = useState<ReadonlySet<string>>(() => new Set(materials.map((m) => m.id)));
  const [leaveOut, setLeaveOut] = useState(false);
  const [share, setShare] = useState<number>();
  const [refused, setRefused] = useState<{ readonly message: string; readonly missing: boolean }>();
  const running = useRef<AbortController>(undefined);
  useEffect(
    () => () => {
      running.current?.abort();
    },
    [],
  );
  const write = async (): Promise<void> => {
    const abort = new AbortController();
    running.current = abort;
    setRefused(undefined);
    setShare(0);
    const query = new URLSearchParams({
      materials: materials.flatMap((m) => (chosen.has(m.id) ? [m.id] : [])).join(','),
      ...(leaveOut ? { leaveOutMissing: 'true' } : {}),
    });
    try {
      const { bytes } = await fetchFile(`/api/projects/${project.id}/export.zip?${query}`, abort.signal, setShare);
      download(new Blob([bytes], { type: 'application/zip' }), `${project.name} packages.zip`);
      close();
    } catch (error) {
      if (abort.signal.aborted) return;
      setRefused({ message: sentence(error), missing: error instanceof NotExported && error.missing.length > 0 });
    } finally {
      setShare(undefined);
    }
  };
  const all = chosen.size === materials.length;
  return (
    <Dialog open onClose={close} fullWidth maxWidth="xs">
      <DialogTitle>Export shader packages</DialogTitle>
      <DialogContent>
        <Typography sx={{ color: 'text.secondary', mb: 1 }}>
          One zip with a folder for each material: shader code, textures, a readme, and a page that plays it.
        </Typography>
        <FormControlLabel
          label={`All ${String(materials.length)}`}
          control={
            <Checkbox
              size="small"
              checked={all}
              indeterminate={!all && chosen.size > 0}
              onChange={() => {
                setChosen(new Set(all ? [] : materials.map((m) => m.id)));
              }}
            />
          }
        />
        <Box sx={{ maxHeight: 320, overflow: 'auto', borderTop: 1, borderBottom: 1, borderColor: 'divider' }}>
          {materials.map(({ id, title }) => (
            <FormControlLabel
              key={id}
              label={title}
              sx={{ display: 'flex', m: 0 }}
              control={
                <Checkbox
                  size="small"
                  checked={chosen.has(id)}
                  onChange={(_, on) => {
                    const next = new Set(chosen);
                    if (on) next.add(id);
                    else next.delete(id);
                    setChosen(next);
                  }}
                />
              }
            />
          ))}
        </Box>
        {refused && (
          <Typography role="alert" sx={{ color: tokens.coral, mt: 1 }}>
            {refused.message}
          </Typography>
        )}
        {(refused?.missing === true || leaveOut) && (
          <FormControlLabel
            label="Leave out images that are missing"
            control={
              <Checkbox
                size="small"
                checked={leaveOut}
                onChange={(_, on) => {
                  setLeaveOut(on);
                }}
              />
            }
          />
        )}
        {share !== undefined && (
          <LinearProgress
            aria-label="Writing the packages"
            variant={share > 0 ? 'determinate' : 'indeterminate'}
            value={share * 100}
            sx={{ mt: 1 }}
          />
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button variant="contained" disabled={chosen.size === 0 || share !== undefined} onClick={() => void write()}>
          {share === undefined ? 'Download' : 'Writing'}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
