import { Box, Button, IconButton, Paper, Popper, Typography } from '@mui/material';
import { useEffect, useState, type ReactElement } from 'react';
import { CloseIcon } from '../ui/icons.tsx';
import { tokens } from '../ui/tokens.ts';
import { rememberVisit } from './visits.ts';

/** The places that a first visit is shown, in the order of the README's tour. */
const PLACES = [
  {
    at: '[data-mark=score]',
    title: 'The Score',
    words:
      'A material is this text, one step per line. Every control on this page edits it, and any edit can be undone.',
  },
  {
    at: '.cm-step-mark .cm-picture',
    title: 'A picture for every step',
    words:
      'It plays live. Click it to see the step alone on the Stage; click the square beside it to switch the line off.',
  },
  {
    at: '#panel-dials .MuiSlider-root',
    title: 'Dials',
    words:
      'Values that a colleague can adjust. Drag one: picture and text update at once. The columns to the right are variants.',
  },
  {
    at: '[data-mark=verdict]',
    title: 'Does it loop?',
    words:
      'Estela proves it from the text, for these values or for every setting. If it does not loop, Checks offers fixes.',
  },
  {
    at: '[data-mark=export]',
    title: 'Export',
    words: 'Export shader code, textures, and a page that plays the material.',
  },
] as const;

/** Milliseconds after which a mark follows what it marks. */
const FOLLOW = 300;

/** Five marks on the Bench that say what is where, until they are dismissed; they come once in a browser. */
export function FirstVisit(): ReactElement | null {
  const [open, setOpen] = useState<number | undefined>(0);
  const [corners, setCorners] = useState<readonly (readonly [number, number] | undefined)[]>([]);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  useEffect(() => {
    const look = (): void => {
      const next = PLACES.map(({ at }) => {
        const box = document.querySelector(at)?.getBoundingClientRect();
        return box && box.width > 0 ? ([Math.round(box.right), Math.round(box.top)] as const) : undefined;
      });
      setCorners((before) => (JSON.stringify(before) === JSON.stringify(next) ? before : next));
    };
    const timer = setInterval(look, FOLLOW);
    return () => {
      clearInterval(timer);
      // Left is dismissed, too.
      rememberVisit();
    };
  }, []);
  const shown = open === undefined ? undefined : PLACES[open];
  if (!shown || corners.every((c) => !c)) return null;
  const dismiss = (): void => {
    rememberVisit();
    setOpen(undefined);
  };
  return (
    <Box component="aside" aria-label="First visit">
      {PLACES.map(({ title }, i) => {
        const corner = corners[i];
        if (!corner) return null;
        const current = i === open;
        return (
          <Box
            key={title}
            component="button"
            type="button"
            aria-label={`${String(i + 1)}: ${title}`}
            aria-pressed={current}
            ref={current ? setAnchor : undefined}
            onClick={() => {
              setOpen(i);
            }}
            sx={{
              position: 'fixed',
              left: corner[0] - 12,
              top: corner[1] - 12,
              zIndex: 20,
              width: 24,
              height: 24,
              p: 0,
              borderRadius: '50%',
              border: `2px solid ${tokens.pit}`,
              bgcolor: current ? tokens.text : tokens.bone,
              color: tokens.pit,
              font: 'inherit',
              fontWeight: 500,
              cursor: 'pointer',
            }}
          >
            {i + 1}
          </Box>
        );
      })}
      {anchor && corners[open ?? 0] && (
        <Popper
          key={open}
          open
          anchorEl={anchor}
          placement="bottom-start"
          modifiers={[{ name: 'offset', options: { offset: [0, 6] } }]}
          sx={{ zIndex: 21 }}
        >
          <Paper sx={{ width: 300, p: 1.5, border: `1px solid ${tokens.bone}`, bgcolor: tokens.row }}>
            <Box sx={{ display: 'flex', alignItems: 'center' }}>
              <Typography component="h2" sx={{ flex: 1, fontSize: 15, fontWeight: 500 }}>
                {shown.title}
              </Typography>
              <IconButton aria-label="End the tour" onClick={dismiss}>
                <CloseIcon />
              </IconButton>
            </Box>
            <Typography role="status" sx={{ my: 1 }}>
              {shown.words}
            </Typography>
            <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
              <Typography sx={{ flex: 1, color: 'text.secondary' }}>
                {(open ?? 0) + 1} of {PLACES.length}
              </Typography>
              {open === PLACES.length - 1 ? (
                <Button variant="contained" onClick={dismiss}>
                  Done
                </Button>
              ) : (
                <Button
                  variant="contained"
                  onClick={() => {
                    setOpen((open ?? 0) + 1);
                  }}
                >
                  Next
                </Button>
              )}
            </Box>
          </Paper>
        </Popper>
      )}
    </Box>
  );
}
