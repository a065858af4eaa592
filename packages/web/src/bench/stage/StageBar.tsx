import { Box, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import { lazy, Suspense, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { useSession } from '../session.ts';
import { stepRefOf } from '../../material/step-ref.ts';
import { lensesOf, partsOfView, type StageAddress, type StageLens } from '../../viewport/lens.ts';
import { aloneIn, selectedIn } from '../selection.ts';

/** Width of the menu of meshes, in pixels. */
const MESH_WIDTH = 150;

const MeshSelect = lazy(async () => ({ default: (await import('./MeshSelect.tsx')).MeshSelect }));
const SceneMenu = lazy(async () => ({ default: (await import('./SceneMenu.tsx')).SceneMenu }));

/** Over the Stage: what it is looked at through, and what the material lies on. */
export function StageBar({
  address,
  drawn: [scale, milliseconds],
  started,
}: {
  readonly address: StageAddress;
  readonly drawn: readonly [scale: number, milliseconds: number | undefined];
  readonly started: boolean;
}): ReactElement {
  const { selection, document, debounced } = useSession();
  const program = useStore(debounced, (s) => s.derived.program);
  const alone = useStore(selection, (s) => aloneIn(program, s) !== undefined);
  const { view, lens, show } = address;
  const parts = partsOfView(view);
  const { kind } = parts;
  /** The selected step alone; the first one where none is selected. */
  const showStep = (): void => {
    const { program: now } = document.getState().derived;
    const step = stepRefOf(now, selectedIn(now, selection.getState()) ?? 0);
    selection.setState({ step, alone: step });
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
            selection.setState({ alone: undefined });
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
                  <ToggleButton key="step" value="step" title="The selected step alone">
                    Step
                  </ToggleButton>,
                ]
              : []),
          ],
        )}
      </ToggleButtonGroup>
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
      {/* As wide before it is there, so that nothing moves. */}
      <Box sx={{ width: MESH_WIDTH, flex: 'none', display: 'flex' }}>
        <Suspense>{started && <MeshSelect address={address} />}</Suspense>
      </Box>
      <Suspense>
        {started && view !== 'flat' && kind !== 'set' && (
          <SceneMenu {...(parts.kind === 'shape' ? { shape: parts.name } : {})} />
        )}
      </Suspense>
    </Box>
  );
}
