import { Box, Button, Dialog, DialogTitle, IconButton, Typography } from '@mui/material';
import { useEffect, useMemo, useState, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { api, sentence, type Revision } from '../../api/client.ts';
import { CloseIcon } from '../../ui/icons.tsx';
import { Notice } from '../../ui/Page.tsx';
import { tokens } from '../../ui/tokens.ts';
import { TextField } from '../card/TextField.tsx';
import { PlayingPicture } from '../../viewport/PlayingPicture.tsx';
import { PicturePlayer } from '../../viewport/picture-player.ts';
import { supplyOf } from '../../project/supply.ts';
import { useSession } from '../session.ts';
import { TextMerge } from './TextMerge.tsx';

const player = new PicturePlayer();
/** Saves that follow each other so closely, in minutes, stand as one until they are looked into. */
const TOGETHER = 5;

const when = (iso: string): string =>
  new Date(iso).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });

/**
 * Revisions in runs of saves that followed each other closely; named ones stand for themselves. The newest first, as
 * given.
 */
export function runsOf(revisions: readonly Revision[]): Revision[][] {
  const runs: Revision[][] = [];
  for (const revision of revisions) {
    const last = runs.at(-1);
    const newest = last?.[0];
    const near = newest && (Date.parse(newest.createdAt) - Date.parse(revision.createdAt)) / 60_000 < TOGETHER;
    if (last && newest && near && newest.name === '' && revision.name === '' && revision.number !== 1)
      last.push(revision);
    else runs.push([revision]);
  }
  return runs;
}

/**
 * Every saved text of the material, with pictures and times: named, compared with now as pictures and text, restored.
 */
