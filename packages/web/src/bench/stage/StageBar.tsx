import { Button, Box, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { useStore } from 'zustand';
import { tokens } from '../../ui/tokens.ts';
import { useSession } from '../session.ts';
import { soloOf } from '../solo.ts';
import { lensesOf, partsOfView, type StageAddress, type StageLens } from '../../viewport/lens.ts';
import { MeshSelect } from './MeshSelect.tsx';
import { SceneMenu } from './SceneMenu.tsx';

/** Over the Stage: what it is looked at through, and what the material lies on. */
export function StageBar({
  address,
  drawn: [scale, milliseconds],
}: {
  readonly address: StageAddress;
  readonly drawn: readonly [scale: number, milliseconds: number | undefined];
}): ReactElement {
  const { panel, solo, chosen, document } = useSession();
  const probing = useStore(panel, (s) => s.open?.kind === 'probe');
  const alone = useStore(solo, (s) => s.step !== undefined);
  const { view, lens, show } = address;
  const parts = partsOfView(view);
  const { kind } = parts;
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
        onChange={(_, next: StageLens | 'step' | null) => {
          if (next === 'step') showStep();
          else if (next) {
            solo.setState({ step: undefined });
            show({ view, lens: next });
          }
        }}
      >
        {(Object.entries(lensesOf(view)) as [StageLens, { label: string; title: string }][]).flatMap(
          ([key, { label, title }]) => [
            <ToggleButton key={key} value={key} title={title}>
              {label}
            </ToggleButton>,
            ...(key === 'material' && kind !== 'set'
              ? [
                  <ToggleButton key="step" value="step" title="The chosen step alone">
                    Step
                  </ToggleButton>,
                ]
              : []),
          ],
        )}
      </ToggleButtonGroup>
      <Button
        aria-pressed={probing}
        title="Read every step at a pixel"
        onClick={() => {
          panel.setState({ open: probing ? undefined : { kind: 'probe' } });
        }}
        sx={{
          color: probing ? 'text.primary' : 'text.secondary',
          bgcolor: probing ? tokens.raise : 'transparent',
          px: 1,
          minWidth: 0,
        }}
      >
        Probe
      </Button>
      <Typography
        noWrap
        title={`Time of a frame${scale < 1 ? '; the picture is drawn coarser, to keep up' : ''}`}
        sx={{ ml: 'auto', color: 'text.secondary', fontSize: 12, fontVariantNumeric: 'tabular-nums' }}
      >
        {milliseconds !== undefined && `${milliseconds.toFixed(0)} ms`}
        {scale < 1 && ` at ${String(Math.round(scale * 100))}%`}
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
      <MeshSelect address={address} />
      {view !== 'flat' && kind !== 'set' && <SceneMenu {...(parts.kind === 'shape' ? { shape: parts.name } : {})} />}
    </Box>
  );
}
