import { Box, Button, Menu, MenuItem, Typography } from '@mui/material';
import { useEffect, useRef, useState, type ReactElement } from 'react';
import { useNavigate, useParams } from 'react-router';
import { sentence, type Source } from '../api/client.ts';
import { NotFoundPage, Notice } from '../ui/Page.tsx';
import { tokens } from '../ui/tokens.ts';
import { pixels } from '../workers/pixels.ts';
import type { Measures } from '../workers/pixels.worker.ts';
import type { ChannelView } from '../material/shown.ts';
import { Facts } from './Facts.tsx';
import { FlowEditor } from './FlowEditor.tsx';
import { Histograms } from './Histograms.tsx';
import { MovesDialog } from './MovesDialog.tsx';
import { fileOf } from '../project/new-maps.ts';
import { PathEditor } from './PathEditor.tsx';
import { ProjectFrame } from './ProjectFrame.tsx';
import { SeamMeter } from '../project/SeamMeter.tsx';
import { Section } from './Section.tsx';
import { SourceActions } from './SourceActions.tsx';
import { freeName, stemOf } from '../project/sources-store.ts';
import { handOver, refOf } from '../project/supply.ts';
import { TileDialog } from '../project/TileDialog.tsx';
import { usesOf } from '../project/usage.ts';
import { useProject, type ProjectSources } from '../project/use-project.ts';
import { Viewer } from './Viewer.tsx';

/** One source: what it looks like, what it is, how it tiles, who reads it, and what can be made of it. */
export function SourcePage(): ReactElement {
  const { projectId = '', sourceId = '' } = useParams();
  const shown = useProject(projectId);
  const source = shown.sources.find((s) => s.id === sourceId);
  if (shown.state === 'ready' && !source) return <NotFoundPage />;
  return (
    <ProjectFrame
      shown={shown}
      here={source?.name ?? 'Source'}
      parents={[{ to: `/projects/${projectId}/sources`, label: 'Sources' }]}
    >
      {source?.recipe?.kind === 'path' && (
        <PathEditor key={source.id} source={source} drawing={source.recipe.drawing} shown={shown} />
      )}
      {source?.recipe?.kind === 'flow' && (
        <FlowEditor key={source.id} source={source} drawing={source.recipe.drawing} shown={shown} />
      )}
      {source && source.recipe?.kind !== 'path' && source.recipe?.kind !== 'flow' && (
        <Inspected key={source.id} source={source} shown={shown} />
      )}
    </ProjectFrame>
  );
}