export function Revisions(): ReactElement {
  const { material, document, saver, shown, cover, sources } = useSession();
  const supply = useMemo(() => supplyOf(() => sources.getState().sources), [sources]);
  const text = useStore(document, (s) => s.text);
  const [list, setList] = useState<readonly Revision[]>();
  const [failure, setFailure] = useState('');
  const [opened, setOpened] = useState<ReadonlySet<number>>(new Set());
  const [texts, setTexts] = useState<ReadonlyMap<number, string>>(new Map());
  const [chosen, setChosen] = useState<number>();

  useEffect(() => {
    const load = async (): Promise<void> => {
      try {
        await saver.flush();
        const found = await api.revisions(material.id);
        setList(found);
        setChosen((before) => before ?? found[1]?.number ?? found[0]?.number);
      } catch (error) {
        setFailure(sentence(error));
      }
    };
    void load();
  }, [material.id, saver]);

  const runs = useMemo(() => runsOf(list ?? []), [list]);
  const rows = runs.flatMap((run) =>
    run[0] && opened.has(run[0].number)
      ? run.map((r) => ({ revision: r, more: 0 }))
      : run[0]
        ? [{ revision: run[0], more: run.length - 1 }]
        : [],
  );
  const wanted = [...rows.slice(0, 40).map((r) => r.revision.number), ...(chosen === undefined ? [] : [chosen])]
    .filter((n) => !texts.has(n))
    .join();
  useEffect(() => {
    if (wanted === '') return;
    for (const number of wanted.split(',').map(Number))
      api.revision(material.id, number).then(
        (r) => {
          setTexts((before) => new Map(before).set(number, r.text ?? ''));
        },
        (error: unknown) => {
          setFailure(sentence(error));
        },
      );
  }, [wanted, material.id]);

  const close = (): void => {
    cover.setState({ open: undefined });
  };
  const old = chosen === undefined ? undefined : texts.get(chosen);
  return (
    <Dialog
      open
      onClose={close}
      maxWidth={false}
      aria-labelledby="revisions-title"
      slotProps={{
        paper: { sx: { width: 1120, height: 700, maxWidth: 'calc(100% - 32px)', maxHeight: 'calc(100% - 32px)' } },
      }}
    >
      <DialogTitle id="revisions-title" sx={{ display: 'flex', alignItems: 'center' }}>
        Revisions
        <IconButton aria-label="Close revisions" onClick={close} sx={{ ml: 'auto' }}>
          <CloseIcon />
        </IconButton>
      </DialogTitle>
      {failure !== '' && <Notice alert title="Revisions cannot be read" detail={failure} />}
      {!list && failure === '' && <Notice busy title="Reading the revisions" />}
      {list && (
        <Box
          sx={{
            flex: 1,
            minHeight: 0,
            display: 'grid',
            gridTemplateColumns: '332px 1fr',
            borderTop: 1,
            borderColor: 'divider',
          }}
        >
          <Box
            component="ul"
            aria-label="Saved revisions"
            sx={{ m: 0, p: 0, listStyle: 'none', overflow: 'auto', borderRight: 1, borderColor: 'divider' }}
          >
            {rows.map(({ revision, more }) => (
              <Box
                key={revision.number}
                component="li"
                sx={{
                  display: 'flex',
                  gap: 1,
                  p: 1,
                  borderBottom: 1,
                  borderColor: 'divider',
                  bgcolor: revision.number === chosen ? tokens.select : 'transparent',
                }}
              >
                <Box
                  component="button"
                  type="button"
                  aria-label={`Show revision ${String(revision.number)}`}
                  aria-pressed={revision.number === chosen}
                  onClick={() => {
                    setChosen(revision.number);
                  }}
                  sx={{
                    p: 0,
                    border: 1,
                    borderColor: 'divider',
                    bgcolor: tokens.pit,
                    width: 66,
                    height: 66,
                    flex: 'none',
                    cursor: 'pointer',
                  }}
                >
                  {texts.has(revision.number) && (
                    <PlayingPicture player={player} supply={supply} text={texts.get(revision.number) ?? ''} size={64} />
                  )}
                </Box>
                <Box sx={{ minWidth: 0, flex: 1 }}>
                  <Typography>
                    {String(revision.number)}, {when(revision.createdAt)}
                  </Typography>
                  <TextField
                    label={`Name of revision ${String(revision.number)}`}
                    value={revision.name}
                    placeholder="no name"
                    width="100%"
                    write={(name) => {
                      api.nameRevision(material.id, revision.number, name).then(
                        () => {
                          setList((before) => before?.map((r) => (r.number === revision.number ? { ...r, name } : r)));
                        },
                        (error: unknown) => {
                          setFailure(sentence(error));
                        },
                      );
                    }}
                  />
                  {more > 0 && (
                    <Button
                      sx={{ minHeight: 22, px: 0.75, color: 'text.secondary' }}
                      onClick={() => {
                        setOpened(new Set(opened).add(revision.number));
                      }}
                    >
                      {more === 1 ? '1 save shortly before' : `${String(more)} saves shortly before`}
                    </Button>
                  )}
                </Box>
              </Box>
            ))}
          </Box>
          <Box sx={{ p: 1.5, minWidth: 0, minHeight: 0, display: 'flex', flexDirection: 'column', gap: 1 }}>
            {chosen !== undefined && old !== undefined ? (
              <>
                <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'flex-end' }}>
                  <Box>
                    <Typography sx={{ mb: 0.5 }}>Revision {chosen}</Typography>
                    <PlayingPicture
                      player={player}
                      supply={supply}
                      key={`old ${String(chosen)}`}
                      text={old}
                      size={168}
                      label={`Revision ${String(chosen)} playing`}
                    />
                  </Box>
                  <Box>
                    <Typography sx={{ mb: 0.5 }}>Now</Typography>
                    <PlayingPicture
                      player={player}
                      supply={supply}
                      text={text}
                      size={168}
                      label="The current material, playing"
                    />
                  </Box>
                  <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1, ml: 'auto' }}>
                    <Button
                      variant="contained"
                      disabled={old === text}
                      onClick={() => {
                        document.edit([{ from: 0, to: text.length, insert: old }]);
                        close();
                      }}
                    >
                      Restore revision {chosen}
                    </Button>
                    <Button
                      variant="outlined"
                      onClick={() => {
                        shown.setState({ beside: { kind: 'revision', number: chosen, text: old } });
                        close();
                      }}
                    >
                      Compare on the Stage
                    </Button>
                    <Typography sx={{ color: 'text.secondary', maxWidth: 180 }}>
                      {old === text ? 'This is the current text.' : 'Restoring is one undo; nothing is lost.'}
                    </Typography>
                  </Box>
                </Box>
                <TextMerge key={chosen} left={old} right={text} labels={[`Revision ${String(chosen)}`, 'Now']} />
              </>
            ) : (
              <Notice busy title="Reading the text" />
            )}
          </Box>
        </Box>
      )}
    </Dialog>
  );
}
