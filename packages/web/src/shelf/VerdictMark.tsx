import { SHIFTS, type Shift } from '@estela/core';
import { Box } from '@mui/material';
import { useEffect, useState, type ReactElement } from 'react';
import type { Source } from '../api/client.ts';
import { tokens } from '../ui/tokens.ts';
import { refsOf } from '../project/supply.ts';
import { material } from '../workers/material.ts';
import type { Looked } from '../workers/material.worker.ts';

const WORDS: Record<Shift, string> = {
  loop: 'does not loop',
  tile_u: 'does not tile horizontally',
  tile_v: 'does not tile vertically',
};

/** Milliseconds before anything is looked into: first the cards are to play. */
const PATIENCE = 2500;

/** What was found of a text's base, once for each text: known answers are kept while the page lives. */
const known = new Map<string, Promise<Looked>>();
function lookAt(text: string, sources: readonly Source[]): Promise<Looked> {
  const key = `${text}\n${sources.map((s) => s.hash).join()}`;
  let answer = known.get(key);
  if (!answer) {
    answer = material('examine').look(text, refsOf(sources));
    known.set(key, answer);
  }
  return answer;
}

/**
 * Says on a card whether its material was proven to loop, was seen not to, or has errors; nothing where neither is
 * known.
 */
export function VerdictMark({
  text,
  sources,
}: {
  readonly text: string;
  readonly sources: readonly Source[];
}): ReactElement | null {
  const [found, setFound] = useState<Looked>();
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
  if (found === 'errors') return <Mark words="errors" title="It has errors." ink={tokens.coral} />;
  const { verdicts, grave, notes } = found;
  const breaks = SHIFTS.filter((s) => verdicts[s] === 'open').map((s) => WORDS[s]);
  const title = breaks.length > 0 ? `It ${breaks.join(', ')}.` : 'It loops, and tiles where proven.';
  const checks = `${String(grave)} ${grave === 1 ? 'check' : 'checks'}`;
  if (grave > 0)
    return (
      <Mark words={checks} title={`${checks} to look at, and ${String(notes)} notes. ${title}`} ink={tokens.coral} />
    );
  if (verdicts.loop === 'open') return <Mark words="does not loop" title={title} ink={tokens.coral} />;
  return verdicts.loop === 'unproven' ? null : <Mark words="loops" title={title} ink={tokens.dim} />;
}

function Mark({
  words,
  title,
  ink,
}: {
  readonly words: string;
  readonly title: string;
  readonly ink: string;
}): ReactElement {
  return (
    <Box component="span" title={title} sx={{ fontSize: 12, whiteSpace: 'nowrap', color: ink }}>
      {words}
    </Box>
  );
}
