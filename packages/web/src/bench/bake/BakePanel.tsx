import { frameCount, packageName } from '@estela/core';
import { Box, Button, LinearProgress, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import { lazy, Suspense, useMemo, useState, type ReactElement } from 'react';
import { Link } from 'react-router';
import { useStore } from 'zustand';
import { sentence } from '../../api/client.ts';
import { BakeRow } from '../../project/BakeRow.tsx';
import { bytesWords, FORMAT_WORDS } from '../../project/bake-words.ts';
import { bakesOf, isUnderWay } from '../../project/bakes-store.ts';
import { download } from '../../project/project-zip.ts';
import { refsOf } from '../../project/supply.ts';
import { tokens } from '../../ui/tokens.ts';
import type { BakedSubject } from '../../workers/baking.worker.ts';
import { useSession } from '../session.ts';
import { BakeSettings } from './BakeSettings.tsx';
import { planOf } from './desk.ts';
import { PRODUCTS, recipeOf, type Product } from './draft.ts';
import { PlayBeside } from './PlayBeside.tsx';
import { SheetPreview } from './SheetPreview.tsx';

const Enough = lazy(async () => ({ default: (await import('./Enough.tsx')).Enough }));
const BakeDialog = lazy(async () => ({ default: (await import('../BakeDialog.tsx')).BakeDialog }));

const PRODUCT_WORDS: Readonly<Record<Product, string>> = { ...FORMAT_WORDS, webm: 'Video' };

/** What can be baked of the material: set, seen, measured, begun, and how far it is. */
export function BakePanel(): ReactElement {
  const session = useSession();
  const { desk, debounced, shown, sources, material, project, saver } = session;
  const draft = useStore(desk.draft);
  const program = useStore(debounced, (s) => s.look.program);
  const { text } = program.tree;
  const broken = useStore(debounced, (s) => !s.derived.ok);
  const variant = useStore(shown, (s) => s.variant);
  const pictures = useStore(sources, (s) => s.sources);
  const store = bakesOf(project.id);
  const own = useStore(store, (s) => s.bakes).filter((b) => b.materialId === material.id);
  const [problem, setProblem] = useState('');
  const [busy, setBusy] = useState(false);
  const [single, setSingle] = useState(false);
  const subject = useMemo<BakedSubject>(
    () => ({ text, recipe: recipeOf(draft, variant), pictures: refsOf(pictures) }),
    [text, draft, variant, pictures],
  );
  const plan = useMemo(() => planOf(program, subject.recipe), [program, subject.recipe]);
  const video = draft.product === 'webm';
  const encoding = useStore(desk.video);
  const refused = typeof plan === 'string' ? plan : broken ? 'The material has errors. Fix them to bake it.' : '';
  const bake = (): void => {
    if (typeof plan === 'string') return;
    setProblem('');
    if (video) {
      desk.encode(subject, `${packageName(program.title).file}.webm`, frameCount(plan));
      return;
    }
    setBusy(true);
    // What is baked is what is saved.
    saver
      .flush()
      .then(() => store.create(material.id, subject.recipe))
      .catch((error: unknown) => {
        setProblem(sentence(error));
      })
      .finally(() => {
        setBusy(false);
      });
  };
  const running = own.filter(isUnderWay);
  const over = own.filter((b) => !isUnderWay(b));
  return (
    <Box sx={{ px: 1.5, pb: 1.5 }}>
      <Box
        sx={{
          display: 'flex',
          alignItems: 'center',
          gap: 1,
          minHeight: 40,
          position: 'sticky',
          top: 0,
          zIndex: 1,
          bgcolor: 'background.default',
        }}
      >
        <ToggleButtonGroup
          exclusive
          size="small"
          value={draft.product}
          aria-label="Format"
          onChange={(_, product: Product | null) => {
            if (product) desk.draft.setState({ product });
          }}
        >
          {PRODUCTS.map((p) => (
            <ToggleButton key={p} value={p}>
              {PRODUCT_WORDS[p]}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        <Button
          title="One step at one time, as a source"
          onClick={() => {
            setSingle(true);
          }}
        >
          Single picture
        </Button>
        <Box sx={{ flex: 1 }} />
        <Button
          variant="contained"
          disabled={refused !== '' || busy || (video && encoding.state === 'running')}
          onClick={bake}
        >
          {video ? 'Make the video' : 'Start bake'}
        </Button>
      </Box>
      {(problem !== '' || refused !== '') && (
        <Typography role="alert" sx={{ color: tokens.coral, mb: 0.5 }}>
          {problem || refused}
        </Typography>
      )}
      {running.length > 0 && (
        <Box component="ul" aria-label="In progress" sx={{ m: 0, mb: 1, p: 0, listStyle: 'none' }}>
          {running.map((b) => (
            <BakeRow key={b.id} bake={b} store={store} sources={sources} />
          ))}
        </Box>
      )}
      {video && <VideoState />}
      <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 2, mb: 1 }}>
        <Box sx={{ flex: '1 1 290px', maxWidth: 340 }}>
          <BakeSettings frames={typeof plan === 'string' ? undefined : plan.frames.length} />
        </Box>
        <Box sx={{ flex: '1 1 300px', minWidth: 0 }}>
          {typeof plan !== 'string' && <SheetPreview plan={plan} subject={subject} />}
          {typeof plan !== 'string' && plan.rate !== undefined && <PlayBeside program={program} subject={subject} />}
        </Box>
      </Box>
      <Suspense>
        {typeof plan !== 'string' && (
          <Enough subject={subject} of={JSON.stringify([text, variant, draft.width, draft.height])} />
        )}
      </Suspense>
      {over.length > 0 && (
        <Box component="section" aria-label="Baked" sx={{ mt: 1.5 }}>
          <Box sx={{ display: 'flex', gap: 1, alignItems: 'baseline' }}>
            <Typography component="h3" sx={{ color: 'text.secondary' }}>
              Baked
            </Typography>
            <Box component={Link} to={`/projects/${project.id}/bakes`} sx={{ color: 'text.secondary', fontSize: 12 }}>
              All of {project.name}
            </Box>
          </Box>
          <Box component="ul" sx={{ m: 0, p: 0, listStyle: 'none' }}>
            {over.map((b) => (
              <BakeRow key={b.id} bake={b} store={store} sources={sources} />
            ))}
          </Box>
        </Box>
      )}
      <Suspense>
        {single && (
          <BakeDialog
            close={() => {
              setSingle(false);
            }}
          />
        )}
      </Suspense>
    </Box>
  );
}

/** How far the video is, or what came of it. */
function VideoState(): ReactElement | null {
  const { desk } = useSession();
  const video = useStore(desk.video);
  if (video.state === 'idle')
    return (
      <Typography sx={{ color: 'text.secondary', mb: 1 }}>
        One loop as WebM (VP9) over black, made in this browser.
      </Typography>
    );
  if (video.state === 'failed')
    return (
      <Typography role="alert" sx={{ color: tokens.coral, mb: 1 }}>
        {video.message}
      </Typography>
    );
  if (video.state === 'done') {
    const { blob, name, frames } = video.result;
    return (
      <Box role="status" sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: 1 }}>
        {name}: {frames} frames, {bytesWords(blob.size)}
        <Button
          variant="outlined"
          onClick={() => {
            download(blob, name);
          }}
        >
          Download
        </Button>
      </Box>
    );
  }
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: 1 }}>
      <LinearProgress
        variant="determinate"
        aria-label="Making the video"
        value={video.share * 100}
        sx={{ flex: 1, maxWidth: 300 }}
      />
      {Math.round(video.share * 100)} %
      <Button
        onClick={() => {
          desk.stop('video');
        }}
      >
        Cancel
      </Button>
    </Box>
  );
}
