import { Box, Button, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import { useCallback, useEffect, useRef, useState, type KeyboardEvent, type ReactElement, type ReactNode } from 'react';
import { tokens } from '../ui/tokens.ts';
import { faces } from '../ui/tokens.ts';
import { useDrag } from '../ui/use-drag.ts';
import { CHANNEL_VIEWS, type ChannelView } from '../material/shown.ts';

const VIEW_WORDS: Record<ChannelView, string> = { all: 'All', rgb: 'RGB', r: 'R', g: 'G', b: 'B', a: 'A' };

/** Where the middle of the picture lies on the canvas, and how many CSS pixels a pixel of the source is wide. */
interface ViewRect {
  readonly x: number;
  readonly y: number;
  readonly zoom: number;
}

export interface Mark {
  /** In pixels of the source. */
  readonly x: number;
  readonly y: number;
}

/**
 * A picture to be looked at closely: moved by dragging, made larger by the wheel, alone or as it tiles, channel by
 * channel.
 */
export function Viewer({
  bitmap,
  width,
  height,
  look,
  setLook,
  marks = [],
  label,
  children,
}: {
  /** May be smaller than the source itself. */
  readonly bitmap: ImageBitmap | undefined;
  readonly width: number;
  readonly height: number;
  readonly look: ChannelView;
  readonly setLook: (look: ChannelView) => void;
  readonly marks?: readonly Mark[];
  readonly label: string;
  readonly children?: ReactNode;
}): ReactElement {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [tiled, setTiled] = useState(false);
  const [view, setView] = useState<ViewRect>();
  const [size, setSize] = useState({ width: 0, height: 0 });
  const repeat = tiled ? 3 : 1;
  const fit = useCallback(
    (count: number): ViewRect => ({
      x: size.width / 2,
      y: size.height / 2,
      zoom: Math.min(size.width / (width * count), size.height / (height * count)) * 0.94,
    }),
    [size, width, height],
  );
  const now = view ?? fit(repeat);

  useEffect(() => {
    const element = canvas.current;
    if (!element) return undefined;
    const observer = new ResizeObserver(() => {
      setSize({ width: element.clientWidth, height: element.clientHeight });
    });
    observer.observe(element);
    return () => {
      observer.disconnect();
    };
  }, []);

  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context || size.width === 0) return;
    const density = Math.min(devicePixelRatio, 2);
    [element.width, element.height] = [Math.round(size.width * density), Math.round(size.height * density)];
    context.scale(density, density);
    const [w, h] = [width * now.zoom, height * now.zoom];
    const [left, top] = [now.x - (w * repeat) / 2, now.y - (h * repeat) / 2];
    // Squares of the ground keep their place on the canvas.
    context.save();
    context.beginPath();
    context.rect(left, top, w * repeat, h * repeat);
    context.clip();
    context.fillStyle = tokens.row;
    context.fillRect(0, 0, size.width, size.height);
    context.fillStyle = tokens.raise;
    for (let y = 0; y * 8 < size.height; y++)
      for (let x = y % 2; x * 8 < size.width; x += 2) context.fillRect(x * 8, y * 8, 8, 8);
    if (bitmap) {
      // Whole pixels stay sharp: what is judged here is the texel.
      context.imageSmoothingEnabled = now.zoom * (width / bitmap.width) < 2;
      for (let row = 0; row < repeat; row++)
        for (let column = 0; column < repeat; column++)
          context.drawImage(bitmap, left + column * w, top + row * h, w, h);
    }
    context.restore();
    context.lineWidth = 1.5;
    for (const mark of marks) {
      const shift = (repeat - 1) / 2;
      context.strokeStyle = tokens.pit;
      for (const [color, extra] of [
        [tokens.pit, 3],
        [tokens.coral, 0],
      ] as const) {
        context.strokeStyle = color;
        context.lineWidth = 1.5 + extra;
        context.beginPath();
        context.arc(
          left + (mark.x + shift * width) * now.zoom,
          top + (mark.y + shift * height) * now.zoom,
          9,
          0,
          2 * Math.PI,
        );
        context.stroke();
      }
    }
  }, [bitmap, width, height, now.x, now.y, now.zoom, repeat, size, marks]);

  /** Makes it larger by a factor about a place on the canvas. */
  const zoomBy = useCallback(
    (factor: number, at?: { x: number; y: number }): void => {
      setView((before) => {
        const from = before ?? fit(repeat);
        const centre = at ?? { x: size.width / 2, y: size.height / 2 };
        const zoom = Math.min(Math.max(from.zoom * factor, 0.01), 64);
        const by = zoom / from.zoom;
        return { zoom, x: centre.x + (from.x - centre.x) * by, y: centre.y + (from.y - centre.y) * by };
      });
    },
    [fit, repeat, size],
  );

  useEffect(() => {
    const element = canvas.current;
    const wheel = (event: WheelEvent): void => {
      event.preventDefault();
      zoomBy(Math.exp(-event.deltaY * 0.0015), { x: event.offsetX, y: event.offsetY });
    };
    // React's own wheel listener may not keep the page from scrolling.
    element?.addEventListener('wheel', wheel, { passive: false });
    return () => element?.removeEventListener('wheel', wheel);
  }, [zoomBy]);

  const moveBy = (x: number, y: number): void => {
    setView((before) => {
      const from = before ?? fit(repeat);
      return { ...from, x: from.x + x, y: from.y + y };
    });
  };
  const drag = useDrag<{ x: number; y: number }>({
    start: ({ x, y }) => ({ x, y }),
    move: ({ x, y }, last) => {
      moveBy(x - last.x, y - last.y);
      [last.x, last.y] = [x, y];
    },
  });
  const keyed = (event: KeyboardEvent): void => {
    const moves: Record<string, () => void> = {
      ArrowLeft: () => {
        moveBy(32, 0);
      },
      ArrowRight: () => {
        moveBy(-32, 0);
      },
      ArrowUp: () => {
        moveBy(0, 32);
      },
      ArrowDown: () => {
        moveBy(0, -32);
      },
      '+': () => {
        zoomBy(1.25);
      },
      '-': () => {
        zoomBy(0.8);
      },
      '0': () => {
        setView(undefined);
      },
    };
    const move = moves[event.key];
    if (!move) return;
    event.preventDefault();
    move();
  };

  return (
    <Box sx={{ flex: 1, minWidth: 0, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Box
        sx={{
          display: 'flex',
          alignItems: 'center',
          gap: 1,
          height: 40,
          px: 1,
          flex: 'none',
          borderBottom: 1,
          borderColor: 'divider',
        }}
      >
        <ToggleButtonGroup
          exclusive
          value={look}
          aria-label="Channels"
          onChange={(_, next: ChannelView | null) => {
            if (next) setLook(next);
          }}
        >
          {CHANNEL_VIEWS.map((name) => (
            <ToggleButton key={name} value={name}>
              {VIEW_WORDS[name]}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        <ToggleButtonGroup
          exclusive
          value={tiled}
          aria-label="Tiling"
          onChange={(_, next: boolean | null) => {
            if (next === null) return;
            setTiled(next);
            setView(undefined);
          }}
        >
          <ToggleButton value={false}>1x1</ToggleButton>
          <ToggleButton value>3x3</ToggleButton>
        </ToggleButtonGroup>
        <Button
          onClick={() => {
            setView(undefined);
          }}
        >
          Fit
        </Button>
        <Button
          onClick={() => {
            setView({ x: size.width / 2, y: size.height / 2, zoom: 1 });
          }}
        >
          1:1
        </Button>
        <Typography sx={{ fontFamily: faces.figures, fontSize: 12.5, color: 'text.secondary' }}>
          {Math.round(now.zoom * 100)}%
        </Typography>
        {children}
        <Typography noWrap sx={{ ml: 'auto', color: 'text.secondary' }}>
          drag to pan, wheel to zoom
        </Typography>
      </Box>
      <Box
        component="canvas"
        ref={canvas}
        role="img"
        aria-label={label}
        tabIndex={0}
        onKeyDown={keyed}
        {...drag()}
        sx={{
          flex: 1,
          minHeight: 0,
          width: '100%',
          bgcolor: tokens.pit,
          cursor: 'grab',
          touchAction: 'none',
          '&:active': { cursor: 'grabbing' },
          '&:focus-visible': { outlineOffset: -2 },
        }}
      />
    </Box>
  );
}
