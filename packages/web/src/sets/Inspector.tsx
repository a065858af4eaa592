import { check, COPY_LIMIT, parse, SHAPES, SUBDIVISION_LIMIT, type Copies, type Vector } from '@estela/core';
import {
  Box,
  Button,
  ListSubheader,
  MenuItem,
  Select,
  ToggleButton,
  ToggleButtonGroup,
  Typography,
} from '@mui/material';
import { useMemo, type ReactElement, type ReactNode } from 'react';
import type { Material, SetItem, StoredMesh } from '../api/client.ts';
import { NumberField } from '../ui/NumberField.tsx';
import { isShape, SHAPE_NAMES } from '../project/mesh-data.ts';
import { PlanCurve } from './PlanCurve.tsx';

const small = { height: 26, fontSize: 13, minWidth: 0, '& .MuiSelect-select': { pl: 1, py: 0 } } as const;

/**
 * All that can be set of one thing on a set. `change` takes a title for undo, and a group for what is changed little by
 * little.
 */
export function Inspector({
  item,
  meshes,
  materials,
  width,
  change,
}: {
  readonly item: SetItem;
  readonly meshes: readonly StoredMesh[];
  readonly materials: readonly Material[];
  /** How long the mesh is along its own x, in metres: the step of a row without gaps. */
  readonly width: number | undefined;
  readonly change: (title: string, next: Partial<SetItem>, group?: string) => void;
}): ReactElement {
  const material = materials.find((m) => m.id === item.material);
  const variants = useMemo(() => (material ? check(parse(material.text)).variants.map((v) => v.name) : []), [material]);
  const vector = (label: string, key: 'position' | 'turn', step: number): ReactElement => (
    <Row label={label}>
      {(['x', 'y', 'z'] as const).map((axis, k) => (
        <NumberField
          key={axis}
          value={item[key][k]!}
          label={`${label} ${axis}`}
          step={step}
          min={key === 'turn' ? -3600 : -1000}
          max={key === 'turn' ? 3600 : 1000}
          set={(value) => {
            change(
              key === 'turn' ? 'turn' : 'move',
              { [key]: item[key].map((v, i) => (i === k ? value : v)) as unknown as Vector },
              `${item.id} ${key} ${axis}`,
            );
          }}
        />
      ))}
    </Row>
  );
  return (
    <Box role="group" aria-label="Selected object" sx={{ p: 1, display: 'flex', flexDirection: 'column', gap: 0.5 }}>
      <Row label="Mesh">
        <Select
          value={item.mesh}
          disabled={item.overlay}
          onChange={(event) => {
            change('change mesh', { mesh: event.target.value, subdivisions: null });
          }}
          inputProps={{ 'aria-label': 'Mesh of the object' }}
          sx={{ ...small, flex: 1 }}
        >
          {SHAPE_NAMES.map((name) => (
            <MenuItem key={name} value={name}>
              {SHAPES[name].label}
            </MenuItem>
          ))}
          {meshes.length > 0 && <ListSubheader>Meshes of the project</ListSubheader>}
          {meshes.map((m) => (
            <MenuItem key={m.id} value={m.id}>
              {m.name}
            </MenuItem>
          ))}
          {!isShape(item.mesh) && !meshes.some((m) => m.id === item.mesh) && (
            <MenuItem value={item.mesh}>a deleted mesh</MenuItem>
          )}
        </Select>
        {isShape(item.mesh) && !item.overlay && (
          <NumberField
            value={item.subdivisions ?? SHAPES[item.mesh].subdivisions}
            label="Subdivisions"
            step={1}
            min={1}
            max={SUBDIVISION_LIMIT}
            width={52}
            set={(n) => {
              change('subdivide', { subdivisions: Math.round(n) }, `${item.id} quads`);
            }}
          />
        )}
      </Row>
      <Row label="Material">
        <Select
          value={material ? material.id : ''}
          displayEmpty
          renderValue={() => material?.title ?? (item.material === null ? 'none yet' : 'a deleted one')}
          onChange={(event) => {
            change('another material', {
              material: event.target.value === '' ? null : event.target.value,
              variant: null,
            });
          }}
          inputProps={{ 'aria-label': 'Material of the object' }}
          sx={{ ...small, flex: 1 }}
        >
          {materials.map((m) => (
            <MenuItem key={m.id} value={m.id}>
              {m.title}
            </MenuItem>
          ))}
        </Select>
        {variants.length > 0 && (
          <Select
            value={item.variant !== null && variants.includes(item.variant) ? item.variant : ''}
            displayEmpty
            renderValue={(v) => (v === '' ? 'Base' : v)}
            onChange={(event) => {
              change('another variant', { variant: event.target.value === '' ? null : event.target.value });
            }}
            inputProps={{ 'aria-label': 'Variant of the object' }}
            sx={small}
          >
            <MenuItem value="">Base</MenuItem>
            {variants.map((v) => (
              <MenuItem key={v} value={v}>
                {v}
              </MenuItem>
            ))}
          </Select>
        )}
      </Row>
      <Row label="Placement">
        <ToggleButtonGroup
          exclusive
          value={item.overlay}
          aria-label="Placement"
          onChange={(_, overlay: boolean | null) => {
            if (overlay !== null) change(overlay ? 'make it an overlay' : 'put it on its mesh', { overlay });
          }}
        >
          <ToggleButton value={false}>On mesh</ToggleButton>
          <ToggleButton value title="Drawn over the whole view">
            Full-screen overlay
          </ToggleButton>
        </ToggleButtonGroup>
      </Row>
      {!item.overlay && (
        <>
          {vector('Position', 'position', 0.1)}
          {vector('Rotation', 'turn', 15)}
          <Row label="Scale">
            <NumberField
              value={item.scale}
              label="Scale"
              min={0.001}
              max={1000}
              set={(scale) => {
                change('scale', { scale }, `${item.id} scale`);
              }}
            />
            <Typography sx={{ color: 'text.secondary', ml: 1 }}>Spin period</Typography>
            <NumberField
              value={item.turning}
              label="Seconds a turn takes; 0 for none"
              step={1}
              min={-3600}
              max={3600}
              width={52}
              set={(turning) => {
                change('turning', { turning }, `${item.id} turning`);
              }}
            />
            <Typography sx={{ color: 'text.secondary' }}>s</Typography>
          </Row>
          <CopiesRows item={item} width={width} change={change} />
        </>
      )}
    </Box>
  );
}

