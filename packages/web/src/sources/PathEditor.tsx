import { flattenPath, type PathDrawing, type PathPoint, lapsText } from '@estela/core';
import { Box, Button, Checkbox, FormControlLabel, MenuItem, Select, TextField, Typography } from '@mui/material';
import { useRef, useState, type KeyboardEvent, type PointerEvent, type ReactElement } from 'react';
import type { Source } from '../api/client.ts';
import { tokens } from '../ui/tokens.ts';
import { pixels } from '../workers/pixels.ts';
import { textures } from '../workers/textures.ts';
import { MapActions } from './MapActions.tsx';
import { PreviewStage } from './PreviewStage.tsx';
import { Section } from './Section.tsx';
import { SliderRow } from './SliderRow.tsx';
import { partsOn, useDrag, type DragPoint } from '../ui/use-drag.ts';
import { useDrawing } from './use-drawing.ts';
import type { ProjectSources } from '../project/use-project.ts';

const PATTERNS = {
  arrows: { label: 'Arrows', ink: 'run.x * REPEATS + abs(run.y - 0.5) * 0.9 |> fract() |> rise(0.4, 0.5)' },
  lamps: { label: 'Lamps', ink: 'run |> tile(REPEATS, 1) |> fract() |> disc(0.3, soft: 0.2)' },
  checks: { label: 'Checks', ink: 'run |> tile(REPEATS, 2) |> checker(1)' },
} as const;
type Pattern = keyof typeof PATTERNS;
/** What of a point is dragged. */
type Part = 'position' | 'width';

/** A material in which a pattern runs along the map. */
const previewText = (pattern: Pattern, repeats: number, laps: number): string =>
  [
    'loop 4s at 30fps',
    'image path_map = "preview" clamp linear data',
    'map = uv |> sample(path_map)',
    `run = map |> follow(${lapsText(laps)})`,
    `ink = ${PATTERNS[pattern].ink.replace('REPEATS', String(repeats))}`,
    'out color = mix(#1b1b1b.rgb, mix(#383838.rgb, #f2a93b.rgb, ink), map.z)',
  ].join('\n');

/** The nearest place on the curve: between which points, and how far away, in UV units. */
function nearestSpan(drawing: PathDrawing, x: number, y: number): { after: number; away: number } {
  const samples = flattenPath(drawing);
  const spans = drawing.closed && drawing.points.length > 2 ? drawing.points.length : drawing.points.length - 1;
  let best = { after: drawing.points.length - 1, away: Infinity };
  samples.forEach((s, i) => {
    const away = Math.hypot(s.x - x, s.y - y);
    if (away < best.away)
      best = { after: Math.min(Math.floor((i / Math.max(samples.length - 1, 1)) * spans), spans - 1), away };
  });
  return best;
}

