import type { ProjectEvent } from '@estela/contract';

interface Followed {
  readonly told: Set<(event: ProjectEvent | undefined) => void>;
  source: EventSource | undefined;
}

/** By the project; undefined for all of them. */
const followed = new Map<string | undefined, Followed>();

/** Opens the stream of a project while this page is seen, and closes it while it is not: browsers allow few at once. */
function keep(projectId: string | undefined, of: Followed): void {
  const wanted = of.told.size > 0 && document.visibilityState === 'visible';
  if (wanted === (of.source !== undefined)) return;
  of.source?.close();
  of.source = undefined;
  if (!wanted) return;
  const source = new EventSource(projectId === undefined ? '/api/events' : `/api/projects/${projectId}/events`);
  const tell = (event: ProjectEvent | undefined): void => {
    for (const told of of.told) told(event);
  };
  source.addEventListener('change', ({ data }: MessageEvent<string>) => {
    tell(JSON.parse(data) as ProjectEvent);
  });
  source.addEventListener('reset', () => {
    tell(undefined);
  });
  of.source = source;
}

let watching = false;
/** Goes by whether this page is seen; what happened while it was not is not told, so that all is read anew. */
function watchPage(): void {
  if (watching) return;
  watching = true;
  document.addEventListener('visibilitychange', () => {
    for (const [projectId, of] of followed) {
      keep(projectId, of);
      if (document.visibilityState === 'visible') for (const told of of.told) told(undefined);
    }
  });
}

/**
 * Tells of what changes in a project, or in all of them (undefined), in this page, another, or by another person; of `undefined` where something may
 * have that was not told. Gives the function that ends it.
 */
export function followProject(
  projectId: string | undefined,
  told: (event: ProjectEvent | undefined) => void,
): () => void {
  // Outside of a page, as in tests, nobody is told.
  if (typeof EventSource === 'undefined') return () => undefined;
  watchPage();
  let of = followed.get(projectId);
  if (!of) followed.set(projectId, (of = { told: new Set(), source: undefined }));
  const mine = of;
  mine.told.add(told);
  keep(projectId, mine);
  return () => {
    mine.told.delete(told);
    keep(projectId, mine);
    if (mine.told.size === 0) followed.delete(projectId);
  };
}
