import {
  Box,
  Button,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  FormControlLabel,
  LinearProgress,
  Checkbox,
  Typography,
} from '@mui/material';
import { useEffect, useRef, useState, type ReactElement, type ReactNode } from 'react';
import { sentence } from '../../api/client.ts';
import { tokens } from '../../ui/tokens.ts';
import { NotExported } from '../fetch-file.ts';
import { download } from '../project-zip.ts';
import { fetchGlb, USUAL_GLB, type Glb, type GlbChoice } from './glb.ts';
import { GlbReportList } from './GlbReport.tsx';
import { GlbSettings } from './GlbSettings.tsx';

/** Asks how something is to leave as GLB, has it written, tells what it says, and gives it. */
export function GlbDialog({
  title,
  start,
  before,
  address,
  children,
  close,
}: {
  readonly title: string;
  readonly start: Partial<GlbChoice>;
  /** Keeps what is not saved yet. */
  readonly before: () => Promise<unknown>;
  /** Of what is written; undefined while nothing is chosen. */
  readonly address: string | undefined;
  /** What else is to be chosen. */
  readonly children?: ReactNode;
  readonly close: () => void;
}): ReactElement {
  const [choice, setChoice] = useState<GlbChoice>({ ...USUAL_GLB, ...start });
  const [share, setShare] = useState<number>();
  const [made, setMade] = useState<{ readonly of: string; readonly glb: Glb }>();
  const [refused, setRefused] = useState<{ readonly message: string; readonly missing: boolean }>();
  const running = useRef<AbortController>(undefined);
  useEffect(
    () => () => {
      running.current?.abort();
    },
    [],
  );
  const of = JSON.stringify([address, choice]);
  const glb = made?.of === of ? made.glb : undefined;
  const change = (next: Partial<GlbChoice>): void => {
    setChoice({ ...choice, ...next });
    setRefused(undefined);
  };
  const write = async (): Promise<void> => {
    if (address === undefined) return;
    const abort = new AbortController();
    running.current = abort;
    setRefused(undefined);
    setShare(0);
    try {
      await before();
      setMade({ of, glb: await fetchGlb(address, choice, abort.signal, setShare) });
    } catch (error) {
      if (abort.signal.aborted) return;
      setRefused({ message: sentence(error), missing: error instanceof NotExported && error.missing.length > 0 });
    } finally {
      setShare(undefined);
    }
  };
  return (
    <Dialog open onClose={close} fullWidth maxWidth="sm">
      <DialogTitle>{title}</DialogTitle>
      <DialogContent>
        <Box
          component="fieldset"
          disabled={share !== undefined}
          sx={{ border: 0, m: 0, p: 0, display: 'grid', gap: 1 }}
        >
          {children}
          <GlbSettings choice={choice} change={change} />
          {(refused?.missing === true || choice.leaveOutMissing) && (
            <FormControlLabel
              label="Leave out images that are missing"
              control={
                <Checkbox
                  size="small"
                  checked={choice.leaveOutMissing}
                  onChange={(_, leaveOutMissing) => {
                    change({ leaveOutMissing });
                  }}
                />
              }
            />
          )}
        </Box>
        {refused && (
          <Typography role="alert" sx={{ color: tokens.coral, mt: 1 }}>
            {refused.message}
          </Typography>
        )}
        {share !== undefined && (
          <LinearProgress
            aria-label="Writing the GLB"
            variant={share > 0 ? 'determinate' : 'indeterminate'}
            value={share * 100}
            sx={{ mt: 1 }}
          />
        )}
        {glb && (
          <Box
            role="status"
            sx={{ mt: 1.5, pt: 1.5, borderTop: 1, borderColor: 'divider', maxHeight: 320, overflow: 'auto' }}
          >
            <GlbReportList report={glb.report} />
          </Box>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>{glb ? 'Close' : 'Cancel'}</Button>
        {glb ? (
          <Button
            variant="contained"
            onClick={() => {
              download(glb.file, `${glb.name}.glb`);
            }}
          >
            Download {(glb.file.size / 1e6).toFixed(2)} MB
          </Button>
        ) : (
          <Button
            variant="contained"
            disabled={address === undefined || share !== undefined}
            onClick={() => void write()}
          >
            {share === undefined ? 'Export and preview' : 'Writing'}
          </Button>
        )}
      </DialogActions>
    </Dialog>
  );
}
