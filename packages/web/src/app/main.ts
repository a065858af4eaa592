import { fetchEarly } from '../api/early.ts';

// The material that an address names, its view and the page around it are all fetched at once: none waits for another
// to be read.
const [, material] = /^\/materials\/([^/]+)$/.exec(location.pathname) ?? [];
if (material !== undefined) {
  void fetchEarly(`materials/${material}`).then((found) => {
    const { projectId } = (found ?? {}) as { readonly projectId?: string };
    if (projectId === undefined) return;
    void fetchEarly(`projects/${projectId}`);
    void fetchEarly(`projects/${projectId}/sources`);
  });
  void import('../bench/BenchPage.tsx');
}
void import('./render.tsx');
