import { hexOfColor, literalText, readDialText, type Dial, type Loop } from '@estela/core';
import { Box, Tooltip } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { faces, tokens } from '../../app/tokens.ts';

/** A dial's value as it stands in the text; what is typed is taken with Enter or on leaving, Escape gives it up. */
export function ValueField({ dial, loop, write }: { readonly dial: Dial; readonly loop: Loop; readonly write: (literal: string) => void }): ReactElement {
  const shown = literalText(dial.type, dial.value, loop, hexOfColor);
  const [typed, setTyped] = useState<string>();
  const [complaint, setComplaint] = useState<string>();

  const take = (): void => {
    if (typed === undefined || typed.trim() === shown) {
      setTyped(undefined);
      setComplaint(undefined);
      return;
    }
    const read = readDialText(dial, typed, loop);
    const slack = 1e-9;
    if ('complaint' in read) setComplaint(read.complaint);
    else if (dial.low !== undefined && dial.high !== undefined && read.value.some((v) => v < (dial.low ?? 0) - slack || v > (dial.high ?? 0) + slack)) {
      const bound = (v: number): string => literalText(dial.type === 'vec2' ? 'number' : dial.type, [v], loop, hexOfColor);
      setComplaint(`'${dial.name}' goes from ${bound(dial.low)} to ${bound(dial.high)}.`);
    } else {
      write(literalText(dial.type, read.value, loop, hexOfColor));
      setTyped(undefined);
      setComplaint(undefined);
    }
  };

  return (
    <Tooltip title={complaint ?? ''} open={complaint !== undefined} placement="top">
      <Box
        component="input"
        type="text"
        spellCheck={false}
        aria-label={`${dial.name} value`}
        aria-invalid={complaint !== undefined}
        value={typed ?? shown}
        onChange={(event) => {
          setTyped(event.currentTarget.value);
        }}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key === 'Enter') take();
          if (event.key === 'Escape') {
            setTyped(undefined);
            setComplaint(undefined);
          }
        }}
        sx={{
          width: 104,
          flex: 'none',
          height: 24,
          px: 0.75,
          fontFamily: faces.figures,
          fontSize: 12.5,
          color: 'text.primary',
          bgcolor: 'transparent',
          border: 1,
          borderColor: complaint === undefined ? 'transparent' : tokens.coral,
          borderRadius: '3px',
          '&:hover': { borderColor: complaint === undefined ? 'divider' : tokens.coral },
          '&:focus': { bgcolor: tokens.row },
        }}
      />
    </Tooltip>
  );
}
