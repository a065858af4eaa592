import { Button } from '@mui/material';
import { useEffect, useState, type ReactElement } from 'react';
import { useParams } from 'react-router';
import { api, isMissing, sentence } from '../api/client.ts';
import { findDrafts, type Draft } from '../history/drafts.ts';
import { holdOpen, stillOpen } from '../ui/held-open.ts';
import { NotFoundPage, Notice, TopBar } from '../ui/Page.tsx';
import { sourcesOf } from '../project/sources-store.ts';
import { Bench } from './Bench.tsx';
import { dropEarly } from './early-picture.ts';
import { LeftDrafts } from './LeftDrafts.tsx';
import { openSession, SessionContext, type Session } from './session.ts';

type Opening =
  | { readonly state: 'loading' }
  | { readonly state: 'open'; readonly session: Session }
  | { readonly state: 'missing'; readonly drafts: readonly Draft[] }
  | { readonly state: 'failed'; readonly message: string };

const keyOf = (material: string): string => `material ${material}`;

/** Loads a material with its project and sources, then shows it on the Bench. */
export function BenchPage(): ReactElement {
  const { materialId = '' } = useParams();
  const [opening, setOpening] = useState<Opening>({ state: 'loading' });
  const [attempt, setAttempt] = useState(0);

  useEffect(() => {
    const abort = new AbortController();
    const open = async (): Promise<void> => {
      const left = stillOpen(keyOf(materialId)) as Session | undefined;
      if (left) {
        setOpening({ state: 'open', session: left });
        return;
      }
      setOpening({ state: 'loading' });
      const finding = findDrafts(materialId);
      try {
        const material = await api.material(materialId, abort.signal);
        const [project, sources] = await Promise.all([
          api.project(material.projectId),
          api.sources(material.projectId),
        ]);
        const drafts = await finding;
        if (!abort.signal.aborted)
          setOpening({
            state: 'open',
            session: openSession(material, project, sourcesOf(project.id, sources), drafts),
          });
      } catch (error) {
        if (abort.signal.aborted) return;
        const missing = isMissing(error);
        setOpening(
          missing ? { state: 'missing', drafts: await finding } : { state: 'failed', message: sentence(error) },
        );
      }
    };
    void open();
    return () => {
      abort.abort();
    };
  }, [materialId, attempt]);

  const session = opening.state === 'open' ? opening.session : undefined;
  const refused = opening.state === 'missing' || opening.state === 'failed';
  useEffect(() => {
    if (refused) dropEarly();
  }, [refused]);
  useEffect(() => dropEarly, []);
  useEffect(() => {
    if (!session) return undefined;
    const { saver, material, close } = session;
    const isSaved = (): boolean => saver.getState().status === 'saved';
    const isLost = (): boolean => !saver.getState().kept;
    return holdOpen(keyOf(material.id), {
      thing: session,
      store: saver,
      isSaved,
      isLost,
      flush: saver.flush,
      end: close,
    });
  }, [session]);
  const again = (): void => {
    setAttempt(attempt + 1);
  };

  switch (opening.state) {
    case 'open':
      return (
        <SessionContext value={opening.session}>
          <Bench key={opening.session.material.id} />
        </SessionContext>
      );
    case 'missing':
      return opening.drafts.length > 0 ? <LeftDrafts drafts={opening.drafts} again={again} /> : <NotFoundPage />;
    case 'failed':
      return (
        <>
          <TopBar />
          <Notice
            alert
            title="The material cannot be opened"
            detail={opening.message}
            action={
              <Button variant="outlined" onClick={again}>
                Try again
              </Button>
            }
          />
        </>
      );
    default:
      return (
        <>
          <TopBar />
          <Notice busy title="Opening the material" />
        </>
      );
  }
}
