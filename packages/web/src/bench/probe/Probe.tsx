import { Box, Button, Typography } from '@mui/material';
import { useEffect, useState, type ReactElement } from 'react';
import { Line, LineChart, ReferenceLine, ResponsiveContainer, XAxis, YAxis } from 'recharts';
import { useStore } from 'zustand';
import { faces, tokens } from '../../ui/tokens.ts';
import { useSession } from '../session.ts';
import { startProbe, valueText, type ProbeValues } from './probe-player.ts';
import { stepRefOf } from '../../material/step-ref.ts';
import { useSelectedIndex } from '../selection.ts';

const INKS = ['#e0796f', '#8fbf7f', '#7fa8d8', tokens.bone];

/** What every step is worth at one pixel now, and how the selected one goes over the loop. */
export function Probe(): ReactElement {
  const session = useSession();
  const { pointer, selection, probed, debounced } = session;
  const program = useStore(debounced, (s) => s.derived.program);
  const pinned = useStore(pointer, (s) => s.pinned);
  const index = useSelectedIndex();
  const [seen, setSeen] = useState<ProbeValues>();
  useEffect(() => {
    const { store, stop } = startProbe(session);
    const end = store.subscribe((next) => {
      setSeen(next);
      probed.setState({ values: next.values });
    });
    return () => {
      end();
      stop();
      probed.setState({ values: undefined });
      pointer.setState({ pinned: undefined });
    };
  }, [session, pointer, probed]);

  if (!seen?.values || !seen.pixel)
    return (
      <Typography sx={{ p: 1.5, color: 'text.secondary' }}>
        Move over the Stage to read every step there; click to pin a pixel, click it again to let it go.
      </Typography>
    );
  const { values, pixel, history, historyOf } = seen;
  const rows = program.steps.flatMap((step, i) => (step.off ? [] : [{ step, i, value: values[i] ?? [] }]));
  const plotted = historyOf === undefined ? undefined : program.steps[historyOf];
  const width = history[0]?.value.length ?? 0;
  const data = history.map(({ time, value }) => ({
    time,
    ...Object.fromEntries(value.map((v, c) => [`c${String(c)}`, v])),
  }));
  return (
    <Box sx={{ px: 1.5, py: 1 }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, minHeight: 28 }}>
        <Typography aria-label="Probed pixel">
          {pinned ? 'Pinned at' : 'At'} u <Figure>{pixel.uv[0].toFixed(3)}</Figure> v{' '}
          <Figure>{pixel.uv[1].toFixed(3)}</Figure>
        </Typography>
        {pinned && (
          <Button
            onClick={() => {
              pointer.setState({ pinned: undefined });
            }}
          >
            Unpin
          </Button>
        )}
      </Box>
      {plotted && (
        <Box role="img" aria-label={`${plotted.name} over the loop at this pixel`} sx={{ height: 96 }}>
          <ResponsiveContainer width="100%" height="100%" initialDimension={{ width: 500, height: 96 }}>
            <LineChart accessibilityLayer={false} data={data} margin={{ top: 4, right: 8, bottom: 0, left: 0 }}>
              <XAxis
                dataKey="time"
                type="number"
                domain={[0, program.loop.seconds]}
                tick={{ fill: tokens.dim, fontSize: 11 }}
                unit=" s"
                stroke={tokens.line}
              />
              <YAxis
                width={44}
                tick={{ fill: tokens.dim, fontSize: 11 }}
                stroke={tokens.line}
                domain={['auto', 'auto']}
                tickFormatter={(v: number) => v.toFixed(2)}
              />
              <Now />
              {Array.from({ length: width }, (_, c) => (
                <Line
                  key={c}
                  dataKey={`c${String(c)}`}
                  stroke={width === 1 ? tokens.bone : INKS[c]!}
                  dot={false}
                  isAnimationActive={false}
                  type="linear"
                />
              ))}
            </LineChart>
          </ResponsiveContainer>
        </Box>
      )}
      <Box
        component="table"
        sx={{
          width: '100%',
          borderCollapse: 'collapse',
          '& td': { p: '2px 4px', borderTop: 1, borderColor: 'divider' },
        }}
      >
        <tbody>
          {rows.map(({ step, i, value }) => (
            <Box component="tr" key={i} sx={{ bgcolor: i === index ? tokens.select : 'transparent' }}>
              <td>
                <Button
                  sx={{ minHeight: 20, py: 0, px: 0.5 }}
                  aria-label={`Plot ${step.name}, step ${String(i + 1)}`}
                  onClick={() => {
                    selection.setState({ step: stepRefOf(program, i) });
                  }}
                >
                  {step.kind === 'out' ? `out ${step.name}` : step.name}
                </Button>
              </td>
              <Box
                component="td"
                sx={{ fontFamily: faces.figures, fontSize: 12, whiteSpace: 'pre', textAlign: 'right' }}
              >
                {valueText(step.type, value)}
              </Box>
            </Box>
          ))}
        </tbody>
      </Box>
    </Box>
  );
}

function Figure({ children }: { readonly children: string }): ReactElement {
  return (
    <Box component="span" sx={{ fontFamily: faces.figures }}>
      {children}
    </Box>
  );
}

/** The moment of the deck on the chart. */
function Now(): ReactElement {
  const { clock } = useSession();
  const time = useStore(clock, (s) => Math.round(s.time * 20) / 20);
  return <ReferenceLine x={time} stroke={tokens.text} />;
}
