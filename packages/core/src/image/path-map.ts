import { blankImage, type PixelImage } from './pixels.ts';

/** A point of a curve in the UV square, v down, with the width of the path there, in UV units. */
export interface PathPoint {
  readonly x: number;
  readonly y: number;
  readonly width: number;
}

/** What a path map is drawn from, and stays editable by. */
export interface PathDrawing {
  readonly points: readonly PathPoint[];
  readonly closed: boolean;
  /** Pixels along each side of the map. */
  readonly size: number;
}

/** A place on the flattened curve, with the way to it from the start, 0..1 by arc length. */
export interface PathSample extends PathPoint {
  readonly along: number;
}

/** Straight pieces between two points of a curve. */
const PIECES = 24;

/**
 * The curve through the points, in short straight pieces: centripetal Catmull-Rom (Barry and Goldman 1988; Yuksel et
 * al. 2011), which makes no loops or cusps between points. Points that fall together count once. Fewer than two give
 * nothing.
 */
export function flattenPath({ points, closed }: PathDrawing): PathSample[] {
  const kept = points.filter((p, i) => {
    const before = points[i - 1] ?? (closed && points.length > 1 ? points.at(-1) : undefined);
    return !before || i === 0 ? true : Math.hypot(p.x - before.x, p.y - before.y) > 1e-6;
  });
  const ring = closed && kept.length > 2;
  if (kept.length < 2) return [];
  const at = (i: number): PathPoint => {
    const n = kept.length;
    if (ring) return kept[((i % n) + n) % n]!;
    if (i >= 0 && i < n) return kept[i]!;
    // Beyond an open end the curve goes straight on.
    const [end, inner] = i < 0 ? [kept[0]!, kept[1]!] : [kept[n - 1]!, kept[n - 2]!];
    return { x: 2 * end.x - inner.x, y: 2 * end.y - inner.y, width: end.width };
  };
  const places: PathPoint[] = [];
  const spans = ring ? kept.length : kept.length - 1;
  for (let i = 0; i < spans; i++)
    for (let k = 0; k < PIECES; k++) places.push(between(at(i - 1), at(i), at(i + 1), at(i + 2), k / PIECES));
  places.push(at(spans));
  const lengths = [0];
  for (let i = 1; i < places.length; i++)
    lengths.push(lengths[i - 1]! + Math.hypot(places[i]!.x - places[i - 1]!.x, places[i]!.y - places[i - 1]!.y));
  const whole = lengths.at(-1)! || 1;
  return places.map((p, i) => ({ ...p, along: lengths[i]! / whole }));
}

function between(a: PathPoint, b: PathPoint, c: PathPoint, d: PathPoint, share: number): PathPoint {
  const gap = (p: PathPoint, q: PathPoint): number => Math.max(Math.sqrt(Math.hypot(q.x - p.x, q.y - p.y)), 1e-4);
  const t1 = gap(a, b);
  const t2 = t1 + gap(b, c);
  const t3 = t2 + gap(c, d);
  const t = t1 + (t2 - t1) * share;
  const mix = (p: PathPoint, q: PathPoint, from: number, to: number): PathPoint => {
    const s = (t - from) / (to - from);
    return { x: p.x + (q.x - p.x) * s, y: p.y + (q.y - p.y) * s, width: 0 };
  };
  const [p, q, r] = [mix(a, b, 0, t1), mix(b, c, t1, t2), mix(c, d, t2, t3)];
  const place = mix(mix(p, q, 0, t2), mix(q, r, t1, t3), t1, t2);
  // A spline of the widths could fall below 0; an eased passage cannot.
  const ease = share * share * (3 - 2 * share);
  return { ...place, width: b.width + (c.width - b.width) * ease };
}

/**
 * Draws a path map, 16 bits a channel. Red: the way along, 0..1 by arc length. Green: the place across, 0 at the
 * left edge as one travels, 0.5 on the curve, 1 at the right. Blue: coverage. Alpha: 1 - |2 red - 1|, which
 * has no jump where a closed path starts over, so that `follow` can read the way along between two texels there.
 * What leaves the UV square comes in at the other side, so that the map tiles.
 */
export function drawPathMap(drawing: PathDrawing): PixelImage {
  const { size } = drawing;
  const image = blankImage(size, size, 16);
  const { data } = image;
  const samples = flattenPath(drawing);
  const away = new Float64Array(size * size).fill(Infinity);
  for (let i = 0; i < data.length; i += 4) data[i + 3] = 65535;
  const open = !(drawing.closed && drawing.points.length > 2);
  for (let s = 0; s + 1 < samples.length; s++) {
    const [a, b] = [samples[s]!, samples[s + 1]!];
    const [dx, dy] = [b.x - a.x, b.y - a.y];
    const length = Math.hypot(dx, dy);
    if (length === 0) continue;
    // A margin beyond the width, so that filtering finds the path's own values at its edge.
    const reach = Math.max(a.width, b.width) * 0.625 + 4 / size;
    const range = (p: number, q: number): [number, number] => [
      Math.floor((Math.min(p, q) - reach) * size),
      Math.ceil((Math.max(p, q) + reach) * size),
    ];
    const [[left, right], [top, bottom]] = [range(a.x, b.x), range(a.y, b.y)];
    const ends = [open && s === 0, open && s === samples.length - 2];
    for (let y = top; y <= bottom; y++) {
      for (let x = left; x <= right; x++) {
        const [px, py] = [(x + 0.5) / size - a.x, (y + 0.5) / size - a.y];
        const free = (px * dx + py * dy) / (length * length);
        const t = Math.min(Math.max(free, 0), 1);
        const distance = Math.hypot(px - dx * t, py - dy * t);
        if (distance > reach) continue;
        const to = ((((y % size) + size) % size) * size + (((x % size) + size) % size)) * 4;
        if (distance >= away[to / 4]!) continue;
        away[to / 4] = distance;
        const width = Math.max(a.width + (b.width - a.width) * t, 1e-6);
        const side = Math.sign(dx * py - dy * px) || 1;
        const along = a.along + (b.along - a.along) * t;
        // An open path ends square: what lies beyond its ends is not covered.
        const beyond = (ends[0] && free < 0) || (ends[1] && free > 1) ? Math.abs(free - t) * length : -Infinity;
        const covered = Math.min((width / 2 - distance) * size + 0.5, 0.5 - beyond * size);
        data[to] = Math.round(along * 65535);
        data[to + 1] = Math.round(Math.min(Math.max(0.5 + (side * distance) / width, 0), 1) * 65535);
        data[to + 2] = Math.round(Math.min(Math.max(covered, 0), 1) * 65535);
        data[to + 3] = Math.round((1 - Math.abs(2 * along - 1)) * 65535);
      }
    }
  }
  return image;
}
