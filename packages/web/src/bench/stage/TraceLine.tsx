import type { TraceLine as Line } from '@estela/core';
import { Box } from '@mui/material';
import type { KeyboardEvent, ReactElement } from 'react';
import { useStore } from 'zustand';
import { tokens } from '../../ui/tokens.ts';
import { useSession } from '../session.ts';
import { flatView } from '../../viewport/flat-view.ts';
import { useSize } from '../../ui/use-size.ts';
import { arrowStep } from '../../ui/arrow-keys.ts';
import { pixelsOn, useDrag } from '../../ui/use-drag.ts';

type Point = readonly [number, number];
const held = (v: number): number => Math.min(Math.max(Math.round(v * 1000) / 1000, 0), 1);

/** The line of the Trace on the flat Stage: its ends are dragged, or moved by arrow keys. */
export function TraceLine(): ReactElement {
  const { trace } = useSession();
  const line = useStore(trace, (s) => s.line);
  const { area, size } = useSize<HTMLDivElement>();
  const view = flatView(size[0], size[1], 1);
  const toCanvas = ([u, v]: Point): Point => [view.x + u * view.size, view.y + v * view.size];
  const [from, to] = [toCanvas(line.from), toCanvas(line.to)];
  const put = (end: keyof Line, [u, v]: Point): void => {
    trace.setState({ line: { ...trace.getState().line, [end]: [held(u), held(v)] } });
  };
  const drag = useDrag<true, [keyof Line]>({
    move: (at, _, end) => {
      if (!area.current) return;
      const [x, y] = pixelsOn(area.current, at);
      put(end, [(x - view.x) / view.size, (y - view.y) / view.size]);
    },
  });
  const keyed = (end: keyof Line) => (event: KeyboardEvent) => {
    const by = arrowStep(event.key);
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    const [u, v] = trace.getState().line[end];
    put(end, [u + by[0] * 0.02, v + by[1] * 0.02]);
  };
  const grip = (end: keyof Line, [x, y]: Point, label: string): ReactElement => (
    <g
      role="button"
      tabIndex={0}
      aria-label={`${label} of the traced line`}
      {...drag(end)}
      onKeyDown={keyed(end)}
      style={{ pointerEvents: 'all', cursor: 'grab', touchAction: 'none' }}
    >
      <circle cx={x} cy={y} r="13" fill="transparent" />
      <circle
        cx={x}
        cy={y}
        r="5"
        fill={end === 'from' ? tokens.bone : tokens.pit}
        stroke={tokens.bone}
        strokeWidth="2"
      />
    </g>
  );
  return (
    <Box ref={area} sx={{ position: 'absolute', inset: 0, pointerEvents: 'none', overflow: 'hidden' }}>
      {size[0] > 0 && (
        <svg
          width={size[0]}
          height={size[1]}
          role="group"
          aria-label="The traced line"
          style={{ display: 'block', overflow: 'visible' }}
        >
          <path d={`M${from.join(' ')}L${to.join(' ')}`} stroke={tokens.pit} strokeWidth="4" />
          <path d={`M${from.join(' ')}L${to.join(' ')}`} stroke={tokens.bone} strokeWidth="1.5" />
          {grip('from', from, 'Start')}
          {grip('to', to, 'End')}
        </svg>
      )}
    </Box>
  );
}
