import {
  addVariant,
  applyEdits,
  freeName,
  insertDeclaration,
  parse,
  randomValues,
  setDefault,
  setVariantValue,
  type Program,
} from '@estela/core';
import { Box, Button, IconButton, InputBase, Popover, Typography } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { copyText } from '../../ui/copy-text.ts';
import { MoreIcon } from '../../ui/icons.tsx';
import { useSession } from '../session.ts';
import { settingJson, settingTexts } from './settings.ts';
import { freeTitle } from './VariantHead.tsx';

/** What can be done with all dials at once, and a new one; stands in the panel's bar. */
export function DialActions(): ReactElement {
  const { document, shown, debounced } = useSession();
  const now = (): Program => document.getState().derived.program;
  const program = useStore(debounced, (s) => s.derived.program);
  const variant = useStore(shown, (s) => s.variant);
  const [seed, setSeed] = useState(1);
  const [said, setSaid] = useState('');
  const [more, setMore] = useState<HTMLElement | null>(null);
  const present = program.variants.some((v) => v.name === variant) ? variant : undefined;

  const keep = (): void => {
    const title = freeTitle(program, 'Variant');
    document.edit(addVariant(now().tree, title, [...settingTexts(now(), present)]));
    shown.setState({ variant: title });
  };
  const randomise = (): void => {
    const { text: start } = document.getState();
    let text = start;
    for (const [name, literal] of randomValues(now(), seed)) {
      const tree = parse(text);
      text = applyEdits(
        text,
        present === undefined ? setDefault(tree, name, literal) : setVariantValue(tree, present, name, literal),
      );
    }
    document.edit([{ from: 0, to: start.length, insert: text }]);
  };
  const copy = async (): Promise<void> => {
    const copied = await copyText(settingJson(program, present));
    setSaid(copied ? 'Copied.' : 'The browser does not allow copying.');
  };
  return (
    <>
      {program.dials.length + program.switches.length > 0 && (
        <>
          <Button title="Saves the current values as a variant" onClick={keep}>
            Save as variant
          </Button>
          <IconButton
            aria-label="More for the dials"
            aria-haspopup="dialog"
            onClick={(event) => {
              setMore(event.currentTarget);
            }}
          >
            <MoreIcon />
          </IconButton>
          <Popover
            open={more !== null}
            anchorEl={more}
            anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
            transformOrigin={{ vertical: 'top', horizontal: 'right' }}
            onClose={() => {
              setMore(null);
              setSaid('');
            }}
            slotProps={{
              paper: {
                role: 'dialog',
                'aria-label': 'More for the dials',
                sx: { p: 1.5, border: 1, borderColor: 'divider', width: 270 },
              },
            }}
          >
            <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
              <Button
                variant="outlined"
                title={`Gives every dial with a range a value in it, in ${present ?? 'the base'}; the same seed gives the same values`}
                onClick={randomise}
              >
                Randomise {present ?? 'base'}
              </Button>
              <Typography component="label" sx={{ display: 'flex', alignItems: 'center', gap: 0.75, ml: 'auto' }}>
                Seed
                <InputBase
                  type="number"
                  value={seed}
                  onChange={(event) => {
                    setSeed(Math.trunc(Number(event.target.value)));
                  }}
                  sx={{ width: 64, height: 28, px: 0.75, border: 1, borderColor: 'divider', borderRadius: '3px' }}
                />
              </Typography>
            </Box>
            <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mt: 1 }}>
              <Button variant="outlined" onClick={() => void copy()}>
                Copy as JSON
              </Button>
              <Typography role="status" sx={{ color: 'text.secondary' }}>
                {said}
              </Typography>
            </Box>
          </Popover>
        </>
      )}
      <Button
        variant="outlined"
        sx={{ flex: 'none' }}
        onClick={() => {
          document.edit(
            insertDeclaration(now().tree, ['dial', 'switch'], `dial ${freeName(program, 'amount')} = 0.5 in 0..1`),
          );
        }}
      >
        + Dial
      </Button>
    </>
  );
}
