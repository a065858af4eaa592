import { SHAPES, SUBDIVISION_LIMIT, type ShapeName } from '@estela/core';
import { Box, Button, Popover, Slider, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import { useState, type ReactElement, type ReactNode } from 'react';
import { useStore } from 'zustand';
import { faces } from '../../ui/tokens.ts';
import { BACKDROPS, type BackdropName } from '../../material/lighting.ts';
import { ENVIRONMENTS, type EnvironmentName } from '@estela/core';
import { useSession } from '../session.ts';

/** How the mesh is lit, what stands behind it, and how finely it is divided. */
export function SceneMenu({ shape }: { readonly shape?: ShapeName }): ReactElement {
  const { scene, debounced } = useSession();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const { environment, backdrop, exposure, subdivisions } = useStore(scene);
  const lit = useStore(debounced, (s) => s.look.program.surface.lit);
  return (
    <>
      <Button
        aria-haspopup="dialog"
        title="Light, backdrop and subdivisions"
        sx={{ px: 1, minWidth: 0 }}
        onClick={(event) => {
          setAnchor(event.currentTarget);
        }}
      >
        Light
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => {
          setAnchor(null);
        }}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        transformOrigin={{ vertical: 'top', horizontal: 'right' }}
        slotProps={{
          paper: {
            role: 'dialog',
            'aria-label': 'Light and backdrop',
            sx: {
              border: 1,
              borderColor: 'divider',
              bgcolor: 'background.paper',
              p: 1.5,
              width: 340,
              display: 'flex',
              flexDirection: 'column',
              gap: 1,
            },
          },
        }}
      >
        <Row label="Light">
          <ToggleButtonGroup
            exclusive
            value={environment}
            aria-label="Environment"
            onChange={(_, next: EnvironmentName | null) => {
              if (next) scene.setState({ environment: next });
            }}
          >
            {(Object.keys(ENVIRONMENTS) as EnvironmentName[]).map((name) => (
              <ToggleButton key={name} value={name}>
                {ENVIRONMENTS[name].label}
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
        </Row>
        <Row label="Behind">
          <ToggleButtonGroup
            exclusive
            value={backdrop}
            aria-label="Backdrop"
            onChange={(_, next: BackdropName | null) => {
              if (next) scene.setState({ backdrop: next });
            }}
          >
            {(Object.keys(BACKDROPS) as BackdropName[]).map((name) => (
              <ToggleButton key={name} value={name}>
                {BACKDROPS[name]}
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
        </Row>
        <Row label="Exposure" value={`${exposure > 0 ? '+' : ''}${exposure.toFixed(1)} stops`}>
          <Slider
            aria-label="Exposure"
            min={-4}
            max={4}
            step={0.1}
            value={exposure}
            onChange={(_, value) => {
              scene.setState({ exposure: value });
            }}
          />
        </Row>
        {shape && (
          <Row label="Subdivisions" value={String(subdivisions ?? SHAPES[shape].subdivisions)}>
            <Slider
              aria-label="Subdivisions"
              min={1}
              max={SUBDIVISION_LIMIT}
              step={1}
              value={subdivisions ?? SHAPES[shape].subdivisions}
              onChange={(_, value) => {
                scene.setState({ subdivisions: value });
              }}
            />
          </Row>
        )}
        <Typography sx={{ color: 'text.secondary' }}>
          {lit
            ? 'Tone mapping: Khronos PBR Neutral.'
            : 'An unlit material shows its own colours, whatever the light; with a backdrop they go through the tone mapper too.'}
        </Typography>
      </Popover>
    </>
  );
}

function Row({
  label,
  value,
  children,
}: {
  readonly label: string;
  readonly value?: string;
  readonly children: ReactNode;
}): ReactElement {
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '84px 1fr 76px', alignItems: 'center', columnGap: 1 }}>
      <Typography sx={{ color: 'text.secondary' }}>{label}</Typography>
      <Box sx={{ gridColumn: value === undefined ? '2 / 4' : '2' }}>{children}</Box>
      {value !== undefined && <Box sx={{ fontFamily: faces.figures, fontSize: 12, textAlign: 'right' }}>{value}</Box>}
    </Box>
  );
}
