import { Box } from '@mui/material';
import { useRef, type KeyboardEvent, type ReactElement } from 'react';
import { tokens } from '../../ui/tokens.ts';
import { pixelsOn, useFollow, type DragPoint } from '../../ui/use-drag.ts';
import type { DialControl } from './dial-control.ts';

/**
 * A small round dial: 0deg right, 90deg up. Dragged round it follows the hand past the ends of a turn; arrow keys move
 * by 1, with shift by 15 degrees.
 */
export function AngleControl({ dial, set, done, size = 26 }: DialControl & { readonly size?: number }): ReactElement {
  const ring = useRef<HTMLDivElement>(null);
  const [turns = 0] = dial.value;
  const degrees = turns * 360;
  const low = (dial.low ?? -100) * 360;
  const high = (dial.high ?? 100) * 360;

  const go = (to: number, drag: boolean): void => {
    set([Math.min(Math.max(to, low), high) / 360], drag);
  };

  const follow = (at: DragPoint): void => {
    if (!ring.current) return;
    const [x, y] = pixelsOn(ring.current, at);
    const { clientWidth, clientHeight } = ring.current;
    const pointed = (Math.atan2(clientHeight / 2 - y, x - clientWidth / 2) * 180) / Math.PI;
    // The nearest of the angles that point there, in steps of a degree, or of 15 with shift.
    const near = pointed + 360 * Math.round((degrees - pointed) / 360);
    const grid = at.event.shiftKey ? 15 : (dial.step ?? 1 / 360) * 360;
    go(Math.round(near / grid) * grid, true);
  };
  const drag = useFollow(follow, done);

  const keyed = (event: KeyboardEvent): void => {
    const by = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    go(Math.round(degrees) + by * (event.shiftKey ? 15 : 1), false);
  };

  const middle = size / 2;
  const reach = middle - 5;
  const tip = { x: middle + Math.cos(turns * 2 * Math.PI) * reach, y: middle - Math.sin(turns * 2 * Math.PI) * reach };
  return (
    <Box
      ref={ring}
      role="slider"
      tabIndex={0}
      aria-label={dial.name}
      aria-valuenow={Math.round(degrees * 100) / 100}
      aria-valuemin={low}
      aria-valuemax={high}
      aria-valuetext={`${String(Math.round(degrees * 100) / 100)} degrees`}
      onKeyDown={keyed}
      {...drag()}
      sx={{
        width: 'var(--control, 160px)',
        flex: 'none',
        height: size,
        display: 'flex',
        justifyContent: 'center',
        cursor: 'grab',
        touchAction: 'none',
        mx: 0.5,
      }}
    >
      <svg width={size} height={size} aria-hidden="true">
        <circle cx={middle} cy={middle} r={middle - 2} fill={tokens.row} stroke={tokens.line} />
        <line x1={middle} y1={middle} x2={tip.x} y2={tip.y} stroke={tokens.bone} strokeWidth="2" />
        <circle cx={tip.x} cy={tip.y} r="2.5" fill={tokens.bone} />
      </svg>
    </Box>
  );
}
