import { SHAPES, type ShapeName } from '@estela/core';
import { Button, Box, MenuItem, Select, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { useStore } from 'zustand';
import { tokens } from '../../app/tokens.ts';
import { useSession } from '../session.ts';
import { soloOf } from '../solo.ts';
import { FLAT_LENSES, type FlatLens, type StageAddress } from './lens.ts';
import { SceneMenu } from './SceneMenu.tsx';

/** Over the Stage: what it is looked at through, and what the material lies on. */
export function StageBar({ address, scale }: { readonly address: StageAddress; readonly scale: number }): ReactElement {
  const { panel, solo, chosen, document } = useSession();
  const probing = useStore(panel, (s) => s.open?.kind === 'probe');
  const alone = useStore(solo, (s) => s.step !== undefined);
  const { view, lens, show } = address;
  /** The chosen step alone; the first one where none is chosen. */
  const showStep = (): void => {
    const { program } = document.getState().derived;
    const index = chosen.getState().step ?? 0;
    solo.setState({ step: soloOf(program, index) });
    chosen.setState({ step: index });
    show({ view });
  };
  return (
    <Box
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 0.5,
        height: 36,
        px: 0.5,
        flex: 'none',
        borderBottom: 1,
        borderColor: 'divider',
        '& .MuiToggleButton-root': { px: 1 },
      }}
    >
      <ToggleButtonGroup
        exclusive
        value={alone ? 'step' : lens}
        aria-label="Lens"
        onChange={(_, next: FlatLens | 'step' | null) => {
          if (next === 'step') showStep();
          else if (next) {
            solo.setState({ step: undefined });
            show(next === 'material' ? { view } : { lens: next });
          }
        }}
      >
        {(Object.keys(FLAT_LENSES) as FlatLens[]).flatMap((key) => [
          <ToggleButton key={key} value={key} title={FLAT_LENSES[key].title}>
            {FLAT_LENSES[key].label}
          </ToggleButton>,
          ...(key === 'material'
            ? [
                <ToggleButton key="step" value="step" title="The chosen step alone">
                  Step
                </ToggleButton>,
              ]
            : []),
        ])}
      </ToggleButtonGroup>
      <Button
        aria-pressed={probing}
        title="Read every step at a pixel"
        onClick={() => {
          panel.setState({ open: probing ? undefined : { kind: 'probe' } });
        }}
        sx={{ color: probing ? 'text.primary' : 'text.secondary', bgcolor: probing ? tokens.raise : 'transparent', px: 1, minWidth: 0 }}
      >
        Probe
      </Button>
      <Typography noWrap title="The picture is drawn coarser, to keep up" sx={{ ml: 'auto', color: 'text.secondary', fontSize: 12 }}>
        {scale < 1 && `drawn at ${String(Math.round(scale * 100))}%`}
      </Typography>
      <ToggleButton
        value="flat"
        selected={view === 'flat'}
        title="The UV square"
        onChange={() => {
          show({ lens });
        }}
      >
        Flat
      </ToggleButton>
      <Select
        value={view === 'flat' ? '' : view}
        displayEmpty
        renderValue={() => (view === 'flat' ? 'On a mesh' : SHAPES[view].label)}
        onChange={(event) => {
          show({ view: event.target.value });
        }}
        inputProps={{ 'aria-label': 'Mesh' }}
        sx={{
          height: 28,
          flex: 'none',
          fontSize: 13,
          color: view === 'flat' ? 'text.secondary' : 'text.primary',
          bgcolor: view === 'flat' ? 'transparent' : tokens.raise,
          '& .MuiSelect-select': { pl: 1, py: 0 },
        }}
      >
        {(Object.keys(SHAPES) as ShapeName[]).map((key) => (
          <MenuItem key={key} value={key}>
            {SHAPES[key].label}
            <Box component="span" sx={{ ml: 1.5, color: 'text.secondary' }}>
              {SHAPES[key].about}
            </Box>
          </MenuItem>
        ))}
      </Select>
      {view !== 'flat' && <SceneMenu shape={view} />}
    </Box>
  );
}
