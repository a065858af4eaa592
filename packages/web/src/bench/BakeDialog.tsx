import { CHANNELS, type Program, type StepRecipe } from '@estela/core';
import {
  Box,
  Button,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  MenuItem,
  TextField,
  Typography,
} from '@mui/material';
import { useState, type ReactElement } from 'react';
import { Link } from 'react-router';
import { useStore } from 'zustand';
import { sentence, type Source } from '../api/client.ts';
import { tokens } from '../ui/tokens.ts';
import { bakeToSource } from '../project/bake.ts';
import { freeName } from '../project/sources-store.ts';
import { useSession } from './session.ts';

/** Steps by name, the last of each, then the outputs. */
function choices(program: Program): { name: string; encoding: StepRecipe['encoding'] }[] {
  const encodingOf = (type: string): StepRecipe['encoding'] => (type === 'vec3' || type === 'vec4' ? 'color' : 'data');
  const steps = new Map(program.steps.filter((s) => s.kind === 'step').map((s) => [s.name, encodingOf(s.type)]));
  const outs = CHANNELS.filter((c) => program.steps.some((s) => s.kind === 'out' && s.name === c)).map((c) => ({
    name: `out.${c}`,
    encoding: c === 'color' || c === 'emissive' ? 'color' : c === 'normal' ? 'normal' : 'data',
  }));
  return [
    ...[...steps].map(([name, encoding]) => ({ name, encoding })),
    ...(outs as { name: string; encoding: StepRecipe['encoding'] }[]),
  ];
}

const SIZES = [64, 128, 256, 512, 1024, 2048, 4096];
const seconds = (time: number): string => String(Number(time.toFixed(3)));

/** Bakes a step at the moment that is shown into a source that remembers how. */
export function BakeDialog({ close }: { readonly close: () => void }): ReactElement {
  const { document, clock, sources, material, project } = useSession();
  const program = useStore(document, (s) => s.look.program);
  const list = useStore(sources, (s) => s.sources);
  const steps = choices(program);
  const first = steps.find((s) => s.name === 'out.color') ?? steps.at(-1);
  const [step, setStep] = useState(first?.name ?? '');
  const [encoding, setEncoding] = useState<StepRecipe['encoding']>(first?.encoding ?? 'data');
  const [width, setWidth] = useState(512);
  const [height, setHeight] = useState(512);
  const [bits, setBits] = useState<8 | 16>(8);
  const [time, setTime] = useState(seconds(clock.getState().time));
  const [name, setName] = useState('');
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState('');
  const [made, setMade] = useState<Source>();
  const wanted = name.trim() || freeName(`${step.replace('out.', '')}-bake.png`, list);
  const moment = Number(time);

  const bake = async (): Promise<void> => {
    setBusy(true);
    setProblem('');
    try {
      const from = { material: { ...material, text: program.tree.text }, program };
      setMade(await bakeToSource(sources, from, { step, width, height, time: moment, encoding, bits }, wanted));
    } catch (error) {
      setProblem(sentence(error));
    }
    setBusy(false);
  };
  const select = <T extends string | number>(
    label: string,
    value: T,
    options: readonly (readonly [T, string])[],
    set: (value: T) => void,
  ): ReactElement => (
    <TextField
      select
      label={label}
      value={value}
      onChange={(event) => {
        set(event.target.value as T);
      }}
      sx={{ flex: 1 }}
    >
      {options.map(([option, words]) => (
        <MenuItem key={option} value={option}>
          {words}
        </MenuItem>
      ))}
    </TextField>
  );
  return (
    <Dialog open onClose={close} fullWidth maxWidth="sm">
      <DialogTitle>Bake a step to a source</DialogTitle>
      <DialogContent>
        {made ? (
          <Typography>
            <Link to={`/projects/${project.id}/sources/${made.id}`} style={{ color: tokens.text }}>
              {made.name}
            </Link>{' '}
            is now a source. It is marked stale when this material changes, and can be baked again.
          </Typography>
        ) : (
          <Box sx={{ display: 'flex', flexDirection: 'column', gap: 2, pt: 1 }}>
            <Box sx={{ display: 'flex', gap: 1.5 }}>
              {select(
                'Step',
                step,
                steps.map((s) => [s.name, s.name] as const),
                (next) => {
                  setStep(next);
                  setEncoding(steps.find((s) => s.name === next)?.encoding ?? 'data');
                },
              )}
              {select(
                'Stored as',
                encoding,
                [
                  ['color', 'colour (sRGB)'],
                  ['data', 'data, unchanged'],
                  ['normal', 'normal, -1..1'],
                ] as const,
                setEncoding,
              )}
              {select(
                'Bits',
                bits,
                [
                  [8, '8 bit'],
                  [16, '16 bit'],
                ] as const,
                setBits,
              )}
            </Box>
            <Box sx={{ display: 'flex', gap: 1.5 }}>
              {select(
                'Width',
                width,
                SIZES.map((n) => [n, String(n)] as const),
                setWidth,
              )}
              {select(
                'Height',
                height,
                SIZES.map((n) => [n, String(n)] as const),
                setHeight,
              )}
              <TextField
                label="Time (s)"
                value={time}
                error={!(moment >= 0)}
                onChange={(event) => {
                  setTime(event.target.value);
                }}
                sx={{ flex: 1 }}
              />
            </Box>
            <TextField
              label="Name"
              slotProps={{ inputLabel: { shrink: true } }}
              placeholder={wanted}
              value={name}
              onChange={(event) => {
                setName(event.target.value);
              }}
              error={problem !== ''}
              helperText={problem || 'The dials stay as they are now; values outside 0..1 are held to it.'}
            />
          </Box>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>{made ? 'Done' : 'Cancel'}</Button>
        {!made && (
          <Button variant="contained" disabled={busy || step === '' || !(moment >= 0)} onClick={() => void bake()}>
            {busy ? 'Baking' : 'Bake'}
          </Button>
        )}
      </DialogActions>
    </Dialog>
  );
}
