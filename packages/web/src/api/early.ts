import type { PageData } from '@estela/contract';

/** Milliseconds after which an answer that came with the page is old. */
const FRESH = 10_000;

const answers = new Map<string, unknown>();

/** What the server sent along with the page, for its first view to find without asking; undefined where it sent none. */
export function readPageData(): PageData | undefined {
  const block = document.querySelector('script[type="application/json"]');
  if (!block) return undefined;
  const data = JSON.parse(block.textContent) as PageData;
  const { material, project, sources } = data;
  answers.set(`materials/${material.id}`, material);
  answers.set(`projects/${project.id}`, project);
  answers.set(`projects/${project.id}/sources`, sources);
  setTimeout(() => {
    answers.clear();
  }, FRESH);
  return data;
}

/** The answer of the API that came with the page, once. */
export function takeEarly(path: string): unknown {
  const answer = answers.get(path);
  answers.delete(path);
  return answer;
}
