import type { Shift, Witness } from '@estela/core';
import { Box } from '@mui/material';
import { useEffect, useState, type ReactElement } from 'react';
import type { Source } from '../api/client.ts';
import { tokens } from '../app/tokens.ts';
import { refsOf } from '../sources/supply.ts';
import { pixels } from '../workers/pixels.ts';

type Found = Partial<Record<Shift, Witness>>;
const WORDS: Record<Shift, string> = { loop: 'does not loop', tile_u: 'does not tile across', tile_v: 'does not tile down' };

/** Milliseconds before anything is looked into: first the cards are to play. */
const PATIENCE = 2500;

/** What was found of a text's base, once for each text: known answers are kept while the page lives. */
const known = new Map<string, Promise<Found | 'errors'>>();
function lookAt(text: string, sources: readonly Source[]): Promise<Found | 'errors'> {
  const key = `${text}\n${sources.map((s) => s.hash).join()}`;
  let answer = known.get(key);
  if (!answer) {
    answer = pixels('import')
      .witnesses(text, refsOf(sources))
      .then((list) => list?.[0] ?? 'errors');
    known.set(key, answer);
  }
  return answer;
}

/** Says on a card where its material was seen not to loop, or has errors. Nothing is said of one where nothing was found. */
export function VerdictMark({ text, sources }: { readonly text: string; readonly sources: readonly Source[] }): ReactElement | null {
  const [found, setFound] = useState<Found | 'errors'>();
  useEffect(() => {
    let gone = false;
    const timer = setTimeout(() => {
      lookAt(text, sources).then(
        (next) => {
          if (!gone) setFound(next);
        },
        () => undefined,
      );
    }, PATIENCE);
    return () => {
      gone = true;
      clearTimeout(timer);
    };
  }, [text, sources]);
  if (found === undefined) return null;
  const breaks = found === 'errors' ? ['has errors'] : (Object.keys(found) as Shift[]).map((s) => WORDS[s]);
  const loops = found !== 'errors' && !found.loop;
  if (loops) return null;
  return (
    <Box component="span" title={`It ${breaks.join(', ')}.`} sx={{ fontSize: 12, whiteSpace: 'nowrap', color: tokens.coral }}>
      {found === 'errors' ? 'errors' : 'does not loop'}
    </Box>
  );
}
