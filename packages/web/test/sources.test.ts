import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals';
import { shapeMesh } from '@estela/core';
import fc from 'fast-check';
import type { Source } from '../src/api/client.ts';
import { meshesOf, type MeshesStore } from '../src/project/meshes-store.ts';
import { freeName, sourcesOf, stemOf } from '../src/project/sources-store.ts';
import { bytesOf, forTexture } from '../src/material/shown.ts';

/**
 * A server in memory, as far as sources go: names are unique, versions guard writes, pictures are told apart by their
 * hash.
 */
function fakeServer(): (address: string, options?: RequestInit) => Promise<Response> {
  let sources: Source[] = [];
  let next = 0;
  const answer = (status: number, body?: unknown): Response =>
    new Response(body === undefined ? null : JSON.stringify(body), { status });
  return async (address, { method = 'GET', body, headers } = {}) => {
    await Promise.resolve();
    const path = address.replace('/api/', '');
    const form = body instanceof FormData ? body : new FormData();
    const file = form.get('file');
    const hash = file instanceof Blob ? `hash of ${await file.text()}` : form.get('hash');
    const name = form.get('name');
    const taken = (except?: string): boolean =>
      typeof name === 'string' && sources.some((s) => s.name === name && s.id !== except);
    if (method === 'GET')
      return answer(
        200,
        [...sources].sort((a, b) => a.name.localeCompare(b.name)),
      );
    if (method === 'POST') {
      if (taken()) return answer(409, { detail: 'taken' });
      const made = {
        id: String(next++),
        projectId: 'p',
        name,
        hash,
        recipe: JSON.parse((form.get('recipe') as string | null) ?? 'null') as unknown,
        version: 1,
      } as unknown as Source;
      sources = [...sources, made];
      return answer(201, made);
    }
    const source = sources.find((s) => s.id === path.replace('sources/', ''));
    if (!source) return answer(404, { detail: 'gone' });
    if ((headers as Record<string, string>)['if-match'] !== `"${String(source.version)}"`)
      return answer(412, { detail: 'stale' });
    sources = sources.filter((s) => s !== source);
    if (method === 'DELETE') return answer(204);
    if (taken(source.id)) {
      sources = [...sources, source];
      return answer(409, { detail: 'taken' });
    }
    const changed = {
      ...source,
      ...(hash === null ? {} : { hash }),
      ...(name === null ? {} : { name }),
      version: source.version + 1,
    } as Source;
    sources = [...sources, changed];
    return answer(200, changed);
  };
}

describe('the sources of a project', () => {
  const { fetch } = globalThis;
  beforeEach(() => {
    globalThis.fetch = fakeServer() as typeof fetch;
  });
  afterEach(() => {
    globalThis.fetch = fetch;
  });

  it('go back and forth over anything that was done to them', async () => {
    let project = 0;
    const act = fc.oneof(
      fc.record({
        kind: fc.constant('create' as const),
        name: fc.constantFrom('a', 'b', 'c', 'd'),
        content: fc.nat(3),
      }),
      fc.record({ kind: fc.constant('replace' as const), which: fc.nat(3), content: fc.nat(3) }),
      fc.record({ kind: fc.constant('rename' as const), which: fc.nat(3), name: fc.constantFrom('a', 'b', 'c', 'x') }),
      fc.record({ kind: fc.constant('remove' as const), which: fc.nat(3) }),
    );
    await fc.assert(
      fc.asyncProperty(fc.array(act, { maxLength: 12 }), async (acts) => {
        globalThis.fetch = fakeServer() as typeof fetch;
        const store = sourcesOf(`project ${String(project++)}`);
        await store.load();
        const looks = (): string[] => store.getState().sources.map((s) => `${s.name} ${s.hash}`);
        const file = (content: number): Blob => new Blob([String(content)]);
        const states = [looks()];
        for (const a of acts) {
          const { sources } = store.getState();
          const target = a.kind === 'create' ? undefined : sources[a.which % Math.max(sources.length, 1)];
          try {
            if (a.kind === 'create') await store.create({ name: a.name, file: file(a.content) });
            else if (!target) continue;
            else if (a.kind === 'replace') await store.change(target, { file: file(a.content) }, 'replace');
            else if (a.kind === 'rename') await store.change(target, { name: a.name }, 'rename');
            else await store.remove(target);
          } catch {
            // A name that is taken is refused, and nothing is there to undo.
            continue;
          }
          states.push(looks());
        }
        for (let i = states.length - 2; i >= 0; i--) {
          await store.undo();
          expect(looks()).toEqual(states[i]);
        }
        expect(store.getState().undoes).toBeUndefined();
        for (let i = 1; i < states.length; i++) {
          await store.redo();
          expect(looks()).toEqual(states[i]);
        }
        expect(store.getState().redoes).toBeUndefined();
      }),
      { numRuns: 60 },
    );
  });

  it('have names that are free', () => {
    const taken = ['moss.png', 'moss 2.png', 'plain'].map((name) => ({ name }));
    expect([
      freeName('moss.png', taken),
      freeName('fern.png', taken),
      freeName('plain', taken),
      stemOf('a.b.png'),
    ]).toEqual(['moss 3.png', 'fern.png', 'plain 2', 'a.b']);
  });
});

