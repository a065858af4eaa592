import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { faces, tokens } from '../ui/tokens.ts';
import { useSession } from './session.ts';

const KEYS: readonly (readonly [group: string, keys: readonly (readonly [key: string, does: string])[]])[] = [
  [
    'Time',
    [
      ['Space', 'play or pause'],
      [', and .', 'one frame back or on'],
      ['Home', 'to the start of the loop'],
      ['[ and ]', 'play slower or faster'],
    ],
  ],
  [
    'Text',
    [
      ['Ctrl+K', 'insert an operation or an output'],
      ['Ctrl+Up and Down', 'change the number at the cursor; with Shift ten times as much'],
      ['Drag a number', 'change it; with Shift ten times as fast'],
      ['Alt+wheel on a number', 'change it'],
      ['Alt+Enter', 'open the control of the value at the cursor'],
      ['Ctrl+Space', 'what could stand here'],
      ['Ctrl+F', 'find'],
    ],
  ],
  [
    'Steps',
    [
      ['Click a picture', 'show that step alone, and its card'],
      ['Alt+Up and Down', 'through the steps while one is alone; else move the line'],
      ['Alt+click an off mark', 'switch off everything from here'],
      ['Esc', 'back to the whole material'],
    ],
  ],
  [
    'Stage',
    [
      ['Drag a handle', 'change what it stands for; arrow keys do it in steps'],
      ['with Shift', 'headings and angles in steps of 15 degrees'],
      ['Drag a mesh', 'turn the view; so do arrow keys, and the wheel, plus and minus bring it nearer'],
      ['with Alt', 'laps that are not whole'],
      ['Click while probing', 'pin the pixel; click it again to let it go'],
    ],
  ],
  [
    'Everything',
    [
      ['Ctrl+Z', 'undo: text, dials, handles, fixes'],
      ['Ctrl+Shift+Z', 'redo'],
      ['?', 'this list'],
    ],
  ],
];

/** What the keys and the hand do on the Bench. */
export function KeyHelp(): ReactElement {
  const { cover } = useSession();
  const close = (): void => {
    cover.setState({ open: undefined });
  };
  return (
    <Dialog open onClose={close} maxWidth="md" fullWidth aria-labelledby="keys-title">
      <DialogTitle id="keys-title">Keys</DialogTitle>
      <DialogContent sx={{ columns: 2, columnGap: 4 }}>
        {KEYS.map(([group, keys]) => (
          <Box key={group} sx={{ breakInside: 'avoid', mb: 2 }}>
            <Typography variant="h2">{group}</Typography>
            {keys.map(([key, does]) => (
              <Box key={key} sx={{ display: 'flex', gap: 1.5, py: 0.5, borderBottom: 1, borderColor: 'divider' }}>
                <Box
                  component="kbd"
                  sx={{ width: 168, flex: 'none', fontFamily: faces.figures, fontSize: 12, color: tokens.bone }}
                >
                  {key}
                </Box>
                <span>{does}</span>
              </Box>
            ))}
          </Box>
        ))}
      </DialogContent>
      <DialogActions>
        <Button variant="outlined" onClick={close}>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  );
}
