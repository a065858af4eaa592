import { expect, it } from '@jest/globals';
import type { Project } from '../src/api/client.ts';
import { loadShelf, shelfActions, whenWritten } from '../src/shelf/shelf-store.ts';

it('what is packed of a project has the notes that were just written, however late the server is', async () => {
  let kept: Project = { id: 'a', name: 'Own', notes: 'old', version: 1, materials: 0, createdAt: '', updatedAt: '' };
  let write: (() => void) | undefined;
  globalThis.fetch = (async (address: string, { method = 'GET', body }: RequestInit = {}) => {
    if (method === 'PATCH') {
      await new Promise<void>((done) => (write = done));
      kept = { ...kept, ...(JSON.parse(body as string) as Partial<Project>), version: 2 };
      return new Response(JSON.stringify(kept));
    }
    return new Response(
      JSON.stringify(address === '/api/projects' ? [kept] : address === '/api/projects/a' ? kept : []),
    );
  }) as typeof fetch;
  await loadShelf();
  const before = kept;
  const writing = shelfActions.writeNotes(before, 'new');
  const packed = whenWritten(before);
  await new Promise((rest) => setTimeout(rest, 20));
  write!();
  expect((await packed).notes).toBe('new');
  await writing;
  // A change that was refused holds nothing up.
  globalThis.fetch = () => Promise.resolve(new Response('{"detail":"no"}', { status: 500 }));
  await expect(shelfActions.writeNotes(before, 'newer')).rejects.toThrow();
  expect((await whenWritten(before)).notes).toBe('new');
});