describe('importing', () => {
  beforeEach(() => {
    jest.resetModules();
  });

  it('asks, refuses and goes on', async () => {
    const read = jest.fn((bytes: Uint8Array) =>
      bytes.length === 3
        ? Promise.reject(new Error('is a broken PNG file: it is cut off.'))
        : Promise.resolve({
            header: { type: 'png', width: 4, height: 4, bits: 8 },
            frames: bytes.length === 5 ? 6 : 1,
          }),
    );
    jest.unstable_mockModule('../src/workers/pixels.ts', () => ({
      pixels: () => ({
        inspect: read,
        sheet: () => Promise.resolve({ bytes: new Uint8Array(1), columns: 3, rows: 2 }),
      }),
      stopPixels: () => undefined,
    }));
    const { createImporter } = await import('../src/project/import-store.ts');
    const { sourcesOf: storeOf } = await import('../src/project/sources-store.ts');
    globalThis.fetch = fakeServer() as typeof fetch;
    const store = storeOf('import');
    await store.load();
    const importer = createImporter(store, meshesOf(store.projectId));
    const settle = async (): Promise<string[]> => {
      for (let i = 0; i < 60; i++) await new Promise((done) => setTimeout(done, 1));
      return importer.getState().items.map((i) => `${i.name}: ${i.stage}`);
    };
    importer.add([
      new File(['12'], 'a.png'),
      new File(['123'], 'cut.png'),
      new File(['12345'], 'move.gif'),
      new File(['12'], 'b.png'),
      new File(['4444'], 'a.png'),
    ]);
    expect(await settle()).toEqual([
      'a.png: done',
      'cut.png: refused',
      'move.gif: asks frames',
      'b.png: done',
      'a.png: asks name',
    ]);
    expect(importer.getState().items[1]?.message).toBe('"cut.png" is a broken PNG file: it is cut off.');
    importer.answerFrames(importer.getState().items[2]!.id, true);
    importer.answerName('all', 'keep both');
    expect(await settle()).toEqual([
      'a.png: done',
      'cut.png: refused',
      'move-sheet.png: done',
      'b.png: done',
      'a 2.png: done',
    ]);
    expect(store.getState().sources.find((s) => s.name === 'move-sheet.png')?.recipe).toMatchObject({
      kind: 'sheet',
      columns: 3,
      rows: 2,
    });
    importer.add([new File(['777'], 'late.png')]);
    importer.cancel();
    expect((await settle()).at(-1)).toBe('late.png: left out');
  });

  it('sends each once however often it is answered, and nothing that was stopped meanwhile', async () => {
    jest.unstable_mockModule('../src/workers/pixels.ts', () => ({
      pixels: () => ({
        inspect: () => Promise.resolve({ header: { type: 'png', width: 4, height: 4, bits: 8 }, frames: 1 }),
      }),
      stopPixels: () => undefined,
    }));
    const mesh = shapeMesh('plane', 1);
    jest.unstable_mockModule('../src/workers/meshes.ts', () => ({
      meshFiles: () => ({
        read: (name: string) => Promise.resolve({ mesh, type: 'OBJ', hasUvs: name !== 'bare.obj', notes: [] }),
        lay: () => new Promise((laid) => setTimeout(laid, 5, mesh)),
      }),
    }));
    const { createImporter } = await import('../src/project/import-store.ts');
    const { sourcesOf: storeOf } = await import('../src/project/sources-store.ts');
    globalThis.fetch = fakeServer() as typeof fetch;
    const store = storeOf('twice');
    await store.load();
    const sent: string[] = [];
    const kept = { meshes: [{ id: '1', name: 'leaf' }] };
    const meshes = {
      getState: () => kept,
      create: (name: string) => Promise.resolve({ id: String(sent.push(name)) }),
      write: (id: string) => Promise.resolve({ id: String(sent.push(`over ${id}`)) }),
    } as unknown as MeshesStore;
    const importer = createImporter(store, meshes);
    const settle = async (): Promise<string[]> => {
      for (let i = 0; i < 40; i++) await new Promise((done) => setTimeout(done, 1));
      return importer.getState().items.map((i) => `${i.name}: ${i.stage}`);
    };
    const names = (): string[] => store.getState().sources.map((s) => s.name);
    const pictures = (): File[] => ['a.png', 'b.png'].map((name) => new File(['12'], name));
    importer.add(pictures());
    await settle();
    importer.add(pictures());
    await settle();
    importer.answerName('all', 'keep both');
    importer.answerName('all', 'keep both');
    for (const { id } of importer.getState().items) importer.answerName(id, 'keep both');
    expect(await settle()).toEqual(['a 2.png: done', 'b 2.png: done']);
    expect(names()).toEqual(['a 2.png', 'a.png', 'b 2.png', 'b.png']);
    importer.add(pictures());
    await settle();
    importer.answerName('all', 'keep both');
    importer.cancel();
    expect((await settle()).at(-1)).toBe('b.png: left out');
    expect(names()).not.toContain('b 3.png');

    importer.add([new File(['v'], 'bare.obj'), new File(['v'], 'leaf.obj')]);
    expect(await settle()).toEqual(['bare.obj: asks uvs', 'leaf: asks name']);
    const [bare, leaf] = importer.getState().items;
    importer.answerUvs(bare!.id, 'planar');
    importer.answerUvs(bare!.id, 'planar');
    importer.answerName(leaf!.id, 'replace');
    await settle();
    expect(sent).toEqual(['over 1', 'bare']);
    importer.add([new File(['v'], 'bare.obj')]);
    await settle();
    importer.answerUvs(importer.getState().items[0]!.id, 'cylindrical');
    importer.cancel();
    expect((await settle()).at(-1)).toBe('bare.obj: left out');
    expect(sent).toHaveLength(2);
  });
});

describe('pixels that are shown', () => {
  it('become smaller by means, and 16 bits become floats for the card', () => {
    const image = {
      width: 4,
      height: 2,
      data: Uint16Array.from({ length: 32 }, (_, i) => (i % 4 === 3 ? 65535 : (i >> 2) * 256)),
    };
    expect(bytesOf(image, 2)).toEqual({ width: 2, height: 1, data: Uint8Array.from([2, 2, 2, 255, 4, 4, 4, 255]) });
    const floats = forTexture(image, false, 4096).data;
    expect(floats).toBeInstanceOf(Float32Array);
    expect(floats[4]).toBeCloseTo(256 / 65535, 7);
    expect(forTexture(image, true, 4096).data[4]).toBeCloseTo(256 / 65535 / 12.92, 7);
    expect(forTexture(image, false, 2).data).toBeInstanceOf(Uint8Array);
  });
});
