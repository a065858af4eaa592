import { setDefault, setVariantValue, type Program, type Switch } from '@estela/core';
import { Box, Switch as Toggle, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import { useSession } from '../session.ts';
import { NameCell } from './NameCell.tsx';
import { Row } from './Row.tsx';
import { settingTexts } from './settings.ts';
import { VariantCell } from './VariantCell.tsx';

/** One switch: on or off in the base and in each variant. */
export function SwitchRow({ of, program }: { readonly of: Switch; readonly program: Program }): ReactElement {
  const { document } = useSession();
  const { name, on, help } = of;
  return (
    <Row variants={program.variants.length}>
      <NameCell name={name} help={help} />
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
        <Toggle
          size="small"
          checked={on}
          slotProps={{ input: { 'aria-label': name } }}
          onChange={(_, next) => {
            document.edit(setDefault(document.getState().derived.program.tree, name, next ? 'on' : 'off'));
          }}
        />
        <Typography component="span" sx={{ color: 'text.secondary' }}>
          {on ? 'on' : 'off'}
        </Typography>
      </Box>
      <span />
      <span />
      {program.variants.map((v) => {
        const value = settingTexts(program, v.name).get(name);
        return (
          <VariantCell key={v.name} program={program} title={v.name} name={name}>
            <Toggle
              size="small"
              checked={value === 'on'}
              slotProps={{ input: { 'aria-label': `${name} of ${v.name}` } }}
              onChange={(_, next) => {
                document.edit(
                  setVariantValue(document.getState().derived.program.tree, v.name, name, next ? 'on' : 'off'),
                );
              }}
              sx={{ opacity: v.values.has(name) ? 1 : 0.6 }}
            />
          </VariantCell>
        );
      })}
      <Typography noWrap sx={{ color: 'text.secondary' }}>
        {help}
      </Typography>
    </Row>
  );
}
