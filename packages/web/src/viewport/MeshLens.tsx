import {
  CLOSED_WITHIN,
  isProven,
  lengthsOf,
  stretches,
  surfaceVelocities,
  tilesAcross,
  uvSeamsOf,
  type ByShift,
  type MeshData,
  type Program,
  type Shift,
  type Verdict,
} from '@estela/core';
import { Box } from '@mui/material';
import { useEffect, useEffectEvent, useMemo, useState, type ReactElement, type ReactNode } from 'react';
import { useStore } from 'zustand';
import { faces, tokens } from '../ui/tokens.ts';
import { extentOf } from '../project/mesh-data.ts';
import { material } from '../workers/material.ts';
import type { Clock } from '../material/clock-store.ts';
import { InkScale, Legend } from './Legend.tsx';
import type { MeshLens as MeshLensName } from './lens.ts';
import { arrowsOn, lensLooks, painted, rampOf, seamBars, SPEED_INKS, STRETCH_INKS } from './paint.ts';
import type { StageItem } from './stage-items.ts';
import { useDrawn, type Drawable } from './use-drawn.ts';

/** What a lens puts on the Stage: in place of the material, or over it. */
export type LensItems = readonly StageItem[];
/** The material that a lens tells about. */
export interface LensSubject {
  readonly drawable: Drawable;
  readonly program: Program;
  readonly clock: Clock;
  /** Index of the step whose motion is wanted; of what is put out as colour where none is. */
  readonly step?: number | undefined;
  /** What is known of the whole material, as far as anything is. */
  readonly verdicts?: ByShift<Verdict> | undefined;
}

interface LensProps {
  readonly mesh: MeshData;
  readonly subject: LensSubject;
  /** Puts meshes on the Stage in place of what stands there. */
  readonly show: (items: LensItems) => void;
}

const Figure = ({
  children,
  ink = 'text.primary',
}: {
  readonly children: ReactNode;
  readonly ink?: string;
}): ReactElement => (
  <Box component="span" sx={{ fontFamily: faces.figures, color: ink }}>
    {children}
  </Box>
);

/** A lens for a mesh: what it shows goes to the Stage, its legend over it. */
export function MeshLens({
  lens,
  ...props
}: LensProps & { readonly lens: Exclude<MeshLensName, 'material'> }): ReactElement {
  const forget = useEffectEvent(() => {
    props.show([]);
  });
  useEffect(
    () => () => {
      forget();
    },
    [],
  );
  switch (lens) {
    case 'grid':
      return <Grid {...props} />;
    case 'stretch':
      return <Stretch {...props} />;
    case 'seams':
      return <Seams {...props} />;
    default:
      return <Moving key={lens} {...props} lens={lens} />;
  }
}

function Grid({ mesh, show }: LensProps): ReactElement {
  const put = useEffectEvent(show);
  useEffect(() => {
    put([{ key: 'lens', mesh, look: lensLooks().grid }]);
  }, [mesh]);
  return <Legend>The 0-1 UV square: u to the right, v down where the figures are upright.</Legend>;
}

/** Ends of the stretch scale. */
const MOST_STRETCH = 4;

function Stretch({ mesh, show }: LensProps): ReactElement {
  const put = useEffectEvent(show);
  const all = useMemo(() => stretches(mesh), [mesh]);
  useEffect(() => {
    const ramp = rampOf(STRETCH_INKS);
    put([
      {
        key: 'lens',
        mesh: painted(mesh, (t) => ramp(Math.log(all[t]! || 1) / Math.log(MOST_STRETCH))),
        look: lensLooks().paint,
      },
    ]);
  }, [mesh, all]);
  const finite = all.filter(Number.isFinite);
  const most = finite.reduce((a, b) => Math.max(a, b), 1);
  const none = all.filter((s) => s === Infinity).length;
  return (
    <Legend>
      <InkScale inks={STRETCH_INKS} />
      <span>
        Texel stretch 1:1 to {MOST_STRETCH}:1; largest here <Figure>{most.toFixed(most < 10 ? 1 : 0)}:1</Figure>.
        {none > 0 && (
          <Box component="span" sx={{ color: tokens.coral }}>
            {' '}
            {none === 1 ? 'One triangle has' : `${String(none)} triangles have`} no area in UV space.
          </Box>
        )}
      </span>
    </Legend>
  );
}

const FIELD = 40;

