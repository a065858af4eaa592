import type { FlowPlaces, TextEdit } from '@estela/core';
import { Box } from '@mui/material';
import { useRef, type KeyboardEvent, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { faces, tokens } from '../../ui/tokens.ts';
import { lineOfStep } from '../card/calls.ts';
import { useSession } from '../session.ts';
import { hostOf } from '../values/text-host.ts';
import { variantLook } from '../../material/look-variant.ts';
import { handlesOf, type Handle } from './handles.ts';
import { flatView } from '../../viewport/flat-view.ts';
import { useSize } from '../../ui/use-size.ts';
import { arrowStep } from '../../ui/arrow-keys.ts';
import { pixelsOn, useDrag } from '../../ui/use-drag.ts';
import { useSelectedIndex } from '../selection.ts';

type Point = readonly [number, number];

/** Handles of the selected step over the flat Stage. Each drag is one undo; arrow keys do the same in steps. */
export function HandleLayer(): ReactElement | null {
  const { shown, debounced } = useSession();
  const program = useStore(debounced, (s) => s.derived.program);
  const look = useStore(debounced, (s) => s.look);
  const index = useSelectedIndex();
  const variant = useStore(shown, (s) => s.variant);
  const { area, size } = useSize<HTMLDivElement>();
  const step = index === undefined ? undefined : program.steps[index];
  const statement = lineOfStep(program, index);
  const handles =
    index !== undefined && statement ? handlesOf(program, variantLook(look, variant), statement, index, variant) : [];
  return (
    <Box ref={area} sx={{ position: 'absolute', inset: 0, pointerEvents: 'none', overflow: 'hidden' }}>
      {size[0] > 0 && handles.length > 0 && (
        <svg
          width={size[0]}
          height={size[1]}
          role="group"
          aria-label={`Handles of ${step?.name ?? ''}`}
          style={{ display: 'block', overflow: 'visible' }}
        >
          {handles.map(({ handle, places, key }) => (
            <HandleMark
              key={key}
              handle={handle}
              places={places}
              size={size}
              index={index ?? 0}
              nth={handles.findIndex((h) => h.key === key)}
            />
          ))}
        </svg>
      )}
    </Box>
  );
}

const EDGE = { paintOrder: 'stroke', stroke: tokens.pit, strokeWidth: 3 } as const;

function HandleMark({
  handle,
  places,
  size,
  index,
  nth,
}: {
  readonly handle: Handle;
  readonly places: FlowPlaces | undefined;
  readonly size: Point;
  readonly index: number;
  readonly nth: number;
}): ReactElement {
  const { document, shown } = useSession();
  const host = hostOf(document);
  const svg = useRef<SVGGElement>(null);
  const view = flatView(size[0], size[1], 1);
  const onStage = ([u, v]: Point): Point => [view.x + u * view.size, view.y + v * view.size];
  const onSquare = ([x, y]: Point): Point => [(x - view.x) / view.size, (y - view.y) / view.size];
  /** Coordinates that flow in, as places of the square, and back; as they are where that cannot be told. */
  const placeOf = (at: Point): Point => places?.placeOf(at) ?? at;
  const coordinateAt = (uv: Point): Point => places?.coordinateAt(uv) ?? uv;
  const middle = onStage([0.5, 0.5]);
  const ink = (handle.kind === 'arrow' || handle.kind === 'arc') && handle.moves ? tokens.amber : tokens.bone;

  /** The handle as it is in the text of now: drags come faster than drawings. */
  const now = (): Handle => {
    const { derived, look } = document.getState();
    const { variant } = shown.getState();
    const statement = lineOfStep(derived.program, index);
    const list = statement ? handlesOf(derived.program, variantLook(look, variant), statement, index, variant) : [];
    return list[nth]?.handle ?? handle;
  };
  const tipOf = (h: Handle): Point => {
    switch (h.kind) {
      case 'arrow': {
        const long = h.scale * view.size;
        return [middle[0] + h.vector[0] * long, middle[1] - h.vector[1] * long];
      }
      case 'point':
        return onStage(placeOf(h.at));
      case 'arc': {
        const [x, y] = onStage(placeOf(h.pivot));
        return [x + Math.cos(h.turns * 2 * Math.PI) * RADIUS, y - Math.sin(h.turns * 2 * Math.PI) * RADIUS];
      }
      case 'box':
        return onStage(placeOf(h.corner));
    }
  };
  const dragTo = (h: Handle, [x, y]: Point, how: { straight: boolean; free: boolean }): TextEdit[] => {
    switch (h.kind) {
      case 'arrow': {
        const long = h.scale * view.size;
        return h.drag([(x - middle[0]) / long, (middle[1] - y) / long], how);
      }
      case 'point':
        return h.drag(coordinateAt(onSquare([x, y])));
      case 'arc': {
        const [px, py] = onStage(placeOf(h.pivot));
        const pointed = Math.atan2(py - y, x - px) / (2 * Math.PI);
        return h.drag(pointed + Math.round(h.turns - pointed), how);
      }
      case 'box':
        return h.drag(coordinateAt(onSquare([x, y])));
    }
  };
  const drag = useDrag({
    move: (at) => {
      const on = svg.current?.ownerSVGElement;
      if (on) host.drag(dragTo(now(), pixelsOn(on, at), { straight: at.event.shiftKey, free: at.event.altKey }));
    },
    end: host.done,
  });
  const keyed = (event: KeyboardEvent): void => {
    const by = arrowStep(event.key);
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    const h = now();
    const [dx, dy] = by;
    if (h.kind === 'arrow')
      host.edit(
        h.drag([h.vector[0] + dx * (h.moves ? 1 : 0.01), h.vector[1] - dy * (h.moves ? 1 : 0.01)], {
          straight: false,
          free: false,
        }),
      );
    else if (h.kind === 'arc')
      host.edit(h.drag(h.turns + (dx - dy) * (h.moves ? 0.125 : 1 / 360), { straight: false, free: false }));
    else if (h.kind === 'point') host.edit(h.drag([h.at[0] + dx * 0.01, h.at[1] + dy * 0.01]));
    else {
      // Steps of whole tiles for a tile, of a twentieth for a size.
      const [w, v] = [h.corner[0], h.corner[1]];
      host.edit(
        h.label === 'One tile'
          ? h.drag([1 / Math.max(1 / w - dx, 1), 1 / Math.max(1 / v - dy, 1)])
          : h.drag([w + dx * 0.05, v + dy * 0.05]),
      );
    }
  };
  const tip = tipOf(handle);
  const grip = (
    <g
      role="button"
      tabIndex={0}
      aria-label={`${handle.label}: ${handle.words}`}
      {...drag()}
      onKeyDown={keyed}
      style={{ pointerEvents: 'all', cursor: 'grab', touchAction: 'none' }}
    >
      <title>{`${handle.label}: ${handle.words}`}</title>
      <circle cx={tip[0]} cy={tip[1]} r="13" fill="transparent" />
      {handle.kind === 'point' ? (
        <path
          d={`M${String(tip[0] - 9)} ${String(tip[1])}h18M${String(tip[0])} ${String(tip[1] - 9)}v18`}
          stroke={ink}
          strokeWidth="2"
          style={{ filter: `drop-shadow(0 0 1px ${tokens.pit})` }}
        />
      ) : (
        <circle cx={tip[0]} cy={tip[1]} r="5" fill={ink} stroke={tokens.pit} />
      )}
    </g>
  );
  const words = (
    <text x={tip[0] + 12} y={tip[1] - 10} fill={ink} fontFamily={faces.figures} fontSize="12" {...EDGE}>
      {handle.words}
    </text>
  );
  return (
    <g ref={svg}>
      {handle.kind === 'arrow' && <Arrow from={middle} to={tip} ink={ink} />}
      {handle.kind === 'arc' && <Arc pivot={onStage(placeOf(handle.pivot))} turns={handle.turns} ink={ink} />}
      {handle.kind === 'box' && (
        <Outline
          of={[
            handle.origin,
            [handle.corner[0], handle.origin[1]],
            handle.corner,
            [handle.origin[0], handle.corner[1]],
          ].map((c) => onStage(placeOf(c as Point)))}
          ink={ink}
        />
      )}
      {grip}
      {words}
    </g>
  );
}

/** A shaft with a head at its tip; a short one is the head alone. */
function Arrow({ from, to, ink }: { readonly from: Point; readonly to: Point; readonly ink: string }): ReactElement {
  const angle = Math.atan2(to[1] - from[1], to[0] - from[0]);
  const barb = (by: number): string =>
    `${String(to[0] - Math.cos(angle + by) * 18)} ${String(to[1] - Math.sin(angle + by) * 18)}`;
  return (
    <>
      <circle cx={from[0]} cy={from[1]} r="2.5" fill={ink} />
      <path
        d={`M${String(from[0])} ${String(from[1])}L${String(to[0])} ${String(to[1])}`}
        stroke={ink}
        strokeWidth="2"
        fill="none"
      />
      {Math.hypot(to[0] - from[0], to[1] - from[1]) > 8 && (
        <path d={`M${String(to[0])} ${String(to[1])}L${barb(0.4)}L${barb(-0.4)}Z`} fill={ink} />
      )}
    </>
  );
}

const RADIUS = 56;

function Arc({
  pivot: [x, y],
  turns,
  ink,
}: {
  readonly pivot: Point;
  readonly turns: number;
  readonly ink: string;
}): ReactElement {
  const count = Math.max(2, Math.ceil(Math.abs(turns) * 48));
  const at = (t: number): string =>
    `${String(x + Math.cos(t * 2 * Math.PI) * RADIUS)} ${String(y - Math.sin(t * 2 * Math.PI) * RADIUS)}`;
  const points = Array.from({ length: count + 1 }, (_, i) => at((turns * i) / count));
  return (
    <>
      <path d={`M${String(x)} ${String(y)}h${String(RADIUS)}`} stroke={ink} strokeDasharray="2 4" fill="none" />
      <path d={`M${points.join('L')}`} stroke={ink} strokeWidth="2" fill="none" />
    </>
  );
}

function Outline({ of, ink }: { readonly of: readonly Point[]; readonly ink: string }): ReactElement {
  return (
    <path
      d={`M${of.map(([x, y]) => `${String(x)} ${String(y)}`).join('L')}Z`}
      stroke={ink}
      strokeDasharray="6 4"
      fill="none"
    />
  );
}
