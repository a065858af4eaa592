import { Box, Button, Tab, Tabs } from '@mui/material';
import { useMemo, useState, type ReactElement } from 'react';
import { copyText } from '../ui/copy-text.ts';
import { faces, tokens } from '../ui/tokens.ts';
import { piecesOf, type Piece } from './highlight.ts';
import { textOf, type Package } from './package.ts';

const COLORS: Readonly<Record<Piece['kind'], string | undefined>> = {
  comment: tokens.dim,
  number: tokens.amber,
  string: tokens.amber,
  word: tokens.bone,
  type: tokens.bone,
  plain: undefined,
};
/** Longer files are shown without colours, so that showing them takes no time. */
const MOST_COLORED = 200_000;

/** Files of a package that are text, by what a reader asks for first. */
const order = (name: string): number =>
  ['glsl', 'hlsl', 'wgsl', 'h', 'js', 'd.ts', 'json', 'wake', 'md'].findIndex((end) => name.endsWith(`.${end}`));
/** The first shader's functions first, then its complete stages, then what other settings of the switches need. */
const rank = (name: string): number =>
  order(name) + (name.includes('.main.') ? 100 : 0) + (/\.\d+\./.test(name) ? 200 : 0);
const isCode = (name: string): boolean => order(name) >= 0 && !name.includes('/');

/** The code of a package, a file at a time, to be read and copied. */
export function CodePane({ made }: { readonly made: Package }): ReactElement {
  const [chosen, setChosen] = useState('');
  const [said, setSaid] = useState('');
  const names = useMemo(() => [...made.files.keys()].filter(isCode).sort((a, b) => rank(a) - rank(b)), [made]);
  // Another variant has other files.
  const name = names.includes(chosen) ? chosen : (names[0] ?? '');
  const text = useMemo(() => textOf(made, name), [made, name]);
  const pieces = useMemo<readonly Piece[]>(
    () => (text.length > MOST_COLORED ? [{ text, kind: 'plain' }] : piecesOf(text)),
    [text],
  );
  const copy = async (): Promise<void> => {
    setSaid((await copyText(text)) ? 'Copied' : 'Not allowed: select and copy');
    setTimeout(() => {
      setSaid('');
    }, 2000);
  };
  return (
    <Box
      sx={{ flex: 1, minWidth: 0, display: 'flex', flexDirection: 'column', borderRight: 1, borderColor: 'divider' }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', flex: 'none', borderBottom: 1, borderColor: 'divider', pr: 1 }}>
        <Tabs
          value={name}
          variant="scrollable"
          scrollButtons="auto"
          aria-label="Files"
          onChange={(_, next: string) => {
            setChosen(next);
          }}
          sx={{ flex: 1, minWidth: 0, minHeight: 36 }}
        >
          {names.map((file) => (
            <Tab
              key={file}
              value={file}
              label={file !== name && file.startsWith(made.name) ? file.slice(made.name.length) : file}
              title={file}
              aria-label={file}
              sx={{
                minHeight: 36,
                minWidth: 0,
                px: 1.25,
                py: 0,
                textTransform: 'none',
                fontFamily: faces.figures,
                fontSize: 12,
              }}
            />
          ))}
        </Tabs>
        <Button variant="outlined" onClick={() => void copy()} aria-live="polite" sx={{ flex: 'none', minWidth: 76 }}>
          {said || 'Copy'}
        </Button>
      </Box>
      <Box
        component="pre"
        // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- It is scrolled by keys.
        tabIndex={0}
        aria-label={name}
        sx={{
          flex: 1,
          minHeight: 0,
          overflow: 'auto',
          m: 0,
          p: 1.5,
          fontFamily: faces.figures,
          fontSize: 12,
          fontVariantLigatures: 'none',
          lineHeight: 1.5,
        }}
      >
        {pieces.map(({ text: part, kind }, i) =>
          kind === 'plain' ? (
            part
          ) : (
            <span key={i} style={{ color: COLORS[kind], ...(kind === 'word' ? { fontWeight: 500 } : {}) }}>
              {part}
            </span>
          ),
        )}
      </Box>
    </Box>
  );
}
