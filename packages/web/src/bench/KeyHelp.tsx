import {
  Box,
  Button,
  Checkbox,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  FormControlLabel,
  Typography,
} from '@mui/material';
import type { ReactElement } from 'react';
import { faces, tokens } from '../ui/tokens.ts';
import { useStore } from 'zustand';
import { singleKeys } from '../ui/keys.ts';
import { benchKeys } from './keys.ts';
import { useSession } from './session.ts';

/** What the keys and the hand do on the Bench. */
export function KeyHelp(): ReactElement {
  const session = useSession();
  const { cover } = session;
  const single = useStore(singleKeys, (s) => s.on);
  const close = (): void => {
    cover.setState({ open: undefined });
  };
  return (
    <Dialog open onClose={close} maxWidth="md" fullWidth aria-labelledby="keys-title">
      <DialogTitle id="keys-title">Keys</DialogTitle>
      <DialogContent sx={{ columns: 2, columnGap: 4 }}>
        {benchKeys(session).map(({ group, keys }) => (
          <Box key={group} sx={{ breakInside: 'avoid', mb: 2 }}>
            <Typography variant="h2">{group}</Typography>
            {keys.map(({ shown, does }) => (
              <Box key={shown} sx={{ display: 'flex', gap: 1.5, py: 0.5, borderBottom: 1, borderColor: 'divider' }}>
                <Box
                  component="kbd"
                  sx={{ width: 168, flex: 'none', fontFamily: faces.figures, fontSize: 12, color: tokens.bone }}
                >
                  {shown}
                </Box>
                <span>{does}</span>
              </Box>
            ))}
          </Box>
        ))}
      </DialogContent>
      <DialogActions>
        <FormControlLabel
          sx={{ mr: 'auto', ml: 0.5 }}
          control={
            <Checkbox
              checked={single}
              onChange={(_, on) => {
                singleKeys.setState({ on });
              }}
            />
          }
          label="Use single-key shortcuts (without Ctrl or Alt)"
        />
        <Button variant="outlined" onClick={close}>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  );
}
