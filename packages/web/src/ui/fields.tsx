import { Box, MenuItem, Select, Typography } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';

/** Settings that belong together. */
export function Part({ title, children }: { readonly title: string; readonly children: ReactNode }): ReactElement {
  return (
    <Box component="section" aria-label={title}>
      <Typography component="h2" sx={{ color: 'text.secondary', mb: 0.5 }}>
        {title}
      </Typography>
      {children}
    </Box>
  );
}

/** A setting with its name before it. */
export function Line({ name, children }: { readonly name: string; readonly children: ReactNode }): ReactElement {
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '72px 1fr', alignItems: 'center', minHeight: 32 }}>
      <Typography>{name}</Typography>
      {children}
    </Box>
  );
}

/** One of some words. */
export function Choice<T extends string>({
  label,
  value,
  options,
  choose,
}: {
  readonly label: string;
  readonly value: T;
  readonly options: readonly (readonly [value: T, label: string])[];
  readonly choose: (value: T) => void;
}): ReactElement {
  return (
    <Select
      size="small"
      displayEmpty
      value={value}
      slotProps={{ input: { 'aria-label': label } }}
      onChange={(event) => {
        choose(event.target.value as T);
      }}
      sx={{ height: 28, fontSize: 13, minWidth: 0, '& .MuiSelect-select': { pl: 1, py: 0 } }}
    >
      {options.map(([option, words]) => (
        <MenuItem key={option} value={option}>
          {words}
        </MenuItem>
      ))}
    </Select>
  );
}
