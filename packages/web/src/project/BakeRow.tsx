import { Box, Button, LinearProgress, Typography } from '@mui/material';
import { useState, type ReactElement } from 'react';
import { Link, useNavigate } from 'react-router';
import { bakeAddress, sentence, type Bake } from '../api/client.ts';
import { faces, tokens } from '../ui/tokens.ts';
import { canBeSource, sourceOfBake } from './bake.ts';
import { bytesWords, progressWords, recipeWords } from './bake-words.ts';
import { isUnderWay, type BakesStore } from './bakes-store.ts';
import type { SourcesStore } from './sources-store.ts';

/** A bake: its picture, what it is, how far, and what can be done with it. */
export function BakeRow({
  bake,
  store,
  sources,
  titled = false,
}: {
  readonly bake: Bake;
  readonly store: BakesStore;
  readonly sources: SourcesStore;
  /** Says of which material it is. */
  readonly titled?: boolean;
}): ReactElement {
  const { title, state, file, recipe, materialId, revision, done, total } = bake;
  const [problem, setProblem] = useState('');
  const [busy, setBusy] = useState(false);
  const navigate = useNavigate();
  const running = isUnderWay(bake);
  const attempt = (act: () => Promise<unknown>) => (): void => {
    setProblem('');
    setBusy(true);
    act()
      .catch((error: unknown) => {
        setProblem(sentence(error));
      })
      .finally(() => {
        setBusy(false);
      });
  };
  const name = `${title}, ${recipeWords(recipe)}`;
  return (
    <Box
      component="li"
      aria-label={name}
      sx={{ display: 'flex', gap: 1.5, py: 1, borderTop: 1, borderColor: 'divider', alignItems: 'flex-start' }}
    >
      <BakePicture bake={bake} />
      <Box sx={{ flex: 1, minWidth: 0 }}>
        {titled && (
          <Typography sx={{ fontWeight: 500 }} noWrap>
            <Box component={Link} to={`/materials/${materialId}`} sx={{ color: 'text.primary' }}>
              {title}
            </Box>
            <Box component="span" sx={{ color: 'text.secondary', fontWeight: 400 }}>
              {` revision ${String(revision)}`}
            </Box>
          </Typography>
        )}
        <Typography>{recipeWords(recipe)}</Typography>
        <Typography
          role={state === 'failed' ? 'alert' : undefined}
          sx={{ color: state === 'failed' ? tokens.coral : 'text.secondary', fontVariantNumeric: 'tabular-nums' }}
        >
          {progressWords(bake)}
          {file && `, ${bytesWords(file.size)}`}
        </Typography>
        {running && (
          <LinearProgress
            variant="determinate"
            aria-label={`Progress of ${name}`}
            value={(done / total) * 100}
            sx={{ my: 0.5, maxWidth: 420 }}
          />
        )}
        <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5, ml: file ? 0 : -1.25 }}>
          {running && (
            <Button disabled={busy} onClick={attempt(() => store.remove(bake))}>
              Cancel
            </Button>
          )}
          {(state === 'failed' || state === 'cancelled') && (
            <Button disabled={busy} onClick={attempt(() => store.retry(bake))}>
              Continue
            </Button>
          )}
          {file && (
            <>
              <Button component="a" variant="outlined" href={bakeAddress(bake, 'file')} download={file.name}>
                Download
              </Button>
              <Button
                component="a"
                href={bakeAddress(bake, 'manifest.json')}
                download={file.name.replace(/\.\w+$/, '.json')}
                title="Frame rectangles, rate, packing and memory, for an engine"
              >
                Manifest
              </Button>
              {canBeSource(bake) && (
                <Button
                  disabled={busy}
                  title="A source of this project that remembers how it was baked"
                  onClick={attempt(async () => {
                    const source = await sourceOfBake(sources, bake);
                    await navigate(`/projects/${bake.projectId}/sources/${source.id}`);
                  })}
                >
                  Use as a source
                </Button>
              )}
            </>
          )}
          {!running && (
            <>
              <Button
                disabled={busy}
                title="The same bake of the current material"
                onClick={attempt(() => store.create(materialId, recipe))}
              >
                Bake again
              </Button>
              <Button disabled={busy} onClick={attempt(() => store.remove(bake))}>
                Delete
              </Button>
            </>
          )}
        </Box>
        {problem !== '' && (
          <Typography role="alert" sx={{ color: tokens.coral }}>
            {problem}
          </Typography>
        )}
      </Box>
    </Box>
  );
}

/** Its first frame, as soon as there is one. */
function BakePicture({ bake }: { readonly bake: Bake }): ReactElement {
  const { state, done, startedAt } = bake;
  const [missing, setMissing] = useState(true);
  // It is drawn before the first frames are done.
  const isThere = startedAt !== null && (done > 0 || state === 'done');
  return (
    <Box
      sx={{
        width: 72,
        height: 72,
        flex: 'none',
        display: 'grid',
        placeItems: 'center',
        bgcolor: tokens.pit,
        fontFamily: faces.figures,
        fontSize: 12,
        color: 'text.secondary',
        overflow: 'hidden',
      }}
    >
      {isThere && (
        <img
          src={bakeAddress(bake, 'picture')}
          alt=""
          onLoad={() => {
            setMissing(false);
          }}
          style={{ maxWidth: '100%', maxHeight: '100%', display: missing ? 'none' : 'block' }}
        />
      )}
    </Box>
  );
}
