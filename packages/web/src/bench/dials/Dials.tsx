import { exceeded, groupsOf, setDefault, setVariantValue, type IdleDial } from '@estela/core';
import { Box, Button, InputBase, Typography } from '@mui/material';
import { useState, type CSSProperties, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { tokens } from '../../ui/tokens.ts';
import { useSize } from '../../ui/use-size.ts';
import { useSession } from '../session.ts';
import { DialRow } from './DialRow.tsx';
import { variantWidth } from './columns.ts';
import { Row } from './Row.tsx';
import { VariantHead } from './VariantHead.tsx';
import { SwitchRow } from './SwitchRow.tsx';

/** Above so many dials there is a filter. */
const FILTERED = 8;

/**
 * The exposed parameters: rows are dials and switches, columns the base and the variants. Each control writes the text;
 * the shader takes values as uniforms.
 */
export function Dials(): ReactElement {
  const { debounced, checks } = useSession();
  const program = useStore(debounced, (s) => s.derived.program);
  const settings = useStore(checks, (s) => s.report?.variants);
  const budget = useStore(checks, (s) => s.budget);
  const troubleOf = (name: string | undefined): string | undefined => {
    const found = settings?.find((v) => v.name === name);
    if (found?.verdicts.verdicts.loop === 'open') return 'does not loop';
    return found && exceeded(found.cost, budget).length > 0 ? 'over budget' : undefined;
  };
  const idle = useStore(checks, (s) => s.report?.idle);
  const [sought, setSought] = useState('');
  const { area, size } = useSize<HTMLDivElement>();
  const { dials, switches, variants, tree } = program;
  const groups = groupsOf(tree);
  const rows = [
    ...dials.map((d) => ({ kind: 'dial' as const, at: d.span.from, name: d.name, help: d.help, dial: d })),
    ...switches.map((s) => ({ kind: 'switch' as const, at: s.span.from, name: s.name, help: s.help, of: s })),
  ].sort((a, b) => a.at - b.at);
  const wanted = rows.length > FILTERED ? sought.trim().toLowerCase() : '';
  const found = rows.filter(
    ({ name, help }) =>
      wanted === '' || [name, help, groups.get(name) ?? ''].some((words) => words.toLowerCase().includes(wanted)),
  );

  return (
    <Box
      ref={area}
      style={{ '--variant': `${String(variantWidth(size[0], variants.length))}px` } as CSSProperties}
      sx={{ containerType: 'inline-size', minHeight: '100%' }}
    >
      {rows.length > FILTERED && (
        <Box sx={{ position: 'sticky', left: 0, width: '100cqw', px: 1.5, py: 0.5 }}>
          <InputBase
            value={sought}
            placeholder={`Filter ${String(rows.length)} dials`}
            onChange={(event) => {
              setSought(event.target.value);
            }}
            slotProps={{ input: { 'aria-label': 'Filter the dials' } }}
            sx={{ width: 240, height: 26, px: 0.75, border: 1, borderColor: 'divider', borderRadius: '3px' }}
          />
        </Box>
      )}
      {rows.length === 0 && (
        <Typography sx={{ p: 1.5, color: 'text.secondary' }}>
          No dials yet. &quot;Make a dial&quot; in the Step tab exposes a number of the step; &quot;+ Dial&quot; begins
          one that nothing uses yet.
        </Typography>
      )}
      {rows.length > 0 && (
        <Row variants={variants.length} head>
          <span>Name</span>
          <VariantHead program={program} title={undefined} trouble={troubleOf(undefined)} />
          <span />
          <span>Range</span>
          {variants.map((v) => (
            <VariantHead key={v.name} program={program} title={v.name} trouble={troubleOf(v.name)} />
          ))}
          <span>What it does</span>
        </Row>
      )}
      {rows.length > 0 && found.length === 0 && (
        <Typography sx={{ p: 1.5, color: 'text.secondary' }}>No dial matches &quot;{sought}&quot;.</Typography>
      )}
      {found.map((row, i) => {
        const group = groups.get(row.name) ?? '';
        const idleHere = idle?.find((d) => d.name === row.name);
        const begins = group !== (groups.get(found[i - 1]?.name ?? '') ?? '');
        return (
          <Box key={row.name}>
            {begins && group !== '' && (
              <Typography
                component="h3"
                sx={{
                  position: 'sticky',
                  left: 0,
                  width: 'max-content',
                  px: 1.5,
                  pt: 0.75,
                  fontWeight: 500,
                  color: tokens.bone,
                }}
              >
                {group}
              </Typography>
            )}
            {row.kind === 'dial' ? (
              <DialRow dial={row.dial} program={program} idle={idleHere !== undefined} />
            ) : (
              <SwitchRow of={row.of} program={program} />
            )}
            <IdleNote idle={idleHere} />
          </Box>
        );
      })}
    </Box>
  );
}

/** Says under a dial that it has no effect, and which switch brings it back. */
function IdleNote({ idle }: { readonly idle: IdleDial | undefined }): ReactElement | null {
  const { document, debounced, shown } = useSession();
  const program = useStore(debounced, (s) => s.derived.program);
  const variant = useStore(shown, (s) => s.variant);
  if (!idle) return null;
  const { name, back } = idle;
  const present = program.variants.some((v) => v.name === variant) ? variant : undefined;
  const word = back?.on === true ? 'on' : 'off';
  return (
    <Box
      sx={{
        position: 'sticky',
        left: 0,
        width: '100cqw',
        display: 'flex',
        alignItems: 'center',
        gap: 1,
        pl: 1.5,
        color: 'text.secondary',
        borderBottom: 1,
        borderColor: 'divider',
      }}
    >
      {back ? `${name} has no effect while ${back.name} is ${back.on ? 'off' : 'on'}.` : `${name} has no effect.`}
      {back && (
        <Button
          sx={{ minHeight: 24, py: 0 }}
          onClick={() => {
            const { tree } = document.getState().derived.program;
            document.edit(
              present === undefined
                ? setDefault(tree, back.name, word)
                : setVariantValue(tree, present, back.name, word),
            );
          }}
        >
          Turn {back.name} {word}
        </Button>
      )}
    </Box>
  );
}
