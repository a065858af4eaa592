import type { FlowDrawing, FlowStroke } from '@estela/core';
import { Box, Button, MenuItem, Select, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import { useRef, useState, type KeyboardEvent, type ReactElement } from 'react';
import type { Source } from '../api/client.ts';
import { arrowStep } from '../ui/arrow-keys.ts';
import { tokens } from '../ui/tokens.ts';
import { partsOn, useDrag, type DragPoint } from '../ui/use-drag.ts';
import { pixels } from '../workers/pixels.ts';
import { textures } from '../workers/textures.ts';
import { MapActions } from './MapActions.tsx';
import { PreviewStage } from './PreviewStage.tsx';
import { Section } from './Section.tsx';
import { SliderRow } from './SliderRow.tsx';
import { supplyOf } from '../project/supply.ts';
import { usesOf } from '../project/usage.ts';
import { useDrawing } from './use-drawing.ts';
import type { ProjectSources } from '../project/use-project.ts';

type Shown = 'drift' | 'map';
/** A material in which a picture, or small stripes where none is chosen, drifts along the map. */
const previewText = (picture: string, shown: Shown): string =>
  shown === 'map'
    ? 'image flow = "preview" repeat linear data\nout color = (uv |> sample(flow)).xyz'
    : [
        'loop 4s at 30fps',
        'image flow = "preview" repeat linear data',
        `image picture = "${picture}"`,
        'map = uv |> sample(flow)',
        'out color = uv |> stream(picture, map.xy, 2 laps, 0.12)',
      ].join('\n');

/** Paints a flow map: strokes that drift the way they are drawn, over a picture that follows them. */
export function FlowEditor({
  source,
  drawing: stored,
  shown,
}: {
  readonly source: Source;
  readonly drawing: FlowDrawing;
  readonly shown: ProjectSources;
}): ReactElement {
  const { store, sources } = shown;
  const editor = useDrawing(store, source, stored, {
    texture: (drawing) => textures().flow(drawing),
    file: (drawing) => pixels('sources').flow(drawing),
    recipe: (drawing) => ({ kind: 'flow', drawing }),
    others: supplyOf(() => store.getState().sources),
  });
  const { drawing, latest, show, keep } = editor;
  const pictures = sources.filter((s) => s.recipe?.kind !== 'path' && s.recipe?.kind !== 'flow');
  const [picture, setPicture] = useState<string>();
  const [view, setView] = useState<Shown>('drift');
  const [radius, setRadius] = useState(0.12);
  const [strength, setStrength] = useState(0.8);
  const [erasing, setErasing] = useState(false);
  const square = useRef<SVGSVGElement>(null);
  const { strokes, smooth, size } = drawing;
  const readAsColor = (name: string): boolean =>
    usesOf(name, shown.materials).some((u) => u.image.encoding === 'color');
  const chosen =
    picture ?? (pictures.find((p) => p.width === p.height && readAsColor(p.name)) ?? pictures[0])?.name ?? '';

  const positionOf = (at: DragPoint): { x: number; y: number } => {
    const [x, y] = partsOn(square.current!, at).map((v) => Math.round(v * 1000) / 1000);
    return { x: x!, y: y! };
  };
  const withStroke = (added: FlowStroke): FlowDrawing => ({ ...latest(), strokes: [...latest().strokes, added] });
  const strokeWords = erasing ? 'erase drift' : 'paint a stroke';
  const paint = useDrag<{ stroke: FlowStroke }>({
    start: (at) => ({ stroke: { points: [positionOf(at)], radius, strength: erasing ? 0 : strength } }),
    move: (at, drawn) => {
      const { points } = drawn.stroke;
      const [now, last] = [positionOf(at), points.at(-1)!];
      if (Math.hypot(now.x - last.x, now.y - last.y) < 0.015) return;
      drawn.stroke = { ...drawn.stroke, points: [...points, now] };
      show(withStroke(drawn.stroke));
    },
    end: (_, { stroke }, cancelled) => {
      if (cancelled) show(undefined);
      else if (stroke.points.length > 1) keep(withStroke(stroke), strokeWords);
    },
  });

  /** The brush that keys move, and the stroke it draws while it is down. */
  const [brush, setBrush] = useState<{ readonly x: number; readonly y: number }>();
  const inked = useRef<FlowStroke>(undefined);
  const leave = (): void => {
    inked.current = undefined;
    show(undefined);
  };
  const keyed = (event: KeyboardEvent): void => {
    const at = brush ?? { x: 0.5, y: 0.5 };
    const by = arrowStep(event.key);
    const stroke = inked.current;
    if (by) {
      const to = (from: number, step: number): number =>
        Math.round(Math.min(Math.max(from + step * (event.shiftKey ? 0.1 : 0.02), 0), 1) * 1000) / 1000;
      const next = { x: to(at.x, by[0]), y: to(at.y, by[1]) };
      setBrush(next);
      if (stroke) {
        inked.current = { ...stroke, points: [...stroke.points, next] };
        show(withStroke(inked.current));
      }
    } else if (event.key === 'Enter' && stroke) {
      inked.current = undefined;
      if (stroke.points.length > 1) keep(withStroke(stroke), strokeWords);
      else show(undefined);
    } else if (event.key === 'Enter') {
      setBrush(at);
      inked.current = { points: [at], radius, strength: erasing ? 0 : strength };
    } else if (event.key === 'Escape' && stroke) leave();
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
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
            text={previewText(chosen, view)}
            supply={editor.supply}
            version={editor.version}
            label="Preview of a picture drifting along the map"
          />
          <Box
            component="svg"
            ref={square}
            viewBox="0 0 1 1"
            role="application"
            aria-label="Strokes on the UV square"
            aria-description="Arrow keys move the brush, Enter starts and ends a stroke, Escape cancels it"
            tabIndex={0}
            onKeyDown={keyed}
            onFocus={(event) => {
              // The pointer needs no brush beside it.
              if (event.currentTarget.matches(':focus-visible')) setBrush({ x: 0.5, y: 0.5 });
            }}
            onBlur={() => {
              if (inked.current) leave();
              setBrush(undefined);
            }}
            {...paint()}
            sx={{
              position: 'absolute',
              inset: 0,
              width: '100%',
              height: '100%',
              cursor: 'crosshair',
              touchAction: 'none',
              outline: `1px solid ${tokens.line}`,
            }}
          >
            {brush && (
              <circle
                cx={brush.x}
                cy={brush.y}
                r={radius}
                fill="none"
                stroke={tokens.bone}
                vectorEffect="non-scaling-stroke"
                pointerEvents="none"
              />
            )}
            {strokes.map(({ points, strength: s }, i) => {
              const [last, before] = [points.at(-1), points.at(-2)];
              const angle = last && before ? (Math.atan2(last.y - before.y, last.x - before.x) * 180) / Math.PI : 0;
              return (
                <g
                  key={i}
                  stroke={s === 0 ? tokens.dim : tokens.amber}
                  fill="none"
                  strokeOpacity={0.9}
                  pointerEvents="none"
                >
                  <polyline
                    points={points.map((p) => `${String(p.x)},${String(p.y)}`).join(' ')}
                    strokeWidth={1.5}
                    strokeDasharray={s === 0 ? '4 4' : undefined}
                    vectorEffect="non-scaling-stroke"
                  />
                  {last && s > 0 && (
                    <path
                      d="M-0.018 -0.012 L0 0 L-0.018 0.012"
                      transform={`translate(${String(last.x)} ${String(last.y)}) rotate(${String(angle)})`}
                      strokeWidth={1.5}
                      vectorEffect="non-scaling-stroke"
                    />
                  )}
                </g>
              );
            })}
          </Box>
        </Box>
      </Box>
      <Box sx={{ width: 340, flex: 'none', overflow: 'auto', borderLeft: 1, borderColor: 'divider' }}>
        <Section title="Brush">
          <Typography sx={{ color: 'text.secondary', mb: 1 }}>
            Drag over the square: the picture drifts in the direction you draw. Strokes wrap around the edges, so the
            map tiles. Keys: arrows move the brush, Enter starts and ends a stroke.
          </Typography>
          <ToggleButtonGroup
            exclusive
            value={erasing}
            aria-label="Brush"
            onChange={(_, next: boolean | null) => {
              if (next !== null) setErasing(next);
            }}
          >
            <ToggleButton value={false}>Drift</ToggleButton>
            <ToggleButton value>Still</ToggleButton>
          </ToggleButtonGroup>
          {(
            [
              ['Radius', radius, setRadius, 0.02, 0.5],
              ['Strength', strength, setStrength, 0.05, 1],
            ] as const
          ).map(([label, value, set, low, high]) => (
            <SliderRow
              key={label}
              label={label}
              digits={2}
              min={low}
              max={high}
              step={0.01}
              value={value}
              disabled={label === 'Strength' && erasing}
              onChange={(_, next) => {
                set(next);
              }}
            />
          ))}
          <SliderRow
            label="Smoothing"
            digits={2}
            min={0}
            max={0.2}
            step={0.005}
            value={smooth}
            onChange={(_, next) => {
              show({ ...drawing, smooth: next });
            }}
            onChangeCommitted={(_, next) => {
              keep({ ...drawing, smooth: next }, 'smooth the map');
            }}
          />
          <Button
            disabled={strokes.length === 0}
            onClick={() => {
              keep({ ...drawing, strokes: strokes.slice(0, -1) }, 'remove the last stroke');
            }}
          >
            Remove the last stroke
          </Button>
          <Button
            disabled={strokes.length === 0}
            onClick={() => {
              keep({ ...drawing, strokes: [] }, 'remove all strokes');
            }}
          >
            Remove all
          </Button>
        </Section>
        <Section title="Preview">
          <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
            <Select
              variant="outlined"
              value={chosen}
              displayEmpty
              onChange={(event) => {
                setPicture(event.target.value);
              }}
              inputProps={{ 'aria-label': 'Picture' }}
              sx={{ width: 170 }}
            >
              {chosen === '' && <MenuItem value="">a test grid</MenuItem>}
              {pictures.map((p) => (
                <MenuItem key={p.id} value={p.name}>
                  {p.name}
                </MenuItem>
              ))}
            </Select>
            <ToggleButtonGroup
              exclusive
              value={view}
              aria-label="Shown"
              onChange={(_, next: Shown | null) => {
                if (next) setView(next);
              }}
            >
              <ToggleButton value="drift">Drift</ToggleButton>
              <ToggleButton value="map">Map</ToggleButton>
            </ToggleButtonGroup>
          </Box>
        </Section>
        <MapActions
          source={source}
          shown={shown}
          editor={editor}
          size={size}
          setSize={(next) => {
            keep({ ...drawing, size: next }, 'change the size');
          }}
          channels="Red is the drift to the right, green upwards, 0.5 where it is still; blue how strong. 16 bits."
          lines={[
            `image flow = "${source.name}" repeat linear data`,
            'drift = uv |> sample(flow)',
            'film = uv |> stream(picture, drift.xy, 2 laps, 0.15)',
          ]}
        />
      </Box>
    </Box>
  );
}