/** Speed on the surface, or arrows along it, of the chosen step; of what is put out as colour where none is. */
function Moving({
  mesh,
  show,
  lens,
  subject: { drawable, program, clock, step: wanted },
}: LensProps & { readonly lens: 'motion' | 'speed' }): ReactElement {
  const step = wanted ?? program.steps.findLastIndex((s) => s.kind === 'out' && s.name === 'color' && !s.off);
  // Fields change slowly; eight a loop are as good as all.
  const moment = useStore(clock, (s) => (Math.floor((s.time / s.seconds) * 8) / 8) * s.seconds);
  const put = useEffectEvent(show);
  const [found, setFound] = useState<{ readonly field: Float32Array; readonly step: number } | 'none'>();
  useDrawn(
    drawable,
    (subject) => material('draw').velocity(subject, Math.max(step, 0), moment, FIELD),
    `${String(step)} ${String(moment)}`,
    (next) => {
      setFound(next ?? 'none');
    },
  );
  const measured = useMemo(() => {
    if (!found || found === 'none') return undefined;
    const velocities = surfaceVelocities(mesh, found.field, FIELD);
    const speeds = lengthsOf(velocities);
    const known = speeds.filter(Number.isFinite).sort();
    // The few fastest triangles, at a pole or a pinch, would leave the others dark.
    return { velocities, speeds, slowest: known[0] ?? 0, fastest: known[Math.floor(known.length * 0.98)] ?? 0 };
  }, [found, mesh]);
  useEffect(() => {
    if (!measured) {
      put([]);
      return;
    }
    const { velocities, speeds, fastest } = measured;
    if (lens === 'motion')
      put([
        { key: 'stage', mesh },
        {
          key: 'lens',
          mark: true,
          mesh: arrowsOn(mesh, velocities, fastest, extentOf(mesh).radius),
          look: lensLooks().paint,
        },
      ]);
    else {
      const ramp = rampOf(SPEED_INKS);
      put([
        {
          key: 'lens',
          mesh: painted(mesh, (t) => ramp((speeds[t]! || 0) / Math.max(fastest, 1e-9))),
          look: lensLooks().paint,
        },
      ]);
    }
  }, [measured, mesh, lens]);
  if (found === 'none') return <Legend>This step has no UVs to measure. Select one that has.</Legend>;
  if (!measured || found === undefined) return <Legend>Measuring the motion ...</Legend>;
  const name = program.steps[found.step]?.name ?? 'It';
  const still = measured.fastest < 1e-5;
  const figure = (v: number): string => (v < 0.001 ? '0' : v.toPrecision(2));
  return (
    <Legend>
      {lens === 'speed' && !still && <InkScale inks={SPEED_INKS} />}
      <span>
        {still ? `${name}'s UVs do not move; it animates in place.` : `${name} moves on the surface at `}
        {!still && (
          <Figure ink={tokens.amber}>
            {figure(measured.slowest)} to {figure(measured.fastest)}
          </Figure>
        )}
        {!still && ' m/s'}
      </span>
    </Legend>
  );
}

/** Whether the material meets itself over the mesh's UV seams. */
function Seams({ mesh, show, subject: { drawable, verdicts } }: LensProps): ReactElement {
  const put = useEffectEvent(show);
  const seams = useMemo(() => uvSeamsOf(mesh), [mesh]);
  const sides = useMemo(
    () =>
      Float32Array.from(
        seams.flatMap(({ ends, across }) =>
          [...ends, ...across].flatMap((v) => [mesh.uvs[v * 2]!, mesh.uvs[v * 2 + 1]!]),
        ),
      ),
    [mesh, seams],
  );
  const [gaps, setGaps] = useState<Float32Array>();
  useDrawn(drawable, (subject) => material('draw').seams(subject, sides), String(seams.length), setGaps);
  useEffect(() => {
    put([
      { key: 'stage', mesh },
      ...(gaps?.length === seams.length && seams.length > 0
        ? [
            {
              key: 'lens',
              mark: true,
              mesh: seamBars(mesh, seams, (i) => gaps[i]! > CLOSED_WITHIN, extentOf(mesh).radius),
              look: lensLooks().paint,
            },
          ]
        : []),
    ]);
  }, [gaps, mesh, seams]);
  if (seams.length === 0) return <Legend>This mesh has no UV seams.</Legend>;
  if (gaps?.length !== seams.length) return <Legend>Measuring both sides of {seams.length} edges ...</Legend>;
  const broken = gaps.filter((g) => g > CLOSED_WITHIN).length;
  // A jump of whole tiles is met wherever the tile's own verdict holds.
  const proven = seams.every((seam) => {
    const tiles = tilesAcross(mesh, seam);
    const holds = (shift: Shift): boolean => isProven(verdicts?.[shift]);
    return tiles !== undefined && (tiles[0] === 0 || holds('tile_u')) && (tiles[1] === 0 || holds('tile_v'));
  });
  return (
    <Legend>
      {broken === 0 ? (
        <span>
          The material continues across all {seams.length} seam edges:{' '}
          {proven ? 'proven, their UVs are whole tiles apart' : 'measured on both sides'}.
        </span>
      ) : (
        <span>
          <Figure ink={tokens.coral}>{broken}</Figure> of {seams.length} seam edges do not match: the two sides differ
          by up to <Figure ink={tokens.coral}>{gaps.reduce((a, b) => Math.max(a, b), 0).toPrecision(2)}</Figure>.
        </span>
      )}
    </Legend>
  );
}