/** Draws a path map: points on the UV square, a pattern running along it as they are dragged. */
export function PathEditor({
  source,
  drawing: stored,
  shown,
}: {
  readonly source: Source;
  readonly drawing: PathDrawing;
  readonly shown: ProjectSources;
}): ReactElement {
  const editor = useDrawing(shown.store, source, stored, {
    texture: (drawing) => textures().path(drawing),
    file: (drawing) => pixels('sources').path(drawing),
    recipe: (drawing) => ({ kind: 'path', drawing }),
  });
  const { drawing, show, keep } = editor;
  const [selected, setSelected] = useState<number>();
  const [pattern, setPattern] = useState<Pattern>('arrows');
  const [repeats, setRepeats] = useState(12);
  const [laps, setLaps] = useState(1);
  const square = useRef<SVGSVGElement>(null);
  const { points, closed, size } = drawing;
  const chosen = selected === undefined ? undefined : points[selected];

  const positionOf = (at: Pick<DragPoint, 'x' | 'y'>): { x: number; y: number } => {
    const [x, y] = partsOn(square.current!, at).map((v) => Math.round(Math.min(Math.max(v, 0), 1) * 1000) / 1000);
    return { x: x!, y: y! };
  };
  const withPoint = (index: number, change: Partial<PathPoint>): PathDrawing => ({
    ...drawing,
    points: points.map((p, i) => (i === index ? { ...p, ...change } : p)),
  });
  const dragged = (at: DragPoint, index: number, part: Part): PathDrawing => {
    const now = positionOf(at);
    const { x, y } = points[index]!;
    const width = Math.round(Math.min(Math.max(2 * Math.hypot(now.x - x, now.y - y), 0.01), 1) * 1000) / 1000;
    return withPoint(index, part === 'position' ? now : { width });
  };
  const drag = useDrag<{ readonly title: string; next?: PathDrawing }, [index: number, part: Part]>({
    start: ({ event }, index, part) => {
      event.stopPropagation();
      setSelected(index);
      return { title: part === 'width' ? 'change the width' : 'move a point' };
    },
    move: (at, kept, index, part) => {
      if (!points[index]) return;
      kept.next = dragged(at, index, part);
      show(kept.next);
    },
    end: (_, { title, next }, cancelled) => {
      if (next && !cancelled && JSON.stringify(next) !== JSON.stringify(editor.latest())) keep(next, title);
      else show(undefined);
    },
  });
  const remove = (index: number): void => {
    if (points.length <= 2) return;
    keep({ ...drawing, points: points.filter((_, i) => i !== index) }, 'remove a point');
    setSelected(undefined);
  };
  const keyed = (event: KeyboardEvent): void => {
    if (selected === undefined || !chosen) return;
    const by = event.shiftKey ? 0.05 : 0.005;
    const moves: Record<string, Partial<PathPoint>> = {
      ArrowLeft: { x: chosen.x - by },
      ArrowRight: { x: chosen.x + by },
      ArrowUp: { y: chosen.y - by },
      ArrowDown: { y: chosen.y + by },
    };
    const move = moves[event.key];
    if (move) {
      event.preventDefault();
      keep(withPoint(selected, move), 'move a point');
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault();
      remove(selected);
    }
  };
  const pressed = (event: PointerEvent): void => {
    if (event.target !== square.current && !(event.target as Element).classList.contains('path-line')) return;
    const at = positionOf({ x: event.clientX, y: event.clientY });
    const { after, away } = nearestSpan(drawing, at.x, at.y);
    const width = points[after]?.width ?? 0.15;
    // On the line a point goes between its neighbours, elsewhere behind the last.
    const index = away < 0.02 ? after + 1 : points.length;
    keep({ ...drawing, points: [...points.slice(0, index), { ...at, width }, ...points.slice(index)] }, 'add a point');
    setSelected(index);
  };

  const samples = flattenPath(drawing);
  const line = samples.map((s) => `${String(s.x)},${String(s.y)}`).join(' ');
  const edges = [1, -1].map((side) =>
    samples
      .map((s, i) => {
        const [a, b] = [samples[Math.max(i - 1, 0)]!, samples[Math.min(i + 1, samples.length - 1)]!];
        const length = Math.hypot(b.x - a.x, b.y - a.y) || 1;
        return `${String(s.x - (side * (b.y - a.y) * s.width) / 2 / length)},${String(s.y + (side * (b.x - a.x) * s.width) / 2 / length)}`;
      })
      .join(' '),
  );
  const number = (label: string, key: keyof PathPoint): ReactElement => (
    <TextField
      key={`${String(selected)} ${label} ${String(chosen?.[key] ?? '')}`}
      label={label}
      defaultValue={chosen ? String(Number(chosen[key].toFixed(3))) : ''}
      disabled={!chosen}
      onBlur={(event) => {
        const value = Number(event.target.value);
        if (selected !== undefined && chosen && Number.isFinite(value) && Math.abs(value - chosen[key]) > 1e-6)
          keep(
            withPoint(selected, { [key]: Math.min(Math.max(value, key === 'width' ? 0.001 : -1), 2) }),
            `set the ${label.toLowerCase()} of a point`,
          );
      }}
      slotProps={{ htmlInput: { inputMode: 'decimal' }, inputLabel: { shrink: true } }}
      sx={{ width: 88 }}
    />
  );

  return (
    <Box component="main" sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
      <Box
        sx={{
          flex: 1,
          minWidth: 0,
          display: 'grid',
          placeItems: 'center',
          p: 2,
          bgcolor: tokens.pit,
          containerType: 'size',
        }}
      >
        <Box sx={{ position: 'relative', width: 'min(100cqw, 100cqh)', aspectRatio: '1' }}>
          <PreviewStage
            text={previewText(pattern, repeats, laps)}
            supply={editor.supply}
            version={editor.version}
            label="Preview of a pattern moving along the path"
          />
          <Box
            component="svg"
            ref={square}
            viewBox="0 0 1 1"
            role="application"
            aria-label="The path on the UV square"
            onPointerDown={pressed}
            sx={{
              position: 'absolute',
              inset: 0,
              width: '100%',
              height: '100%',
              cursor: 'crosshair',
              touchAction: 'none',
              overflow: 'visible',
              outline: `1px solid ${tokens.line}`,
            }}
          >
            {edges.map((edge, i) => (
              <polyline
                key={i}
                points={edge}
                fill="none"
                stroke={tokens.bone}
                strokeOpacity={0.5}
                strokeWidth={1}
                vectorEffect="non-scaling-stroke"
                pointerEvents="none"
              />
            ))}
            <polyline
              className="path-line"
              points={line}
              fill="none"
              stroke="transparent"
              strokeWidth={12}
              vectorEffect="non-scaling-stroke"
            />
            <polyline
              points={line}
              fill="none"
              stroke={tokens.bone}
              strokeWidth={1.5}
              vectorEffect="non-scaling-stroke"
              pointerEvents="none"
            />
            {points.map((p, i) => (
              <g key={i}>
                {i === selected && (
                  <rect
                    x={p.x + p.width / 2 - 0.009}
                    y={p.y - 0.009}
                    width={0.018}
                    height={0.018}
                    fill={tokens.bone}
                    stroke={tokens.pit}
                    strokeWidth={1}
                    vectorEffect="non-scaling-stroke"
                    style={{ cursor: 'ew-resize' }}
                    role="button"
                    aria-label="Width of the point"
                    {...drag(i, 'width')}
                  />
                )}
                <circle
                  cx={p.x}
                  cy={p.y}
                  r={i === selected ? 0.014 : 0.011}
                  fill={i === selected ? tokens.bone : tokens.pit}
                  stroke={i === 0 ? tokens.amber : tokens.bone}
                  strokeWidth={2}
                  vectorEffect="non-scaling-stroke"
                  tabIndex={0}
                  role="button"
                  aria-label={`Point ${String(i + 1)} of ${String(points.length)}`}
                  style={{ cursor: 'grab', outline: 'none' }}
                  onFocus={() => {
                    setSelected(i);
                  }}
                  onKeyDown={keyed}
                  {...drag(i, 'position')}
                  onDoubleClick={(event) => {
                    event.stopPropagation();
                    remove(i);
                  }}
                />
              </g>
            ))}
          </Box>
        </Box>
      </Box>
      <Box sx={{ width: 340, flex: 'none', overflow: 'auto', borderLeft: 1, borderColor: 'divider' }}>
        <Section title="Path">
          <Typography sx={{ color: 'text.secondary', mb: 1 }}>
            Click to add a point, on the line to put one between. Drag points; drag the small square for the width.
            Double-click or Delete removes one. The first is amber.
          </Typography>
          <FormControlLabel
            control={
              <Checkbox
                size="small"
                checked={closed}
                onChange={(_, on) => {
                  keep({ ...drawing, closed: on }, on ? 'close the path' : 'open the path');
                }}
              />
            }
            label="Closed"
          />
          <Button
            onClick={() => {
              keep({ ...drawing, points: [...points].reverse() }, 'reverse the path');
            }}
          >
            Reverse
          </Button>
          <Box sx={{ display: 'flex', gap: 1, my: 1 }}>
            {number('Across', 'x')}
            {number('Down', 'y')}
            {number('Width', 'width')}
          </Box>
          <Button
            disabled={!chosen || points.length <= 2}
            onClick={() => {
              if (selected !== undefined) remove(selected);
            }}
          >
            Remove the point
          </Button>
        </Section>
        <Section title="Preview">
          <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: 0.5 }}>
            <Select
              variant="outlined"
              value={pattern}
              onChange={(event) => {
                setPattern(event.target.value);
              }}
              inputProps={{ 'aria-label': 'Pattern' }}
              sx={{ width: 110 }}
            >
              {(Object.keys(PATTERNS) as Pattern[]).map((key) => (
                <MenuItem key={key} value={key}>
                  {PATTERNS[key].label}
                </MenuItem>
              ))}
            </Select>
            <Typography sx={{ color: 'text.secondary' }}>preview only, not saved</Typography>
          </Box>
          {(
            [
              ['Repeats', repeats, setRepeats, 1, 40],
              ['Laps', laps, setLaps, -3, 3],
            ] as const
          ).map(([label, value, set, low, high]) => (
            <SliderRow
              key={label}
              label={label}
              digits={0}
              color={label === 'Laps' ? 'secondary' : 'primary'}
              min={low}
              max={high}
              step={1}
              value={value}
              onChange={(_, next) => {
                set(next);
              }}
            />
          ))}
        </Section>
        <MapActions
          source={source}
          shown={shown}
          editor={editor}
          size={size}
          setSize={(next) => {
            keep({ ...drawing, size: next }, 'change the size');
          }}
          channels="Red is the distance along the path, 0 to 1 by arc length; green the position across it; blue where the path is. 16 bits."
          lines={[
            `image path_map = "${source.name}" ${closed ? 'repeat' : 'clamp'} linear data`,
            'path = uv |> sample(path_map)',
            'run = path |> follow(1 lap) |> tile(8, 1)',
          ]}
        />
      </Box>
    </Box>
  );
}