function CopiesRows({
  item,
  width,
  change,
}: {
  readonly item: SetItem;
  readonly width: number | undefined;
  readonly change: (title: string, next: Partial<SetItem>, group?: string) => void;
}): ReactElement {
  const { copies } = item;
  const set = (title: string, next: Copies | null, group?: string): void => {
    change(title, { copies: next }, group);
  };
  const start: Record<'row' | 'curve', Copies> = {
    row: { kind: 'row', count: copies?.count ?? 4, step: [width ?? 1, 0, 0] },
    curve: {
      kind: 'curve',
      count: copies?.count ?? 8,
      points: [
        [0, 0],
        [1.2, -0.2],
        [1.8, -1.2],
      ],
      closed: false,
    },
  };
  return (
    <>
      <Row label="Copies">
        <ToggleButtonGroup
          exclusive
          value={copies?.kind ?? 'one'}
          aria-label="Copies"
          onChange={(_, next: 'one' | 'row' | 'curve' | null) => {
            if (next === 'one') set('no copies', null);
            else if (next) set(next === 'row' ? 'copies in a row' : 'copies along a curve', start[next]);
          }}
        >
          <ToggleButton value="one">None</ToggleButton>
          <ToggleButton value="row">In a row</ToggleButton>
          <ToggleButton value="curve">Along a curve</ToggleButton>
        </ToggleButtonGroup>
      </Row>
      {copies && (
        <Row label="How many">
          <NumberField
            value={copies.count}
            label="How many"
            step={1}
            min={1}
            max={COPY_LIMIT}
            width={52}
            set={(count) => {
              set('number of copies', { ...copies, count: Math.round(count) }, `${item.id} count`);
            }}
          />
          <Typography sx={{ color: 'text.secondary', ml: 1 }}>Delay per copy</Typography>
          <NumberField
            value={item.delay}
            label="How much later each copy plays than the one before, in seconds"
            min={-60}
            max={60}
            width={52}
            set={(delay) => {
              change('delay of copies', { delay }, `${item.id} delay`);
            }}
          />
          <Typography sx={{ color: 'text.secondary' }}>s</Typography>
        </Row>
      )}
      {copies?.kind === 'row' && (
        <Row label="Step">
          {(['x', 'y', 'z'] as const).map((axis, k) => (
            <NumberField
              key={axis}
              value={copies.step[k]!}
              label={`Step ${axis}`}
              min={-1000}
              max={1000}
              width={56}
              set={(value) => {
                set(
                  'step of copies',
                  { ...copies, step: copies.step.map((v, i) => (i === k ? value : v)) as unknown as Vector },
                  `${item.id} step ${axis}`,
                );
              }}
            />
          ))}
          <Button
            title="Spaces copies by the length of the mesh, without gaps"
            disabled={width === undefined}
            onClick={() => {
              set('copies end to end', { ...copies, step: [width ?? 1, 0, 0] });
            }}
          >
            End to end
          </Button>
        </Row>
      )}
      {copies?.kind === 'curve' && (
        <PlanCurve
          curve={copies}
          change={(next, group) => {
            set('curve of copies', next, group);
          }}
          id={item.id}
        />
      )}
    </>
  );
}

function Row({ label, children }: { readonly label: string; readonly children: ReactNode }): ReactElement {
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5, minHeight: 30 }}>
      <Typography sx={{ color: 'text.secondary', width: 62, flex: 'none' }}>{label}</Typography>
      {children}
    </Box>
  );
}
