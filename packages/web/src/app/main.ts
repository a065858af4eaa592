import { readPageData } from '../api/early.ts';
import { drawEarly } from '../bench/early-picture.ts';
import { hasDraft } from '../history/drafts.ts';

/** Milliseconds for which the page around a picture waits until it stands. */
const PATIENCE = 1000;

const pageData = readPageData();

/** Shows a material before the page around it is there. */
async function showEarly(): Promise<void> {
  // Another view, or a text that was typed here and not saved, is the Bench's to show.
  if (!pageData?.picture || location.search !== '' || hasDraft(pageData.material.id)) return;
  const { earlyContext } = window as { earlyContext?: WebGL2RenderingContext | null };
  if (earlyContext) await drawEarly(earlyContext, pageData, pageData.picture);
}

if (!pageData) void import('./render.tsx');
else {
  const late = new Promise((resolve) => setTimeout(resolve, PATIENCE));
  void Promise.race([showEarly(), late]).finally(() => {
    void import('./render.tsx');
    void import('../bench/BenchPage.tsx');
  });
}
