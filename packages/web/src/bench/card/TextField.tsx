import { Box, Tooltip } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { faces, tokens } from '../../ui/tokens.ts';

/** A piece of text; what is typed is taken with Enter or on leaving, Escape gives it up. A complaint keeps it. */
export function TextField({
  label,
  value,
  write,
  placeholder = '',
  width,
  ink,
  complain = () => undefined,
}: {
  readonly label: string;
  readonly value: string;
  readonly write: (value: string) => void;
  readonly placeholder?: string;
  readonly width: number | string;
  readonly ink?: string | undefined;
  readonly complain?: (value: string) => string | undefined;
}): ReactElement {
  const [typed, setTyped] = useState<string>();
  const complaint = typed === undefined || typed === value ? undefined : complain(typed);
  const take = (): void => {
    const next = typed?.trim();
    if (complaint !== undefined) return;
    setTyped(undefined);
    if (next !== undefined && next !== value && next !== '') write(next);
  };
  return (
    <Tooltip title={complaint ?? ''} open={complaint !== undefined} placement="top">
      <Box
        component="input"
        type="text"
        spellCheck={false}
        aria-label={label}
        aria-invalid={complaint !== undefined}
        placeholder={placeholder}
        value={typed ?? value}
        onChange={(event) => {
          setTyped(event.currentTarget.value);
        }}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key === 'Enter') take();
          if (event.key === 'Escape') {
            event.stopPropagation();
            setTyped(undefined);
          }
        }}
        sx={{
          width,
          minWidth: 0,
          height: 24,
          px: 0.5,
          fontFamily: faces.figures,
          fontSize: 12.5,
          color: ink ?? 'text.primary',
          bgcolor: 'transparent',
          border: 1,
          borderColor: complaint === undefined ? 'transparent' : tokens.coral,
          borderRadius: '3px',
          '&::placeholder': { color: tokens.dim, opacity: 1 },
          '&:hover': { borderColor: complaint === undefined ? 'divider' : tokens.coral },
          '&:focus': { bgcolor: tokens.row },
        }}
      />
    </Tooltip>
  );
}
