import { boundsOf, isEmpty, partOf, rotateUvs, scaleUvs, translateUvs, type Bounds, type UvMap } from '@estela/core';
import { Box, Button, CircularProgress } from '@mui/material';
import { useEffect, useMemo, useReducer, useRef, useState, type KeyboardEvent, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { codedOf, tokens } from '../ui/tokens.ts';
import { StageNote } from '../viewport/Legend.tsx';
import { pixelsOn, useDrag, type DragPoint } from '../ui/use-drag.ts';
import { useSize } from '../ui/use-size.ts';
import { UvPicture, type UvInks } from '../gl/uv-picture.ts';
import { arrowStep } from '../ui/arrow-keys.ts';
import { mapping, type Fit } from './fit-store.ts';
import { fitted, toPixel, toUv, triangleAt, trianglesWithin, zoomed, type UvFrame } from './uv-frame.ts';

/** What the pointer does while it is down. */
interface Drag {
  readonly kind: 'pan' | 'box' | 'move' | 'scale' | 'turn';
  readonly start: readonly [number, number];
  readonly frame: UvFrame;
  readonly bounds: Bounds | undefined;
  /** For scaling, the corner of the bounds that stays: 0 or 1 along u and v. */
  readonly anchor?: Anchor | undefined;
  /** What was selected already where it was pressed: let go there, it alone is selected. */
  readonly triangle?: number | undefined;
  moved: boolean;
}
type Anchor = readonly [0 | 1, 0 | 1];
/** A handle that is dragged; the layout itself where it is none. */
type Grip = [kind?: 'scale' | 'turn', anchor?: Anchor];

const LAYER = { position: 'absolute', inset: 0, width: '100%', height: '100%' } as const;

/** The UV layout: islands and faces are selected by click, box and keys, and moved, scaled and rotated by their handles. */
export function UvLayout({ fit }: { readonly fit: Fit }): ReactElement {
  const { area, size } = useSize<HTMLDivElement>();
  const canvas = useRef<HTMLCanvasElement>(null);
  const triangles = useRef<HTMLCanvasElement>(null);
  const { selecting } = fit;
  const { mesh, selected } = useStore(fit.kept, (s) => s.value);
  const unit = useStore(selecting.unit);
  const wrong = useStore(fit.problem, (s) => s.triangles);
  const [box, setBox] = useState<readonly [from: readonly [number, number], to: readonly [number, number]]>();
  const [own, setFrame] = useState<UvFrame>();
  const frame = useMemo(() => own ?? fitted(...size), [own, size]);
  /** The drag that goes on; Escape ends it. */
  const current = useRef<Drag>(undefined);
  const part = useMemo(() => partOf(mesh, selected), [mesh, selected]);
  const bounds = useMemo(() => (isEmpty(selected) ? undefined : boundsOf(mesh, part)), [mesh, part, selected]);
  const groups = useMemo(() => {
    const all = selected.slice();
    for (const t of wrong) all[t] = 2;
    return all;
  }, [selected, wrong]);

  const picture = useRef<UvPicture>(undefined);
  const [round, again] = useReducer((n: number) => n + 1, 0);
  useEffect(() => {
    if (!triangles.current) return undefined;
    const made = (picture.current = new UvPicture(triangles.current, again));
    return () => {
      picture.current = undefined;
      made.dispose();
    };
  }, []);
  useEffect(() => {
    const [under, over] = [canvas.current, triangles.current];
    const context = under?.getContext('2d');
    if (!context || !over || size[0] === 0) return;
    const density = Math.min(devicePixelRatio, 2);
    const [width, height] = [Math.round(size[0] * density), Math.round(size[1] * density)];
    for (const each of [context.canvas, over])
      if (each.width !== width || each.height !== height) [each.width, each.height] = [width, height];
    context.setTransform(density, 0, 0, density, 0, 0);
    drawSquare(context, frame, size);
    // Lines of a fine mesh would cover all that lies between them.
    const perTriangle = frame.side / Math.sqrt(Math.max(mesh.indices.length / 3, 1));
    const ink = perTriangle < 2.5 ? 0 : Math.min(Math.max(perTriangle / 14, 0.12), 1);
    const inks = (color: string, fill: number, line: number): UvInks => {
      const [r, g, b] = codedOf(color);
      return { fill: [r, g, b, fill], line: ink === 0 ? undefined : [r, g, b, ink * line] };
    };
    picture.current?.draw(
      mesh,
      groups,
      [frame.x * density, frame.y * density, frame.side * density],
      [width, height],
      [inks(tokens.dim, 0.1, 0.6), inks(tokens.bone, 0.22, 0.85), inks(tokens.coral, 0.35, 1)],
    );
  }, [mesh, groups, frame, size, round]);

  useEffect(() => {
    const element = area.current;
    if (!element) return undefined;
    const wheel = (event: WheelEvent): void => {
      event.preventDefault();
      setFrame((before) =>
        zoomed(
          before ?? fitted(element.clientWidth, element.clientHeight),
          Math.exp(-event.deltaY * 0.0015),
          event.offsetX,
          event.offsetY,
        ),
      );
    };
    element.addEventListener('wheel', wheel, { passive: false });
    return () => {
      element.removeEventListener('wheel', wheel);
    };
  }, [area]);

  /** What a press on the layout itself begins; what lies there is selected by it. */
  const pressed = (u: number, v: number, { shiftKey, altKey }: DragPoint['event']): Drag['kind'] | undefined => {
    if (altKey) return 'pan';
    const triangle = triangleAt(mesh, u, v);
    if (triangle === undefined) return unit === 'faces' ? 'box' : 'pan';
    if (shiftKey || selected[triangle] === 0) selecting.at(triangle, shiftKey);
    // What cannot be selected yet cannot be moved either.
    return shiftKey || fit.kept.settled().selected[triangle] === 1 ? 'move' : undefined;
  };
  const drag = useDrag<Drag, Grip>({
    start: (at, handle, anchor) => {
      at.event.stopPropagation();
      const start = pixelsOn(area.current!, at);
      const kind = handle ?? pressed(...toUv(frame, ...start), at.event);
      if (!kind) return undefined;
      const from = fit.kept.settled();
      const of = isEmpty(from.selected) ? undefined : boundsOf(from.mesh, partOf(from.mesh, from.selected));
      const triangle = handle || at.event.shiftKey ? undefined : triangleAt(from.mesh, ...toUv(frame, ...start));
      return (current.current = { kind, start, frame, bounds: of, moved: false, anchor, triangle });
    },
    move: (at, kept) => {
      if (current.current !== kept || (!kept.moved && Math.hypot(...at.moved) < 3)) return;
      kept.moved = true;
      const [dx, dy] = at.moved;
      if (kept.kind === 'pan') setFrame({ ...kept.frame, x: kept.frame.x + dx, y: kept.frame.y + dy });
      else if (kept.kind === 'box') setBox([kept.start, pixelsOn(area.current!, at)]);
      else if (kept.bounds) {
        const map = mapOf(kept, pixelsOn(area.current!, at), at.event);
        fit.preview(mapping(() => map));
      }
    },
    end: (at, kept) => {
      if (current.current !== kept) return;
      current.current = undefined;
      setBox(undefined);
      if (kept.kind === 'box' && kept.moved)
        selecting.these(
          trianglesWithin(mesh, toUv(frame, ...kept.start), toUv(frame, ...pixelsOn(area.current!, at))),
          at.event.shiftKey,
        );
      else if (kept.kind === 'pan' || kept.kind === 'box') {
        if (!kept.moved && !at.event.shiftKey) selecting.none();
      } else if (!kept.moved && kept.triangle !== undefined) selecting.at(kept.triangle, false);
      else if (kept.moved) fit.commit({ move: 'move', scale: 'scale', turn: 'rotate' }[kept.kind]);
    },
  });
  const change = (title: string, of: (bounds: Bounds) => UvMap): void => {
    fit.change(title, mapping(of));
  };
  const key = (event: KeyboardEvent): void => {
    const step = arrowStep(event.key);
    if (step) {
      event.preventDefault();
      const by = event.shiftKey ? 0.1 : 0.01;
      change('move', () => translateUvs([step[0] * by, step[1] * by]));
    } else if (event.key === '[' || event.key === ']') {
      const by = event.key === '[' ? 5 : -5;
      change('rotate', (b) => rotateUvs(b, by));
    } else if (event.key === '+' || event.key === '-') {
      const by = event.key === '+' ? 1.1 : 1 / 1.1;
      change('scale', ({ from, to }) => scaleUvs([(from[0] + to[0]) / 2, (from[1] + to[1]) / 2], by, by));
    } else if (event.key === 'PageDown' || event.key === 'PageUp') {
      event.preventDefault();
      selecting.next(event.key === 'PageDown' ? 1 : -1, event.shiftKey);
    } else if (event.ctrlKey || event.metaKey) return;
    else if (event.key === 'a') selecting.all();
    else if (event.key === 'f') selecting.setUnit(unit === 'faces' ? 'islands' : 'faces');
    else if (event.key === 'l') void selecting.loop();
    else if (event.key === 'c') void selecting.connected();
    else if (event.key === 'Escape') {
      current.current = undefined;
      setBox(undefined);
      fit.cancel();
    } else if (event.key === '0') setFrame(undefined);
  };
  return (
    <Box
      ref={area}
      role="application"
      aria-label="UV layout"
      aria-description="f changes between islands and faces; Page down and up select the next and the one before, with Shift one more; l selects the loop, c what is connected, a selects all; arrow keys move the selection, brackets rotate it, plus and minus scale it; 0 shows the whole square"
      tabIndex={0}
      {...drag()}
      onKeyDown={key}
      sx={{
        position: 'relative',
        flex: 1,
        minHeight: 0,
        bgcolor: tokens.pit,
        overflow: 'hidden',
        touchAction: 'none',
        cursor: 'default',
      }}
    >
      <Box component="canvas" ref={canvas} aria-hidden="true" sx={LAYER} />
      <Box component="canvas" ref={triangles} aria-hidden="true" sx={LAYER} />
      {box && <SelectionBox box={box} />}
      {bounds && <Handles bounds={bounds} frame={frame} drag={drag} />}
      <Foot fit={fit} />
    </Box>
  );
}

/**
 * At the foot of the layout: what the worker is at, once that takes a moment, and the way to end it; what could not be
 * done, and why; or else what can be done.
 */
function Foot({ fit }: { readonly fit: Fit }): ReactElement {
  const title = useStore(fit.working);
  const problem = useStore(fit.problem, (s) => s.text);
  const unit = useStore(fit.selecting.unit);
  if (title !== '')
    return (
      <Box
        onPointerDown={(event) => {
          event.stopPropagation();
        }}
        sx={{ '@keyframes late': { from: { visibility: 'hidden' } }, animation: 'late 0.3s step-end' }}
      >
        <StageNote label="Working">
          <CircularProgress size={14} />
          {title}
          <Button onClick={fit.stop}>Stop</Button>
        </StageNote>
      </Box>
    );
  if (problem !== '')
    return (
      <StageNote role="alert" wrong>
        {problem}
      </StageNote>
    );
  return (
    <Box
      sx={{ position: 'absolute', left: 8, bottom: 6, color: 'text.secondary', fontSize: 12, pointerEvents: 'none' }}
    >
      {unit === 'islands'
        ? 'Click an island, Shift for more. Drag it, its corners or the ring above it. Wheel zooms, dragging the ground pans.'
        : 'Click a face, Shift for more, or drag a box. l: loop, c: connected. Wheel zooms, Alt and drag pans.'}
    </Box>
  );
}

/** The map of a drag that has come to a place. */
function mapOf(
  at: Drag,
  [x, y]: readonly [number, number],
  { shiftKey, ctrlKey }: { readonly shiftKey: boolean; readonly ctrlKey: boolean },
): UvMap {
  const { from, to } = at.bounds!;
  const [u, v] = toUv(at.frame, x, y);
  const [su, sv] = toUv(at.frame, ...at.start);
  if (at.kind === 'scale' && at.anchor) {
    const [au, av] = [at.anchor[0] === 0 ? from[0] : to[0], at.anchor[1] === 0 ? from[1] : to[1]];
    const by = (now: number, then: number, anchor: number): number =>
      Math.abs(then - anchor) < 1e-6 ? 1 : (now - anchor) / (then - anchor);
    const [w, h] = [by(u, su, au), by(v, sv, av)];
    const alike = Math.abs(w) > Math.abs(h) ? w : h;
    return shiftKey ? scaleUvs([au, av], alike, alike) : scaleUvs([au, av], w, h);
  }
  if (at.kind === 'turn') {
    const [cu, cv] = [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2];
    const angle = ((Math.atan2(-(v - cv), u - cu) - Math.atan2(-(sv - cv), su - cu)) * 180) / Math.PI;
    return rotateUvs(at.bounds!, ctrlKey ? Math.round(angle / 15) * 15 : angle);
  }
  // With Control a move keeps to tenths.
  const step = (d: number): number => (ctrlKey ? Math.round(d * 10) / 10 : d);
  return translateUvs([step(u - su), step(v - sv)]);
}

/** The rectangle that is dragged to select what lies in it. */
function SelectionBox({
  box: [[x0, y0], [x1, y1]],
}: {
  readonly box: readonly [readonly [number, number], readonly [number, number]];
}): ReactElement {
  return (
    <Box
      sx={{
        position: 'absolute',
        left: Math.min(x0, x1),
        top: Math.min(y0, y1),
        width: Math.abs(x1 - x0),
        height: Math.abs(y1 - y0),
        border: `1px solid ${tokens.amber}`,
        pointerEvents: 'none',
      }}
    />
  );
}

function Handles({
  bounds: { from, to },
  frame,
  drag,
}: {
  readonly bounds: Bounds;
  readonly frame: UvFrame;
  readonly drag: (...grip: Grip) => object;
}): ReactElement {
  const [left, top] = toPixel(frame, ...from);
  const [right, bottom] = toPixel(frame, ...to);
  const box = {
    position: 'absolute',
    width: 11,
    height: 11,
    m: '-5.5px',
    bgcolor: tokens.bone,
    border: `2px solid ${tokens.pit}`,
  } as const;
  return (
    <>
      <Box
        sx={{
          position: 'absolute',
          left,
          top,
          width: right - left,
          height: bottom - top,
          outline: `1px dashed ${tokens.dim}`,
          pointerEvents: 'none',
        }}
      />
      {([0, 1] as const).flatMap((x) =>
        ([0, 1] as const).map((y) => (
          <Box
            key={`${String(x)}${String(y)}`}
            title="Scale; with Shift uniformly"
            {...drag('scale', [x === 0 ? 1 : 0, y === 0 ? 1 : 0])}
            sx={{
              ...box,
              left: x === 0 ? left : right,
              top: y === 0 ? top : bottom,
              cursor: x === y ? 'nwse-resize' : 'nesw-resize',
            }}
          />
        )),
      )}
      <Box
        title="Rotate; with Control by 15 degrees"
        {...drag('turn')}
        sx={{ ...box, left: (left + right) / 2, top: top - 18, borderRadius: '50%', cursor: 'grab' }}
      />
    </>
  );
}

/** The UV square with its tenths and axes, under the triangles. */
function drawSquare(context: CanvasRenderingContext2D, frame: UvFrame, size: readonly [number, number]): void {
  context.clearRect(0, 0, ...size);
  const [x, y] = toPixel(frame, 0, 0);
  context.fillStyle = tokens.floor;
  context.fillRect(x, y, frame.side, frame.side);
  context.strokeStyle = tokens.row;
  context.beginPath();
  for (let i = 1; i < 10; i++) {
    const at = (frame.side * i) / 10;
    context.moveTo(x + at, y);
    context.lineTo(x + at, y + frame.side);
    context.moveTo(x, y + at);
    context.lineTo(x + frame.side, y + at);
  }
  context.stroke();
  context.strokeStyle = tokens.dim;
  context.strokeRect(x, y, frame.side, frame.side);
  context.fillStyle = tokens.dim;
  context.font = '12px Barlow Semi Condensed, sans-serif';
  context.fillText('u', x + frame.side + 6, y + 4);
  context.fillText('v', x - 2, y + frame.side + 14);
}
