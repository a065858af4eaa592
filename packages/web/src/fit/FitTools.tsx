import {
  islandsIn,
  mirrorUvs,
  normaliseUvs,
  rotateUvs,
  type Axis,
  type Bounds,
  type LayoutAxis,
  type Refit,
  type UvMap,
} from '@estela/core';
import { Box, Button, MenuItem, Select, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import { useMemo, useState, type ReactElement, type ReactNode } from 'react';
import { useStore } from 'zustand';
import { mapping, type Fit } from './fit-store.ts';
import type { Unit } from './selecting.ts';

const AXES: Record<LayoutAxis, string> = { faces: 'by normals', x: 'about x', y: 'about y', z: 'about z' };

const many = (count: number, one: string): string => `${count.toLocaleString('en')} ${count === 1 ? one : `${one}s`}`;

/** How much is selected, in words. */
function useSelected(fit: Fit): string {
  const { mesh, islands, selected } = useStore(fit.kept, (s) => s.value);
  const unit = useStore(fit.selecting.unit);
  return useMemo(() => {
    if (unit === 'islands')
      return `${String(islandsIn(mesh, islands, selected).some.size)} of ${many(islands.count, 'island')}`;
    return many(
      selected.reduce((sum, mark) => sum + mark, 0),
      'triangle',
    );
  }, [mesh, islands, selected, unit]);
}

/** Selecting, and what can be done to the selection. */
export function FitTools({ fit }: { readonly fit: Fit }): ReactElement {
  const { selecting } = fit;
  const unit = useStore(selecting.unit);
  const selected = useSelected(fit);
  const [axis, setAxis] = useState<LayoutAxis>('faces');
  const [along, setAlong] = useState<Axis>('u');
  /** A map of the selection within its own bounds. */
  const map = (title: string, of: (bounds: Bounds) => UvMap) => () => {
    fit.change(title, mapping(of));
  };
  const act = (title: string, how: Refit) => () => {
    void fit.refit(title, how);
  };
  return (
    <Box
      sx={{
        flex: 'none',
        borderBottom: 1,
        borderColor: 'divider',
        px: 1,
        py: 0.5,
        '& .MuiButton-root': { px: 1, minWidth: 0 },
      }}
    >
      <Row label={selected}>
        <ToggleButtonGroup
          exclusive
          value={unit}
          aria-label="Select by"
          sx={{ mr: 0.5 }}
          onChange={(_, next: Unit | null) => {
            if (next) selecting.setUnit(next);
          }}
        >
          <ToggleButton value="islands" title="A click selects an island (f)">
            Islands
          </ToggleButton>
          <ToggleButton value="faces" title="A click selects a face, a drag those in a box (f)">
            Faces
          </ToggleButton>
        </ToggleButtonGroup>
        <Tool title="Everything (a)" onClick={selecting.all}>
          Select all
        </Tool>
        <Tool
          title="The loop of quads through the selection; two faces side by side give its direction (l)"
          onClick={() => void selecting.loop()}
        >
          Select loop
        </Tool>
        <Tool
          title="Everything connected to the selection on the mesh, across UV seams (c)"
          onClick={() => void selecting.connected()}
        >
          Select connected
        </Tool>
      </Row>
      <Row label="Transform">
        <Tool title="90 degrees counter-clockwise" onClick={map('rotate by 90', (b) => rotateUvs(b, 90))}>
          Rotate left
        </Tool>
        <Tool title="90 degrees clockwise" onClick={map('rotate by -90', (b) => rotateUvs(b, -90))}>
          Rotate right
        </Tool>
        <Tool title="Left becomes right" onClick={map('mirror u', (b) => mirrorUvs(b, 'u'))}>
          Mirror u
        </Tool>
        <Tool title="Top becomes bottom" onClick={map('mirror v', (b) => mirrorUvs(b, 'v'))}>
          Mirror v
        </Tool>
        <Tool title="Fill 0-1 along u and v separately" onClick={map('stretch to 0-1', (b) => normaliseUvs(b, false))}>
          Stretch to 0-1
        </Tool>
        <Tool title="Fill 0-1, keep proportions" onClick={map('fit to 0-1', (b) => normaliseUvs(b, true))}>
          Fit to 0-1
        </Tool>
      </Row>
      <Row label="Re-project">
        <Pick label="Axis" value={axis} options={AXES} set={setAxis} />
        <Tool title="Project along the axis, keep proportions" onClick={act('planar', { do: 'planar', about: axis })}>
          Planar
        </Tool>
        <Tool title="u around the axis, v along it" onClick={act('cylindrical', { do: 'cylindrical', about: axis })}>
          Cylindrical
        </Tool>
        <Tool
          title="For a disc or cone: u around its centre, v outward"
          onClick={act('unroll', { do: 'unroll', about: axis })}
        >
          Unroll
        </Tool>
        <Box sx={{ width: '1px', height: 18, bgcolor: 'divider', mx: 0.5 }} />
        <Tool
          title="Lays a strip of quads evenly along the 0-1 square, whatever its UV islands"
          onClick={act(`straighten along ${along}`, { do: 'straighten', along })}
        >
          Straighten
        </Tool>
        <Pick label="Along" value={along} options={{ u: 'along u', v: 'along v' }} set={setAlong} />
      </Row>
      <Row label="Seams">
        <Tool
          title="Makes the selected faces an island of their own"
          onClick={act('separate faces', { do: 'separate' })}
        >
          Separate faces
        </Tool>
        <Tool
          title="Moves the selected islands together along the edges that they share on the mesh"
          onClick={act('join edges', { do: 'join' })}
        >
          Join edges
        </Tool>
      </Row>
    </Box>
  );
}

function Row({ label, children }: { readonly label: string; readonly children: ReactNode }): ReactElement {
  return (
    <Box
      role="group"
      aria-label={label}
      sx={{ display: 'flex', alignItems: 'center', flexWrap: 'wrap', columnGap: 0.25, minHeight: 32 }}
    >
      <Typography sx={{ color: 'text.secondary', width: 92, flex: 'none' }}>{label}</Typography>
      {children}
    </Box>
  );
}

function Tool({
  title,
  onClick,
  children,
}: {
  readonly title: string;
  readonly onClick: () => void;
  readonly children: ReactNode;
}): ReactElement {
  return (
    <Button title={title} onClick={onClick}>
      {children}
    </Button>
  );
}

function Pick<T extends string>({
  label,
  value,
  options,
  set,
}: {
  readonly label: string;
  readonly value: T;
  readonly options: Record<T, string>;
  readonly set: (next: T) => void;
}): ReactElement {
  return (
    <Select
      value={value}
      onChange={(event) => {
        set(event.target.value as T);
      }}
      inputProps={{ 'aria-label': label }}
      sx={{ height: 26, fontSize: 13, '& .MuiSelect-select': { pl: 1, py: 0 } }}
    >
      {(Object.keys(options) as T[]).map((key) => (
        <MenuItem key={key} value={key}>
          {options[key]}
        </MenuItem>
      ))}
    </Select>
  );
}
