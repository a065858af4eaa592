import type { Copies } from '@estela/core';
import { Box, Button, FormControlLabel, Switch } from '@mui/material';
import { useRef, useState, type ReactElement } from 'react';
import { tokens } from '../ui/tokens.ts';
import { arrowStep } from '../ui/arrow-keys.ts';
import { pixelsOn, useDrag } from '../ui/use-drag.ts';

type Curve = Extract<Copies, { kind: 'curve' }>;
const SIDE = 190;

/**
 * A curve on the floor, seen from above: x to the right, z towards the viewer. Its points are dragged, or moved by the
 * arrow keys.
 */
export function PlanCurve({
  curve,
  id,
  change,
}: {
  readonly curve: Curve;
  readonly id: string;
  readonly change: (next: Curve, group?: string) => void;
}): ReactElement {
  const area = useRef<SVGSVGElement>(null);
  const [chosen, setChosen] = useState(0);
  const { points } = curve;
  // As many metres as hold all points, in whole ones, so that the plan does not move with each of them.
  const reach = Math.max(2, Math.ceil(Math.max(...points.flat().map(Math.abs)) * 1.1));
  const toPixel = (m: number): number => SIDE / 2 + (m / reach) * (SIDE / 2);
  const round = (m: number): number => Math.round(Math.min(Math.max(m, -1000), 1000) * 100) / 100;
  const move = (index: number, x: number, z: number, group: string): void => {
    change({ ...curve, points: points.map((p, i) => (i === index ? [round(x), round(z)] : p)) }, group);
  };
  const drag = useDrag<string, [number]>({
    start: (_, index) => {
      setChosen(index);
      return `${id} point ${String(index)} ${String(Date.now())}`;
    },
    move: (at, group, index) => {
      if (!area.current) return;
      const [x, y] = pixelsOn(area.current, at).map((pixel) => ((pixel - SIDE / 2) / (SIDE / 2)) * reach);
      move(index, x!, y!, group);
    },
  });
  return (
    <Box sx={{ display: 'flex', gap: 1, pl: '66px' }}>
      <svg
        ref={area}
        width={SIDE}
        height={SIDE}
        role="group"
        aria-label="Curve on the floor, from above"
        style={{ background: tokens.pit, border: `1px solid ${tokens.line}`, touchAction: 'none', flex: 'none' }}
      >
        <path d={`M${String(SIDE / 2)} 0V${String(SIDE)}M0 ${String(SIDE / 2)}H${String(SIDE)}`} stroke={tokens.row} />
        <polyline
          points={[...points, ...(curve.closed ? [points[0]!] : [])]
            .map(([x, z]) => `${String(toPixel(x))},${String(toPixel(z))}`)
            .join(' ')}
          fill="none"
          stroke={tokens.dim}
          strokeDasharray="3 3"
        />
        {points.map(([x, z], i) => (
          <circle
            key={i}
            cx={toPixel(x)}
            cy={toPixel(z)}
            r={i === chosen ? 6 : 5}
            fill={i === chosen ? tokens.text : tokens.bone}
            stroke={tokens.pit}
            strokeWidth="2"
            role="button"
            tabIndex={0}
            aria-label={`Point ${String(i + 1)}: ${String(x)}, ${String(z)} metres`}
            style={{ cursor: 'grab' }}
            {...drag(i)}
            onFocus={() => {
              setChosen(i);
            }}
            onKeyDown={(event) => {
              const step = arrowStep(event.key);
              if (!step) return;
              event.preventDefault();
              move(i, x + step[0] * 0.1, z + step[1] * 0.1, `${id} point ${String(i)} keys`);
            }}
          />
        ))}
      </svg>
      <Box sx={{ display: 'flex', flexDirection: 'column', alignItems: 'flex-start' }}>
        <Button
          disabled={points.length >= 24}
          onClick={() => {
            const [a, b] = [points.at(-2)!, points.at(-1)!];
            change({ ...curve, points: [...points, [round(2 * b[0] - a[0]), round(2 * b[1] - a[1])]] });
            setChosen(points.length);
          }}
        >
          Add point
        </Button>
        <Button
          disabled={points.length <= 2}
          onClick={() => {
            change({ ...curve, points: points.filter((_, i) => i !== chosen) });
            setChosen(0);
          }}
        >
          Remove
        </Button>
        <FormControlLabel
          control={
            <Switch
              size="small"
              checked={curve.closed}
              onChange={(_, closed) => {
                change({ ...curve, closed });
              }}
            />
          }
          label="Closed"
          sx={{ ml: 0 }}
        />
        <Box sx={{ color: 'text.secondary', fontSize: 12, mt: 'auto' }}>{reach} m on each side</Box>
      </Box>
    </Box>
  );
}
