import {
  addVariant,
  applyEdits,
  exceeded,
  freeName,
  groupsOf,
  insertDeclaration,
  parse,
  randomValues,
  setDefault,
  setVariantValue,
  type Program,
  type TextEdit,
} from '@estela/core';
import { Box, Button, InputBase, Typography } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { tokens } from '../../ui/tokens.ts';
import { useSession } from '../session.ts';
import { columnsFor } from './columns.ts';
import { DialRow } from './DialRow.tsx';
import { freeTitle, VariantHead } from './VariantHead.tsx';
import { SwitchRow } from './SwitchRow.tsx';
import { settingJson, settingTexts } from './settings.ts';

/**
 * The exposed parameters: rows are dials and switches, columns the base and the variants. Each control writes the text;
 * the shader takes values as uniforms.
 */
export function Dials(): ReactElement {
  const { document, shown, debounced, checks } = useSession();
  const now = (): Program => document.getState().derived.program;
  const program = useStore(debounced, (s) => s.derived.program);
  const variant = useStore(shown, (s) => s.variant);
  const settings = useStore(checks, (s) => s.report?.variants);
  const budget = useStore(checks, (s) => s.budget);
  const troubleOf = (name: string | undefined): string | undefined => {
    const found = settings?.find((v) => v.name === name);
    if (found?.verdicts.verdicts.loop === 'open') return 'opens';
    return found && exceeded(found.cost, budget).length > 0 ? 'over budget' : undefined;
  };
  const [seed, setSeed] = useState(1);
  const [said, setSaid] = useState('');
  const { dials, switches, variants, tree } = program;
  const groups = groupsOf(tree);
  const rows = [
    ...dials.map((d) => ({ kind: 'dial' as const, at: d.span.from, name: d.name, dial: d })),
    ...switches.map((s) => ({ kind: 'switch' as const, at: s.span.from, name: s.name, of: s })),
  ].sort((a, b) => a.at - b.at);
  const present = variants.some((v) => v.name === variant) ? variant : undefined;

  const keep = (): void => {
    const title = freeTitle(program, 'Variant');
    document.edit(addVariant(now().tree, title, [...settingTexts(now(), present)]));
    shown.setState({ variant: title });
  };
  const randomise = (): void => {
    const { text: start } = document.getState();
    let text = start;
    for (const [name, literal] of randomValues(now(), seed)) {
      const now = parse(text);
      text = applyEdits(
        text,
        present === undefined ? setDefault(now, name, literal) : setVariantValue(now, present, name, literal),
      );
    }
    document.edit([{ from: 0, to: start.length, insert: text }] satisfies TextEdit[]);
  };
  const copy = async (): Promise<void> => {
    try {
      await navigator.clipboard.writeText(settingJson(program, present));
      setSaid('Copied.');
    } catch {
      setSaid('The browser does not let this page copy.');
    }
  };
  const grid = {
    display: 'grid',
    gridTemplateColumns: columnsFor(variants.length),
    alignItems: 'center',
    columnGap: 1,
    px: 1.5,
    minWidth: 'max-content',
  } as const;

  return (
    <Box component="section" aria-label="Dials" sx={{ flex: 1, minHeight: 0, overflow: 'auto' }}>
      <Box
        sx={{
          display: 'flex',
          alignItems: 'center',
          gap: 0.5,
          height: 34,
          pl: 1.5,
          pr: 0.5,
          borderBottom: 1,
          borderColor: 'divider',
          position: 'sticky',
          top: 0,
          left: 0,
          bgcolor: 'background.default',
          zIndex: 2,
        }}
      >
        <Typography variant="h2" sx={{ fontSize: 13, mr: 'auto' }}>
          Dials
        </Typography>
        <Typography role="status" sx={{ color: 'text.secondary' }}>
          {said}
        </Typography>
        {rows.length > 0 && (
          <>
            <InputBase
              type="number"
              value={seed}
              onChange={(event) => {
                setSeed(Math.trunc(Number(event.target.value)));
              }}
              slotProps={{ input: { 'aria-label': 'Seed' } }}
              sx={{
                width: 64,
                height: 24,
                px: 0.75,
                fontSize: 12.5,
                border: 1,
                borderColor: 'divider',
                borderRadius: '3px',
              }}
            />
            <Button
              title={`Puts every dial with a range somewhere in it, in ${present ?? 'the base'}; the same seed gives the same values`}
              onClick={randomise}
            >
              Randomise {present ?? 'base'}
            </Button>
            <Button onClick={() => void copy()}>Copy as JSON</Button>
            <Button title="Keeps the values shown as a variant" onClick={keep}>
              Keep as variant
            </Button>
          </>
        )}
        <Button
          variant="outlined"
          onClick={() => {
            document.edit(
              insertDeclaration(now().tree, ['dial', 'switch'], `dial ${freeName(program, 'amount')} = 0.5 in 0..1`),
            );
          }}
        >
          + Dial
        </Button>
      </Box>
      {rows.length === 0 && (
        <Typography sx={{ p: 1.5, color: 'text.secondary' }}>
          No dials yet. &quot;Make a dial&quot; in the card of a step exposes one of its numbers; &quot;+ Dial&quot;
          begins one that nothing uses yet.
        </Typography>
      )}
      {rows.length > 0 && (
        <Box sx={{ ...grid, minHeight: 28, color: 'text.secondary', borderBottom: 1, borderColor: 'divider' }}>
          <span>Name</span>
          <VariantHead program={program} title={undefined} trouble={troubleOf(undefined)} />
          <span />
          <span>Range</span>
          {variants.map((v) => (
            <VariantHead key={v.name} program={program} title={v.name} trouble={troubleOf(v.name)} />
          ))}
          <span>What it does</span>
        </Box>
      )}
      {rows.map((row, i) => {
        const group = groups.get(row.name) ?? '';
        const begins = group !== (groups.get(rows[i - 1]?.name ?? '') ?? '');
        return (
          <Box key={row.name}>
            {begins && group !== '' && (
              <Typography component="h3" sx={{ px: 1.5, pt: 0.75, fontWeight: 500, color: tokens.bone }}>
                {group}
              </Typography>
            )}
            {row.kind === 'dial' ? (
              <DialRow dial={row.dial} program={program} />
            ) : (
              <SwitchRow of={row.of} program={program} />
            )}
          </Box>
        );
      })}
    </Box>
  );
}
