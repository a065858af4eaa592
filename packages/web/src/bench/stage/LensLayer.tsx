import { CLOSED_WITHIN, type Shift } from '@estela/core';
import { Box } from '@mui/material';
import { useRef, useState, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { faces, tokens } from '../../ui/tokens.ts';
import { material } from '../../workers/material.ts';
import { useDrawn } from '../../viewport/use-drawn.ts';
import { useSession } from '../session.ts';
import { InkScale, Legend } from '../../viewport/Legend.tsx';
import { edgeDifferences, heatOf } from '../../viewport/heat.ts';
import type { FlatLens } from '../../viewport/lens.ts';
import type { FlatView } from '../../gl/renderer.ts';
import { flatView } from '../../viewport/flat-view.ts';
import { useSize } from '../../ui/use-size.ts';
import { useSelectedIndex } from '../selection.ts';

/** What a lens puts over the flat Stage. */
export function LensLayer({ lens }: { readonly lens: Exclude<FlatLens, 'material'> }): ReactElement {
  const { area, size } = useSize<HTMLDivElement>();
  const view = flatView(size[0], size[1], lens === 'tiling' ? 3 : 1);
  return (
    <Box ref={area} sx={{ position: 'absolute', inset: 0, pointerEvents: 'none', overflow: 'hidden' }}>
      {size[0] > 0 && lens === 'tiling' && <Tiling view={view} />}
      {size[0] > 0 && (lens === 'seams' || lens === 'loop') && <Heat key={lens} view={view} lens={lens} />}
      {size[0] > 0 && lens === 'motion' && <Motion view={view} />}
    </Box>
  );
}

const frameOf = ({ x, y, size }: FlatView): object => ({
  position: 'absolute',
  left: x,
  top: y,
  width: size,
  height: size,
});

const WORDS = {
  always: 'proven at every setting',
  present: 'proven with these settings',
  open: 'fails',
  unproven: 'not proven',
} as const;

/** Outlines of the tile in the middle of nine, and the verdicts. */
function Tiling({ view }: { readonly view: FlatView }): ReactElement {
  const { checks: found } = useSession();
  const verdicts = useStore(found, (s) => s.report?.verdicts.whole.verdicts);
  const ink = (shift: Shift): string => (verdicts?.[shift] === 'open' ? tokens.coral : tokens.bone);
  const third = view.size / 3;
  const line = (key: string, x: number, y: number, along: 'x' | 'y', color: string): ReactElement => (
    <Box
      key={key}
      sx={{
        position: 'absolute',
        left: view.x + x,
        top: view.y + y,
        width: along === 'x' ? view.size : '1px',
        height: along === 'y' ? view.size : '1px',
        bgcolor: color,
        opacity: 0.9,
      }}
    />
  );
  return (
    <>
      {[1, 2].flatMap((i) => [
        line(`u${String(i)}`, third * i, 0, 'y', ink('tile_u')),
        line(`v${String(i)}`, 0, third * i, 'x', ink('tile_v')),
      ])}
      {verdicts && (
        <Legend>
          <span>
            Horizontal tiling:{' '}
            <Box component="span" sx={{ color: ink('tile_u') }}>
              {WORDS[verdicts.tile_u]}
            </Box>
            . Vertical:{' '}
            <Box component="span" sx={{ color: ink('tile_v') }}>
              {WORDS[verdicts.tile_v]}
            </Box>
            .
          </span>
        </Legend>
      )}
    </>
  );
}

/** Sides of the difference pictures: one at once, one that is finer. */
const QUICK = 64;
const FINE = 192;
const SHIFTS: Record<'seams' | 'loop', readonly Shift[]> = { seams: ['tile_u', 'tile_v'], loop: ['loop'] };

/**
 * How far the material differs from itself a tile, or a loop, on: light where it is the same, coral where it is not.
 */
function Heat({ view, lens }: { readonly view: FlatView; readonly lens: 'seams' | 'loop' }): ReactElement {
  const { drawable } = useSession();
  const canvas = useRef<HTMLCanvasElement>(null);
  const [most, setMost] = useState<number>();
  const [edges, setEdges] = useState<readonly number[]>([0, 0]);
  const draw = (values: Float32Array, size: number): void => {
    const element = canvas.current;
    if (!element) return;
    [element.width, element.height] = [size, size];
    element.getContext('2d')?.putImageData(new ImageData(heatOf(values), size, size), 0, 0);
    setMost(values.reduce((a, b) => Math.max(a, b), 0));
    setEdges(edgeDifferences(values, size));
  };
  useDrawn(
    drawable,
    async (subject) => {
      const ask = (size: number): Promise<Float32Array> => material('draw').difference(subject, SHIFTS[lens], 0, size);
      draw(await ask(QUICK), QUICK);
      return ask(FINE);
    },
    lens,
    (values) => {
      draw(values, FINE);
    },
  );
  const side = (v: number): string =>
    `${v > CLOSED_WITHIN ? '2px' : '1px'} solid ${v > CLOSED_WITHIN ? tokens.coral : tokens.bone}`;
  return (
    <>
      <Box
        component="canvas"
        ref={canvas}
        role="img"
        aria-label={lens === 'loop' ? 'Difference between the end of the loop and its start' : 'Tile-edge difference'}
        sx={{
          ...frameOf(view),
          imageRendering: 'pixelated',
          ...(lens === 'seams'
            ? {
                borderLeft: side(edges[0]!),
                borderRight: side(edges[0]!),
                borderTop: side(edges[1]!),
                borderBottom: side(edges[1]!),
                boxSizing: 'border-box',
              }
            : {}),
        }}
      />
      {most !== undefined && (
        <Legend>
          <InkScale inks={[tokens.pit, `${tokens.coral} 60%`, tokens.text]} />
          <span>
            {lens === 'loop' ? 'Loop-end difference' : 'Tile-edge difference'}, largest:{' '}
            <Box
              component="span"
              sx={{ fontFamily: faces.figures, color: most > CLOSED_WITHIN ? tokens.coral : 'text.primary' }}
            >
              {most > CLOSED_WITHIN ? most.toPrecision(2) : 'none'}
            </Box>
          </span>
        </Legend>
      )}
    </>
  );
}

const ARROWS = 12;

/** Arrows over the square, longer and stronger the faster. */
function Motion({ view }: { readonly view: FlatView }): ReactElement {
  const { debounced, clock, drawable } = useSession();
  const program = useStore(debounced, (s) => s.derived.program);
  const wanted = useSelectedIndex();
  const step = wanted ?? program.steps.findLastIndex((s) => s.kind === 'out' && s.name === 'color' && !s.off);
  // Fields change slowly; eight a loop are as good as all.
  const moment = useStore(clock, (s) => (Math.floor((s.time / s.seconds) * 8) / 8) * s.seconds);
  const [found, setFound] = useState<{ readonly field: Float32Array; readonly step: number }>();
  const [none, setNone] = useState(false);
  useDrawn(
    drawable,
    (subject) => material('draw').velocity(subject, Math.max(step, 0), moment, ARROWS),
    `${String(step)} ${String(moment)}`,
    (next) => {
      setNone(next === undefined);
      if (next) setFound(next);
    },
  );
  if (none || !found)
    return (
      <Legend>{none ? 'This step has no UVs to measure. Select one that has.' : 'Measuring the motion ...'}</Legend>
    );
  const speeds = Array.from({ length: ARROWS * ARROWS }, (_, i) =>
    Math.hypot(found.field[i * 2]!, found.field[i * 2 + 1]!),
  );
  const fastest = Math.max(1e-6, ...speeds.filter(Number.isFinite));
  const cell = view.size / ARROWS;
  const still = fastest < 1e-4;
  return (
    <>
      <svg
        style={{ position: 'absolute', left: view.x, top: view.y, overflow: 'visible' }}
        width={view.size}
        height={view.size}
        role="img"
        aria-label="Arrows of the motion"
      >
        {speeds.map((speed, i) => {
          const [x, y] = [((i % ARROWS) + 0.5) * cell, (Math.floor(i / ARROWS) + 0.5) * cell];
          if (!Number.isFinite(speed) || speed < fastest * 0.01 || still)
            return <circle key={i} cx={x} cy={y} r="1.5" fill={tokens.bone} />;
          const share = speed / fastest;
          const [dx, dy] = [
            (found.field[i * 2]! / speed) * cell * 0.44 * share,
            (found.field[i * 2 + 1]! / speed) * cell * 0.44 * share,
          ];
          const [hx, hy] = [x + dx, y + dy];
          const angle = Math.atan2(dy, dx);
          const barb = (by: number): string =>
            `${String(hx - Math.cos(angle + by) * 6)} ${String(hy - Math.sin(angle + by) * 6)}`;
          const d = `M${String(x - dx)} ${String(y - dy)}L${String(hx)} ${String(hy)}M${barb(0.5)}L${String(hx)} ${String(hy)}L${barb(-0.5)}`;
          return (
            <g key={i} fill="none" strokeLinecap="round">
              <path d={d} stroke={tokens.pit} strokeWidth="4" opacity="0.7" />
              <path d={d} stroke={tokens.amber} strokeWidth="1.75" opacity={0.35 + 0.65 * share} />
            </g>
          );
        })}
      </svg>
      <Legend>
        <span>
          {still
            ? `${program.steps[found.step]?.name ?? 'This step'}'s UVs do not move; it animates in place.`
            : `${program.steps[found.step]?.name ?? 'It'} moves at up to `}
          {!still && (
            <Box component="span" sx={{ fontFamily: faces.figures, color: tokens.amber }}>
              {fastest.toPrecision(3)}
            </Box>
          )}
          {!still && ' UV/s'}
        </span>
      </Legend>
    </>
  );
}
