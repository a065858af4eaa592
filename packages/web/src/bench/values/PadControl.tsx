import { Box } from '@mui/material';
import { useRef, type KeyboardEvent, type ReactElement } from 'react';
import { tokens } from '../../ui/tokens.ts';
import type { DialControl } from '../dials/dial-control.ts';
import { arrowStep } from '../../ui/arrow-keys.ts';
import { pixelsOn, useFollow, type DragPoint } from '../../ui/use-drag.ts';

const SIZE = 168;

/**
 * A square over the range of a pair, x to the right and y down as on the UV square; arrow keys move by a hundredth,
 * with shift by a tenth.
 */
export function PadControl({ dial, set, done }: DialControl): ReactElement {
  const pad = useRef<HTMLDivElement>(null);
  const [x = 0, y = 0] = dial.value;
  const low = dial.low ?? Math.min(0, x, y);
  const high = dial.high ?? Math.max(1, x, y);
  const share = (v: number): number => ((v - low) / (high - low)) * SIZE;
  const rounded = (v: number): number => Math.round(v * 100) / 100;

  const follow = (point: DragPoint): void => {
    if (!pad.current) return;
    const [right, down] = pixelsOn(pad.current, point);
    const at = (part: number): number => rounded(low + Math.min(Math.max(part / SIZE, 0), 1) * (high - low));
    set([at(right), at(down)], true);
  };
  const drag = useFollow(follow, done);
  const keyed = (event: KeyboardEvent): void => {
    const by = arrowStep(event.key);
    if (!by) return;
    event.preventDefault();
    const grid = event.shiftKey ? 0.1 : 0.01;
    set([rounded(x + by[0] * grid), rounded(y + by[1] * grid)], false);
  };
  return (
    <Box
      ref={pad}
      role="group"
      tabIndex={0}
      aria-label={`${dial.name}, ${String(x)} across and ${String(y)} down; arrow keys move it`}
      onKeyDown={keyed}
      {...drag()}
      sx={{
        width: SIZE,
        height: SIZE,
        flex: 'none',
        cursor: 'crosshair',
        touchAction: 'none',
        bgcolor: tokens.pit,
        border: 1,
        borderColor: 'divider',
      }}
    >
      <svg width={SIZE - 2} height={SIZE - 2} aria-hidden="true">
        {[0.25, 0.5, 0.75].map((g) => (
          <path
            key={g}
            d={`M${String(g * SIZE)} 0V${String(SIZE)}M0 ${String(g * SIZE)}H${String(SIZE)}`}
            stroke={tokens.line}
            fill="none"
          />
        ))}
        <path
          d={`M${String(share(x))} 0V${String(SIZE)}M0 ${String(share(y))}H${String(SIZE)}`}
          stroke={tokens.dim}
          fill="none"
        />
        <circle cx={share(x)} cy={share(y)} r="5" fill={tokens.bone} stroke={tokens.pit} />
      </svg>
    </Box>
  );
}
