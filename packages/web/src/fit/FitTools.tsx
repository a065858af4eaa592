import {
  mirrorUvs,
  normaliseUvs,
  rotateUvs,
  type Axis,
  type Bounds,
  type LayoutAxis,
  type Refit,
  type UvMap,
} from '@estela/core';
import { Box, Button, MenuItem, Select, Typography } from '@mui/material';
import { useState, type ReactElement, type ReactNode } from 'react';
import { useStore } from 'zustand';
import { mapping, type Fit } from './fit-store.ts';

const AXES: Record<LayoutAxis, string> = { faces: 'as they face', x: 'about x', y: 'about y', z: 'about z' };

/** What can be done to the chosen islands. */
export function FitTools({ fit }: { readonly fit: Fit }): ReactElement {
  const { islands, chosen } = useStore(fit.kept, (s) => s.value);
  const [axis, setAxis] = useState<LayoutAxis>('faces');
  const [along, setAlong] = useState<Axis>('u');
  /** A map of what is chosen within its own bounds. */
  const map = (title: string, of: (bounds: Bounds) => UvMap) => () => {
    fit.change(title, mapping(of));
  };
  const lay = (title: string, how: Refit) => () => {
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
      <Row label={`${String(chosen.size)} of ${islands.count === 1 ? '1 island' : `${String(islands.count)} islands`}`}>
        <Button onClick={fit.chooseAll}>Choose all</Button>
        <Tool title="A quarter turn against the clock" onClick={map('turn by 90', (b) => rotateUvs(b, 90))}>
          Turn left
        </Tool>
        <Tool title="A quarter turn with the clock" onClick={map('turn by -90', (b) => rotateUvs(b, -90))}>
          Turn right
        </Tool>
        <Tool title="Left becomes right" onClick={map('mirror along u', (b) => mirrorUvs(b, 'u'))}>
          Mirror u
        </Tool>
        <Tool title="Top becomes bottom" onClick={map('mirror along v', (b) => mirrorUvs(b, 'v'))}>
          Mirror v
        </Tool>
        <Tool
          title="To 0..1 along u and along v, each by itself"
          onClick={map('fill the square', (b) => normaliseUvs(b, false))}
        >
          Fill square
        </Tool>
        <Tool title="Into 0..1, in its proportions" onClick={map('fit into the square', (b) => normaliseUvs(b, true))}>
          Into square
        </Tool>
      </Row>
      <Row label="Lay anew">
        <Pick label="Axis" value={axis} options={AXES} set={setAxis} />
        <Tool
          title="Flat, as seen along the axis, in its proportions"
          onClick={lay('lay planar', { do: 'planar', about: axis })}
        >
          Planar
        </Tool>
        <Tool
          title="u around the axis, v along it"
          onClick={lay('lay cylindrical', { do: 'cylindrical', about: axis })}
        >
          Cylindrical
        </Tool>
        <Tool
          title="A disc or a cone: u around its middle, v outward"
          onClick={lay('unroll', { do: 'unroll', about: axis })}
        >
          Unroll
        </Tool>
        <Box sx={{ width: '1px', height: 18, bgcolor: 'divider', mx: 0.5 }} />
        <Tool
          title="A strip of quads on the whole square, evenly along its length"
          onClick={lay(`straighten along ${along}`, { do: 'straighten', along })}
        >
          Straighten
        </Tool>
        <Pick label="Along" value={along} options={{ u: 'along u', v: 'along v' }} set={setAlong} />
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
