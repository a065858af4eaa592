import { Button } from '@mui/material';
import { useEffect, useState, type ReactElement } from 'react';
import { useParams } from 'react-router';
import { api, ApiError, sentence } from '../api/client.ts';
import { NotFoundPage, Notice, TopBar } from '../app/Page.tsx';
import { sourcesOf } from '../sources/sources-store.ts';
import { Bench } from './Bench.tsx';
import { openSession, SessionContext, type Session } from './session.ts';

type Opening =
  | { readonly state: 'loading' }
  | { readonly state: 'open'; readonly session: Session }
  | { readonly state: 'missing' }
  | { readonly state: 'failed'; readonly message: string };

/** Loads a material with its project and sources, then shows it on the Bench. */
export function BenchPage(): ReactElement {
  const { materialId = '' } = useParams();
  const [opening, setOpening] = useState<Opening>({ state: 'loading' });
  const [attempt, setAttempt] = useState(0);

  useEffect(() => {
    const abort = new AbortController();
    const open = async (): Promise<void> => {
      setOpening({ state: 'loading' });
      try {
        const material = await api.material(materialId, abort.signal);
        const [project, sources] = await Promise.all([api.project(material.projectId), api.sources(material.projectId)]);
        if (!abort.signal.aborted) setOpening({ state: 'open', session: openSession(material, project, sourcesOf(project.id, sources)) });
      } catch (error) {
        if (abort.signal.aborted) return;
        const missing = error instanceof ApiError && (error.status === 404 || error.status === 400);
        setOpening(missing ? { state: 'missing' } : { state: 'failed', message: sentence(error) });
      }
    };
    void open();
    return () => {
      abort.abort();
    };
  }, [materialId, attempt]);

  switch (opening.state) {
    case 'open':
      return (
        <SessionContext value={opening.session}>
          <Bench key={opening.session.material.id} />
        </SessionContext>
      );
    case 'missing':
      return <NotFoundPage />;
    case 'failed':
      return (
        <>
          <TopBar />
          <Notice
            alert
            title="The material cannot be opened"
            detail={opening.message}
            action={
              <Button
                variant="outlined"
                onClick={() => {
                  setAttempt(attempt + 1);
                }}
              >
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
