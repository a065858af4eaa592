import {
  applyEdits,
  exceeded,
  lineAndColumn,
  MEASURES,
  SHAPES,
  type Budget,
  type Finding,
  type Lens,
} from '@estela/core';
import { Box, Button, InputBase, Typography } from '@mui/material';
import { lazy, Suspense, useState, type ReactElement } from 'react';
import { useStore } from 'zustand';
import type { Source } from '../../api/client.ts';
import { faces, tokens } from '../../ui/tokens.ts';
import { material } from '../../workers/material.ts';
import { useSession } from '../session.ts';
import { stepRefOf } from '../../material/step-ref.ts';
import { partsOfView, useStageAddress } from '../../viewport/lens.ts';
import { applyFix } from './apply-fix.ts';
import { subjectOf } from './checks-store.ts';
import { useFindings } from './use-findings.ts';

const TileDialog = lazy(async () => ({ default: (await import('../../project/TileDialog.tsx')).TileDialog }));

const INKS = { error: tokens.coral, warning: tokens.coral, note: tokens.dim } as const;

const LENS_WORDS: Record<Lens, string> = {
  material: 'Show the material',
  step: 'Show the step',
  tiling: 'Show the tiling',
  seams: 'Show the seams',
  loop: 'Show the difference',
  motion: 'Show the motion',
};

/** What the proof and the measures found, why, what shows it, and what fixes it. */
export function Checks(): ReactElement {
  const session = useSession();
  const { checks, document, clock, debounced, shown, sources } = session;
  const { findings, stale } = useFindings();
  const working = useStore(checks, (s) => s.working);
  const report = useStore(checks, (s) => s.report);
  const text = useStore(debounced, (s) => s.text);
  const [said, setSaid] = useState('');
  const fixable = findings.filter((f) => f.fixes.length > 0 && !stale.has(f));

  /** As one undo. */
  const fixAll = async (): Promise<void> => {
    const edits = fixable.map((f) => f.fixes[0]!.edits);
    const before = debounced.getState().text;
    setSaid('Trying the fixes ...');
    const kept = await material('draw').keeping(
      subjectOf(debounced.getState(), shown.getState(), sources),
      edits,
      clock.getState().time,
    );
    if (document.getState().text !== before) {
      setSaid('The text has changed meanwhile; try again.');
      return;
    }
    if (kept.length > 0)
      document.edit([
        {
          from: 0,
          to: before.length,
          insert: applyEdits(
            before,
            kept.flatMap((i) => edits[i]!),
          ),
        },
      ]);
    setSaid(
      kept.length === 0
        ? 'Every fix changes this frame. Apply them one by one.'
        : `${String(kept.length)} of ${String(fixable.length)} applied; undo takes them back.`,
    );
  };

  return (
    <Box sx={{ display: 'flex', flexDirection: 'column' }}>
      <Box
        sx={{
          display: 'flex',
          alignItems: 'center',
          flexWrap: 'wrap',
          columnGap: 1,
          px: 1.5,
          py: 0.5,
          borderBottom: 1,
          borderColor: 'divider',
        }}
      >
        <Button
          variant="outlined"
          disabled={fixable.length === 0}
          title="Applies the first fix of each finding that does not change this frame"
          onClick={() => void fixAll()}
        >
          Apply all safe fixes
        </Button>
        <Typography role="status" sx={{ color: 'text.secondary', flex: 1, minWidth: 120 }}>
          {said || (working ? 'Checking more ...' : '')}
        </Typography>
        <Limits />
      </Box>
      {findings.length === 0 && (
        <Typography sx={{ p: 1.5, color: 'text.secondary' }}>
          {report ? 'No problems found.' : 'Checking the material ...'}
        </Typography>
      )}
      <Box component="ul" aria-label="Findings" sx={{ m: 0, p: 0, listStyle: 'none' }}>
        {findings.map((f) => (
          <FindingRow
            key={`${f.code}:${String(f.from)}:${String(f.to)}`}
            finding={f}
            line={lineAndColumn(text, f.from).line}
            stale={stale.has(f)}
          />
        ))}
      </Box>
    </Box>
  );
}