function Inspected({ source, shown }: { readonly source: Source; readonly shown: ProjectSources }): ReactElement {
  const { store, materials, freshness } = shown;
  const { hash, width, height, name } = source;
  const [look, setLook] = useState<ChannelView>('all');
  const [bitmap, setBitmap] = useState<ImageBitmap>();
  const [measured, setMeasured] = useState<{ hash: string; measures: Measures }>();
  // What was measured of another content says nothing of this one.
  const measures = measured?.hash === hash ? measured.measures : undefined;
  const [problem, setProblem] = useState('');
  const [marked, setMarked] = useState(false);
  const [ask, setAsk] = useState<ReactElement>();
  const [channels, setChannels] = useState<HTMLElement | null>(null);
  const replacement = useRef<HTMLInputElement>(null);
  const navigate = useNavigate();
  const close = (): void => {
    setAsk(undefined);
  };

  useEffect(() => {
    let gone = false;
    const failed = (error: unknown): void => {
      if (!gone) setProblem(sentence(error));
    };
    pixels('sources')
      .show(refOf(source), look)
      .then((b) => {
        if (!gone) setBitmap(b);
      }, failed);
    return () => {
      gone = true;
    };
    // The content and the look alone decide the picture.
    // oxlint-disable-next-line react/exhaustive-deps
  }, [hash, look]);
  useEffect(() => {
    let gone = false;
    pixels('sources')
      .measure(refOf(source))
      .then(
        (m) => {
          if (!gone) setMeasured({ hash, measures: m });
        },
        (error: unknown) => {
          if (!gone) setProblem(sentence(error));
        },
      );
    return () => {
      gone = true;
    };
    // oxlint-disable-next-line react/exhaustive-deps
  }, [hash]);

  const attempt = (act: () => Promise<unknown>): void => {
    setProblem('');
    act().catch((error: unknown) => {
      const why = sentence(error);
      setProblem(why.startsWith('is ') ? `The file ${why}` : why);
    });
  };
  const replace = async (file: File): Promise<void> => {
    await pixels('sources').inspect(await handOver(file));
    await store.change(source, { file, recipe: null }, `replace ${name}`);
  };
  const unpack = async (channel: 0 | 1 | 2 | 3): Promise<void> => {
    const made = await pixels('sources').unpack(refOf(source), channel);
    const letter = 'rgba'[channel] ?? '';
    const created = await store.create(
      {
        name: freeName(`${stemOf(name)}-${letter}.png`, store.getState().sources),
        file: fileOf(made.bytes),
        recipe: { kind: 'channel', from: name, channel },
      },
      `unpack ${letter} of ${name}`,
    );
    void navigate(`/projects/${source.projectId}/sources/${created.id}`);
  };
  const uses = usesOf(name, materials);
  const seams = measures?.seams;
  const marks =
    marked && seams
      ? [
          { x: 0, y: seams.u.worst + 0.5 },
          { x: width, y: seams.u.worst + 0.5 },
          { x: seams.v.worst + 0.5, y: 0 },
          { x: seams.v.worst + 0.5, y: height },
        ]
      : [];

  return (
    <Box component="main" sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Box
        sx={{
          display: 'flex',
          alignItems: 'center',
          gap: 1,
          px: 1.5,
          height: 44,
          flex: 'none',
          borderBottom: 1,
          borderColor: 'divider',
        }}
      >
        <Button
          variant="contained"
          onClick={() => {
            setAsk(
              <TileDialog
                source={source}
                store={store}
                close={close}
                made={({ id }) => {
                  void navigate(`/projects/${source.projectId}/sources/${id}`);
                }}
              />,
            );
          }}
        >
          Make tileable
        </Button>
        <Button
          variant="outlined"
          onClick={(event) => {
            setChannels(event.currentTarget);
          }}
        >
          Extract a channel
        </Button>
        <Menu
          anchorEl={channels}
          open={channels !== null}
          onClose={() => {
            setChannels(null);
          }}
        >
          {(['Red', 'Green', 'Blue', 'Alpha'] as const).map((label, channel) => (
            <MenuItem
              key={label}
              onClick={() => {
                setChannels(null);
                attempt(() => unpack(channel as 0 | 1 | 2 | 3));
              }}
            >
              {label} as a new source
            </MenuItem>
          ))}
        </Menu>
        <Button variant="outlined" onClick={() => replacement.current?.click()}>
          Replace
        </Button>
        <input
          ref={replacement}
          type="file"
          hidden
          aria-label="File to replace it by"
          onChange={(event) => {
            const [file] = event.currentTarget.files ?? [];
            if (file) attempt(() => replace(file));
            event.currentTarget.value = '';
          }}
        />
        {source.recipe?.kind === 'pack' && (
          <Button
            variant="outlined"
            onClick={() => {
              if (source.recipe?.kind === 'pack')
                setAsk(<MovesDialog packed={source} picks={source.recipe.picks} shown={shown} close={close} />);
            }}
          >
            Move reads to it
          </Button>
        )}
        <SourceActions
          source={source}
          shown={shown}
          losing={
            uses.length === 0
              ? 'No material uses it. Undo restores it.'
              : `${new Set(uses.map((u) => u.material.id)).size} of the materials use it, and will show a test grid instead. Undo restores it.`
          }
        />
        {problem !== '' && (
          <Typography role="alert" sx={{ color: tokens.coral }}>
            {problem}
          </Typography>
        )}
      </Box>
      <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
        <Viewer
          bitmap={bitmap}
          width={width}
          height={height}
          look={look}
          setLook={setLook}
          marks={marks}
          label={`Picture of ${name}`}
        />
        <Box sx={{ width: 384, flex: 'none', overflow: 'auto', borderLeft: 1, borderColor: 'divider' }}>
          <Facts
            source={source}
            measures={measures}
            uses={uses}
            freshness={freshness.get(source.id)}
            shown={shown}
            attempt={attempt}
          />
          <Section
            title="Seams"
            action={
              seams && (
                <Button
                  onClick={() => {
                    setMarked(!marked);
                  }}
                  aria-pressed={marked}
                >
                  {marked ? 'Hide the worst places' : 'Show the worst places'}
                </Button>
              )
            }
          >
            {seams ? <SeamMeter seams={seams} /> : problem === '' && <Notice busy title="Measuring" />}
          </Section>
          <Section title="Values">{measures && <Histograms of={measures.histograms} />}</Section>
        </Box>
      </Box>
      {ask}
    </Box>
  );
}
