import { fetchEarly } from '../api/early.ts';
import type { Material, Source } from '../api/client.ts';
import { contextOf } from '../gl/context.ts';
import { hasDraft } from '../history/drafts.ts';

/** Milliseconds for which the page around a picture waits until it stands. */
const PATIENCE = 1000;

/** Asks for a material and what is around it, and shows it as soon as its text is there. */
async function showEarly(id: string): Promise<void> {
  const material = fetchEarly(`materials/${id}`) as Promise<Material | undefined>;
  const sources = material.then((found) => {
    if (!found) return undefined;
    void fetchEarly(`projects/${found.projectId}`);
    return fetchEarly(`projects/${found.projectId}/sources`) as Promise<Source[] | undefined>;
  });
  // Another view, or a text that was typed here and not saved, is the Bench's to show.
  if (location.search !== '' || hasDraft(id)) return;
  const drawing = import('../bench/early-picture.ts');
  // The context is made while text and code are on their way.
  const canvas = document.createElement('canvas');
  contextOf(canvas);
  await (await drawing).drawEarly(canvas, material, sources);
}

const [, id] = /^\/materials\/([^/]+)$/.exec(location.pathname) ?? [];
if (id === undefined) void import('./render.tsx');
else {
  const late = new Promise((resolve) => setTimeout(resolve, PATIENCE));
  void Promise.race([showEarly(id), late]).finally(() => {
    void import('./render.tsx');
    void import('../bench/BenchPage.tsx');
  });
}