function FindingRow({
  finding,
  line,
  stale,
}: {
  readonly finding: Finding;
  readonly line: number;
  readonly stale: boolean;
}): ReactElement {
  const session = useSession();
  const { debounced, selection } = session;
  const address = useStageAddress();
  const { severity, message, fixes, because, lens, step, tileable } = finding;
  const source = useStore(session.sources, (s) => s.sources.find((found) => found.name === tileable?.source));
  const [tiling, setTiling] = useState(false);
  /** Lets the material read what was made, as one undo. */
  const takeTiled = ({ name }: Source): void => {
    const { program } = session.document.getState().derived;
    const image = program.images.find((i) => i.name === tileable?.image && i.source === tileable.source);
    if (!image) return;
    const { from, to } = image.sourceSpan;
    session.document.edit([{ from, to, insert: `"${name.replace(/["\n\r]/g, "'")}"` }]);
  };
  /** Puts the cursor on the line, and the Stage's lens on what is wrong. */
  const show = (): void => {
    const { program } = debounced.getState().derived;
    const at = step ?? program.steps.findIndex((s) => s.span.from <= finding.from && finding.to <= s.span.to);
    const found = stepRefOf(program, at);
    if (found) selection.setState({ step: found });
    selection.setState({ alone: lens === 'step' ? found : undefined });
    if (lens) address.show({ lens: lens === 'step' ? 'material' : lens });
  };
  return (
    <Box component="li" sx={{ px: 1.5, py: 0.75, '& + li': { borderTop: 1, borderColor: 'divider' } }}>
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1 }}>
        <Box component="span" sx={{ color: INKS[severity], whiteSpace: 'nowrap', flex: 'none', minWidth: 92 }}>
          {severity}, line {line}
        </Box>
        <Typography sx={{ flex: 1 }}>{message}</Typography>
      </Box>
      {because && because.length > 0 && (
        <Box
          component="ol"
          aria-label="Why"
          sx={{ m: 0, pl: '100px', pr: 0, py: 0.25, listStyle: 'none', color: 'text.secondary' }}
        >
          {because.map((r, i) => (
            <li key={i}>
              <Box component="span" sx={{ fontFamily: faces.figures, fontSize: 12 }}>
                {String(r.line).padStart(2, ' ')}
              </Box>{' '}
              {r.text}
            </li>
          ))}
        </Box>
      )}
      <Box
        sx={{
          display: 'flex',
          flexWrap: 'wrap',
          gap: 0.75,
          pl: '100px',
          pt: fixes.length > 0 || lens || tileable ? 0.25 : 0,
        }}
      >
        {source && tileable && (
          <Button
            variant="outlined"
            disabled={stale}
            onClick={() => {
              setTiling(true);
            }}
          >
            Make tileable
          </Button>
        )}
        {fixes.map((fix) => (
          <Button
            key={fix.title}
            variant="outlined"
            disabled={stale}
            onClick={() => {
              applyFix(session, fix.edits);
            }}
          >
            {fix.title}
          </Button>
        ))}
        {(lens !== undefined || step !== undefined) && (
          <Button sx={{ color: 'text.secondary' }} onClick={show}>
            {lens ? LENS_WORDS[lens] : 'Go to the line'}
          </Button>
        )}
      </Box>
      {tiling && source && tileable && (
        <Suspense>
          <TileDialog
            source={source}
            axes={tileable.axes}
            store={session.sources}
            close={() => {
              setTiling(false);
            }}
            made={takeTiled}
          />
        </Suspense>
      )}
    </Box>
  );
}

/** The budget of the project, and the shape of the surface it is for. */
function Limits(): ReactElement {
  const { checks } = useSession();
  const budget = useStore(checks, (s) => s.budget);
  const aspect = useStore(checks, (s) => s.aspect);
  const cost = useStore(checks, (s) => s.report?.cost);
  const { view } = useStageAddress();
  const shown = partsOfView(view);
  const shape = shown.kind === 'shape' ? SHAPES[shown.name] : undefined;
  return (
    <Box
      role="group"
      aria-label="Budget"
      sx={{ display: 'flex', alignItems: 'center', gap: 0.75, color: 'text.secondary', fontSize: 12 }}
    >
      {MEASURES.map((what) => (
        <Box
          key={what}
          component="label"
          title={`Most ${what} a pixel may cost; empty for no limit`}
          sx={{
            display: 'flex',
            alignItems: 'center',
            gap: '3px',
            color: cost && exceeded(cost, budget).includes(what) ? tokens.coral : 'inherit',
          }}
        >
          {what} {cost ? String(cost[what]) : ''} /
          <Field
            value={budget[what] === undefined ? '' : String(budget[what])}
            placeholder="any"
            label={`Most ${what}`}
            commit={(typed) => {
              const rest = Object.fromEntries(Object.entries(budget).filter(([name]) => name !== what)) as Budget;
              const most = Number(typed);
              checks.setBudget(
                typed.trim() !== '' && Number.isInteger(most) && most >= 0 ? { ...rest, [what]: most } : rest,
              );
            }}
          />
        </Box>
      ))}
      <Box
        component="label"
        title="Width / height of the surface, to check for stretched noise"
        sx={{ display: 'flex', alignItems: 'center', gap: '3px' }}
      >
        aspect
        <Field
          value={String(aspect)}
          placeholder="1"
          label="Aspect of the surface"
          commit={(typed) => {
            const ratio = Number(typed);
            if (ratio > 0 && Number.isFinite(ratio)) checks.setAspect(ratio);
          }}
        />
      </Box>
      {shape && shape.aspect !== aspect && (
        <Button
          sx={{ minHeight: 22, py: 0, px: 0.75, fontSize: 12 }}
          title="Use the shape on the Stage"
          onClick={() => {
            checks.setAspect(shape.aspect);
          }}
        >
          {shape.label}: {shape.aspect}
        </Button>
      )}
    </Box>
  );
}

function Field({
  value,
  placeholder,
  label,
  commit,
}: {
  readonly value: string;
  readonly placeholder: string;
  readonly label: string;
  readonly commit: (typed: string) => void;
}): ReactElement {
  const [typed, setTyped] = useState<string>();
  return (
    <InputBase
      value={typed ?? value}
      placeholder={placeholder}
      onChange={(event) => {
        setTyped(event.target.value);
      }}
      onBlur={() => {
        if (typed !== undefined) commit(typed);
        setTyped(undefined);
      }}
      onKeyDown={(event) => {
        if (event.key === 'Enter') (event.target as HTMLElement).blur();
      }}
      slotProps={{ input: { 'aria-label': label } }}
      sx={{
        width: 44,
        height: 22,
        px: 0.5,
        fontSize: 12,
        fontFamily: faces.figures,
        border: 1,
        borderColor: 'divider',
        borderRadius: '3px',
        color: 'text.primary',
      }}
    />
  );
}
