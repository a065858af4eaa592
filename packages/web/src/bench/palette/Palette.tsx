import { insertOperation, insertOutput, shows, stagePlace, type Operation, type Texture } from '@estela/core';
import { Box, Dialog, InputBase, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { sentence, type Source } from '../../api/client.ts';
import { SourcePicture } from '../../project/SourcePicture.tsx';
import { faces, tokens } from '../../ui/tokens.ts';
import { PlayingPicture } from '../../viewport/PlayingPicture.tsx';
import { useSession } from '../session.ts';
import { examples, NO_SOURCES } from './examples.ts';
import { searchEntries, type Entry } from './search.ts';
import { stepRefOf } from '../../material/step-ref.ts';
import { useSelectedIndex } from '../selection.ts';
import { textureOf, placeTexture } from '../textures/place-texture.ts';

const PICTURE = 64;
const LARGE = 184;

const readsImage = ({ parameters }: Operation): boolean => parameters.some((p) => p.accepts.includes('image'));

function ExamplePicture({ entry, size }: { readonly entry: Entry; readonly size: number }): ReactElement {
  if (entry.kind === 'source')
    return (
      <Box sx={{ width: size, height: size, flex: 'none' }}>
        <SourcePicture source={entry.source} size={size} />
      </Box>
    );
  const text = entry.kind === 'operation' ? entry.operation.example : shows('uv |> checker(4)');
  return <PlayingPicture player={examples} text={text} supply={NO_SOURCES} size={size} />;
}

/** Which texture an operation is to read. */
function PictureList({
  pictures,
  picked,
  pick,
}: {
  readonly pictures: readonly Source[];
  readonly picked: Source | undefined;
  readonly pick: (source: Source) => void;
}): ReactElement {
  if (pictures.length === 0)
    return (
      <Typography sx={{ mt: 1.5, color: 'text.secondary' }}>
        This project has no textures yet; a test grid stands in.
      </Typography>
    );
  return (
    <Box sx={{ mt: 1.5 }}>
      <Typography id="palette-texture">Texture: {picked?.name ?? 'none'}</Typography>
      <Box
        role="radiogroup"
        aria-labelledby="palette-texture"
        sx={{ display: 'grid', gridTemplateColumns: 'repeat(5, 44px)', gap: 0.5, mt: 0.5 }}
      >
        {pictures.map((source) => (
          <Box
            key={source.id}
            component="label"
            title={source.name}
            sx={{
              cursor: 'pointer',
              lineHeight: 0,
              border: 2,
              borderColor: source === picked ? tokens.bone : 'transparent',
              '&:focus-within': { outline: `2px solid ${tokens.text}` },
            }}
          >
            <input
              type="radio"
              name="palette-texture"
              aria-label={source.name}
              checked={source === picked}
              onChange={() => {
                pick(source);
              }}
              onKeyDown={(event) => {
                // Arrows go through the textures, not through the list.
                if (event.key.startsWith('Arrow')) event.stopPropagation();
              }}
              style={{ position: 'absolute', opacity: 0, width: 0 }}
            />
            <SourcePicture source={source} size={40} />
          </Box>
        ))}
      </Box>
    </Box>
  );
}

/** Inserts by purpose: what is typed is searched in what operations are and do; arrows choose, Enter inserts. */
export function Palette(): ReactElement {
  const session = useSession();
  const { document, selection, cover, panel, sources, debounced } = session;
  const program = useStore(debounced, (s) => s.derived.program);
  const index = useSelectedIndex() ?? -1;
  const here = program.steps[index];
  const [words, setWords] = useState('');
  const [at, setAt] = useState(0);
  const [form, setForm] = useState<'stage' | 'line'>('stage');
  const list = useRef<HTMLUListElement>(null);
  const pictures = useStore(sources, (s) => s.sources);
  const entries = useMemo(() => searchEntries(words, pictures), [words, pictures]);
  const [picked, setPicked] = useState<Source>();
  const [problem, setProblem] = useState('');
  const entry = entries[Math.min(at, entries.length - 1)];
  const place =
    entry?.kind === 'operation' && form === 'stage' ? stagePlace(program, entry.operation, index) : undefined;

  const close = (): void => {
    cover.setState({ open: undefined });
  };
  const other = form === 'stage' ? 'line' : 'stage';
  const image = program.images[0];
  // What the text declares goes on; else the picture that stands first until another is picked.
  const source = picked ?? (image ? undefined : pictures[0]);
  const shownPicture = source ?? pictures.find((p) => p.name === image?.source);
  const insert = (chosenEntry: Entry | undefined, as = form): void => {
    if (!chosenEntry) return;
    const done = (step: number): void => {
      selection.setState({ step: stepRefOf(document.getState().derived.program, step) });
      panel.setState({ open: { kind: 'step' } });
      close();
    };
    const write = (texture: Texture | undefined): void => {
      const now = document.getState().derived.program;
      if (chosenEntry.kind === 'source') return;
      const result =
        chosenEntry.kind === 'operation'
          ? insertOperation(now, chosenEntry.operation, { index, as, ...(texture ? { texture } : {}) })
          : insertOutput(now, chosenEntry.channel, index);
      document.edit(result.edits);
      done(result.step);
    };
    const failed = (error: unknown): void => {
      setProblem(sentence(error));
    };
    if (chosenEntry.kind === 'source')
      placeTexture(session, chosenEntry.source).then(() => {
        panel.setState({ open: { kind: 'step' } });
        close();
      }, failed);
    else if (source && chosenEntry.kind === 'operation' && readsImage(chosenEntry.operation))
      textureOf(source).then(write, failed);
    else write(undefined);
  };

  useEffect(() => {
    list.current?.querySelector('[aria-selected=true]')?.scrollIntoView({ block: 'nearest' });
  }, [at, entries]);

  const keyed = (event: KeyboardEvent): void => {
    const by = { ArrowDown: 1, ArrowUp: -1, PageDown: 6, PageUp: -6 }[event.key];
    if (by !== undefined) {
      event.preventDefault();
      setAt(Math.min(Math.max(Math.min(at, entries.length - 1) + by, 0), entries.length - 1));
    } else if (event.key === 'Enter') {
      event.preventDefault();
      insert(entry, event.shiftKey ? other : form);
    }
  };

  return (
    <Dialog
      open
      onClose={close}
      maxWidth={false}
      aria-label="Insert"
      slotProps={{
        paper: { sx: { width: 860, height: 600, maxWidth: 'calc(100% - 32px)', maxHeight: 'calc(100% - 32px)' } },
      }}
    >
      <Box onKeyDown={keyed} sx={{ display: 'flex', flexDirection: 'column', height: '100%', minHeight: 0 }}>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 2, p: 1.5, borderBottom: 1, borderColor: 'divider' }}>
          <InputBase
            autoFocus
            value={words}
            placeholder="What should it do? For example: glow at the edge"
            onChange={(event) => {
              setWords(event.target.value);
              setAt(0);
            }}
            slotProps={{
              input: {
                role: 'combobox',
                'aria-label': 'What should it do?',
                'aria-expanded': true,
                'aria-controls': 'palette-list',
                'aria-activedescendant': entry ? `palette-${entry.id.replaceAll(/[^\w-]/g, '-')}` : undefined,
              },
            }}
            sx={{ flex: 1, fontSize: 15 }}
          />
          <ToggleButtonGroup
            exclusive
            value={form}
            aria-label="Insert as"
            onChange={(_, next: 'stage' | 'line' | null) => {
              if (next) setForm(next);
            }}
          >
            <ToggleButton value="stage" title="Enter inserts it like this; Shift+Enter the other way">
              {`Onto ${place?.step.name ?? (here?.kind === 'step' ? here.name : 'the step')}`}
            </ToggleButton>
            <ToggleButton value="line" title="Enter inserts it like this; Shift+Enter the other way">
              As a new line
            </ToggleButton>
          </ToggleButtonGroup>
        </Box>
        <Box sx={{ flex: 1, minHeight: 0, display: 'grid', gridTemplateColumns: '1fr 268px' }}>
          <Box
            component="ul"
            ref={list}
            id="palette-list"
            role="listbox"
            aria-label="What can be inserted"
            sx={{ m: 0, p: 0, listStyle: 'none', overflow: 'auto' }}
          >
            {entries.map((e, i) => (
              <Box
                key={e.id}
                component="li"
                id={`palette-${e.id.replaceAll(/[^\w-]/g, '-')}`}
                role="option"
                aria-selected={e === entry}
                onMouseMove={() => {
                  if (e !== entry) setAt(i);
                }}
                onClick={() => {
                  insert(e);
                }}
                sx={{
                  display: 'flex',
                  alignItems: 'center',
                  gap: 1.5,
                  px: 1.5,
                  py: 0.5,
                  cursor: 'pointer',
                  contentVisibility: 'auto',
                  containIntrinsicSize: `auto ${String(PICTURE + 8)}px`,
                  bgcolor: e === entry ? tokens.select : 'transparent',
                }}
              >
                <ExamplePicture entry={e} size={PICTURE} />
                <Box sx={{ minWidth: 0 }}>
                  <Box component="span" sx={{ fontFamily: faces.figures, fontSize: 13 }}>
                    {e.name}
                  </Box>
                  <Box component="span" sx={{ color: e === entry ? 'text.primary' : 'text.secondary', ml: 1 }}>
                    {e.group}
                  </Box>
                  <Typography noWrap>{e.summary}</Typography>
                </Box>
              </Box>
            ))}
          </Box>
          <Box aria-live="polite" sx={{ p: 1.5, borderLeft: 1, borderColor: 'divider', overflow: 'auto', minWidth: 0 }}>
            {entry ? (
              <>
                <ExamplePicture key={entry.id} entry={entry} size={LARGE} />
                <Typography sx={{ mt: 1.5, fontWeight: 500 }}>{entry.summary}</Typography>
                <Typography sx={{ mt: 0.5, color: 'text.secondary' }}>
                  {entry.kind === 'operation'
                    ? entry.operation.help
                    : entry.kind === 'source'
                      ? 'A texture of this project.'
                      : 'An output of the material.'}
                </Typography>
                {entry.kind === 'operation' && readsImage(entry.operation) && (
                  <PictureList pictures={pictures} picked={shownPicture} pick={setPicked} />
                )}
                {problem !== '' && (
                  <Typography role="alert" sx={{ mt: 1, color: tokens.coral }}>
                    {problem}
                  </Typography>
                )}
                <Typography sx={{ mt: 1.5 }}>
                  {entry.kind === 'output'
                    ? 'Enter writes the output.'
                    : entry.kind === 'source'
                      ? `Enter samples it in a new step${here ? ` below ${here.name}` : ''}.`
                      : place
                        ? `Enter adds it to ${place.step.name}.`
                        : 'Enter writes a new line.'}
                </Typography>
              </>
            ) : (
              <Typography sx={{ color: 'text.secondary' }}>
                No results. Try an effect, such as mist, glow or ripple, or clear the field to see everything.
              </Typography>
            )}
          </Box>
        </Box>
      </Box>
    </Dialog>
  );
}
