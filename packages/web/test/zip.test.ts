import { beforeEach, describe, expect, it, jest } from '@jest/globals';
import fc from 'fast-check';
import { unzipped, zipped } from '../src/workers/zip.ts';
import type { Project, Recipe } from '../src/api/client.ts';

interface AutosavedHistory {
  id: string;
  projectId: string;
  version: number;
  revision: number;
  name: string;
  title: string;
  text: string;
  bytes: string;
  mime: string;
  hash: string;
  recipe: Recipe | null;
  items: { mesh: string; material: string | null }[];
}
type Kind = 'projects' | 'materials' | 'sources' | 'meshes' | 'sets';

/** A server that keeps what it is sent, and may refuse one kind of thing. */
class Server {
  kept: Record<Kind, AutosavedHistory[]> = { projects: [], materials: [], sources: [], meshes: [], sets: [] };
  refuses: Kind | undefined;
  #next = 0;
  readonly fetch = async (address: string, { method = 'GET', body }: RequestInit = {}): Promise<Response> => {
    const answer = (status: number, what?: unknown): Response =>
      new Response(what === undefined ? null : JSON.stringify(what), { status });
    const [first = '', id = '', kind = ''] = address.replace(/^\/api\//, '').split(/[/?]/);
    if (kind === 'content') return new Response(this.kept[first as Kind].find((k) => k.id === id)!.bytes);
    const at = (kind === '' ? first : kind) as Kind;
    if (method === 'GET')
      return kind === '' && id !== ''
        ? answer(
            200,
            this.kept[at].find((k) => k.id === id),
          )
        : answer(
            200,
            this.kept[at].filter((k) => k.projectId === id),
          );
    if (method === 'DELETE') {
      for (const list of Object.keys(this.kept) as Kind[])
        this.kept[list] = this.kept[list].filter((k) => k.id !== id && k.projectId !== id);
      return answer(204);
    }
    if (method === 'PATCH') {
      Object.assign(
        this.kept.projects.find((k) => k.id === id)!,
        JSON.parse(body as string),
      );
      return answer(200, {});
    }
    if (at === this.refuses) return answer(507, { detail: 'The disk is full.' });
    const made: Partial<AutosavedHistory> = {
      id: `id ${String(this.#next++)}`,
      projectId: id,
      version: 1,
      revision: 1,
    };
    if (body instanceof FormData) {
      const file = body.get('file') as Blob;
      Object.assign(made, {
        name: body.get('name'),
        bytes: await file.text(),
        mime: 'image/png',
        hash: 'h'.repeat(64),
      });
      made.recipe = JSON.parse((body.get('recipe') as string | null) ?? 'null') as Recipe | null;
    } else Object.assign(made, JSON.parse(body as string));
    if (at === 'materials') made.title = /material "(.*)"/.exec(made.text ?? '')?.[1] ?? 'Untitled';
    this.kept[at].push(made as AutosavedHistory);
    return answer(201, made);
  };
}

let server: Server;
const { zipOf, projectFromZip } = await (async () => {
  jest.unstable_mockModule('../src/workers/pixels.ts', () => ({ pixels: () => ({ zip: zipped, unzip: unzipped }) }));
  return import('../src/project/project-zip.ts');
})();
beforeEach(() => {
  server = new Server();
  globalThis.fetch = server.fetch as typeof fetch;
});

const post = async (address: string, body: object | FormData): Promise<AutosavedHistory> =>
  (await (
    await server.fetch(`/api/${address}`, {
      method: 'POST',
      body: body instanceof FormData ? body : JSON.stringify(body),
    })
  ).json()) as AutosavedHistory;
const form = (name: string, bytes: string, recipe: object | null = null): FormData => {
  const made = new FormData();
  made.set('name', name);
  made.set('file', new Blob([bytes]));
  made.set('recipe', JSON.stringify(recipe));
  return made;
};
const fileOf = (blob: Blob): File => new File([blob], 'a.zip');

/** All of a project, with names in place of ids. */
function told(projectId: string): unknown {
  const inIt = (kind: Kind): AutosavedHistory[] => server.kept[kind].filter((k) => k.projectId === projectId);
  const names = new Map(
    Object.values(server.kept).flatMap((list) => list.map((k) => [k.id, k.text || k.bytes] as const)),
  );
  return {
    materials: inIt('materials').map((m) => m.text),
    sources: inIt('sources').map((s) => [
      s.name,
      s.bytes,
      s.recipe?.kind === 'step' ? { ...s.recipe, materialId: names.get(s.recipe.materialId) } : s.recipe,
    ]),
    meshes: inIt('meshes').map((m) => [m.name, m.bytes]),
    sets: inIt('sets').map((s) => [
      s.name,
      s.items.map((i) => [names.get(i.mesh) ?? i.mesh, names.get(i.material ?? '')]),
    ]),
  };
}

describe('a project as a zip', () => {
  it('comes back the same, whatever its parts are called', async () => {
    const name = fc.oneof(
      fc.constantFrom('a', 'A', 'moss.png', '../../etc/passwd', '__proto__', 'con', '.', 'ä ö', 'a/b', 'project.json'),
      fc.string({ minLength: 1 }),
    );
    const content = fc.record({
      titles: fc.array(name, { maxLength: 4 }),
      sources: fc.uniqueArray(name, { maxLength: 4 }),
      meshes: fc.uniqueArray(name, { maxLength: 3 }),
    });
    await fc.assert(
      fc.asyncProperty(content, async ({ titles, sources, meshes }) => {
        server = new Server();
        globalThis.fetch = server.fetch as typeof fetch;
        const project = await post('projects', { name: 'Vents' });
        const materials = [];
        for (const [i, title] of titles.entries())
          materials.push(
            await post(`projects/${project.id}/materials`, { text: `material "${title}"\n// ${String(i)}` }),
          );
        const step = materials[0] && { kind: 'step', materialId: materials[0].id, signature: 's', bake: {} };
        for (const [i, source] of sources.entries())
          await post(
            `projects/${project.id}/sources`,
            form(source, `picture ${String(i)}`, i === 0 ? (step ?? null) : null),
          );
        const items = [{ mesh: 'sphere', material: materials.at(-1)?.id ?? null }];
        for (const [i, mesh] of meshes.entries())
          items.push({
            mesh: (await post(`projects/${project.id}/meshes`, form(mesh, `mesh ${String(i)}`))).id,
            material: null,
          });
        await post(`projects/${project.id}/sets`, { name: 'all', items, scene: {}, view: null });
        const zip = await zipOf(project as unknown as Project);
        // No path leads anywhere but down.
        for (const path of unzipped(new Uint8Array(await zip.arrayBuffer()), 1e9).keys())
          expect(path).toMatch(/^(project\.json|(materials|sources|meshes)\/[a-z0-9-]+\.[A-Za-z0-9]+)$/);
        const back = await projectFromZip(fileOf(zip));
        expect(told(back.id)).toEqual(told(project.id));
      }),
      { numRuns: 60 },
    );
  });

  const whole = {
    estela: 1,
    name: 'Vents',
    notes: '',
    materials: [{ file: 'm.wake' }],
    sources: [{ file: 's.png', name: 's.png', recipe: null }],
    meshes: [],
    sets: [],
  };
  const zip = (listing: unknown): File =>
    fileOf(
      new Blob([
        zipped(
          new Map([
            ['project.json', new TextEncoder().encode(typeof listing === 'string' ? listing : JSON.stringify(listing))],
            ['m.wake', new TextEncoder().encode('out color = 1')],
            ['s.png', new TextEncoder().encode('picture')],
          ]),
        ),
      ]),
    );

  it('of an earlier version comes in with the names of this one', async () => {
    server = new Server();
    globalThis.fetch = server.fetch as typeof fetch;
    const recipe = { kind: 'tile', from: 'b.png', band: 0.1 };
    const item = { id: 'a', mesh: 'sphere', material: null };
    await projectFromZip(
      zip({
        ...whole,
        sources: [{ file: 's.png', name: 's.png', recipe: { ...recipe, way: 'patch' } }],
        sets: [{ name: 'x', items: [{ ...item, film: true }], scene: {}, view: null }],
      }),
    );
    expect(server.kept.sources.map((s) => s.recipe)).toEqual([{ ...recipe, method: 'patch' }]);
    expect(server.kept.sets.map((s) => s.items)).toEqual([[{ ...item, overlay: true }]]);
  });

  it.each<[string, unknown, string]>([
    ['no JSON', '{', 'cannot be read'],
    ['no object', '7', 'cannot be read'],
    ['nothing', 'null', 'cannot be read'],
    ['another kind', { ...whole, estela: 2 }, 'has a version that this Estela does not know'],
    ['no name', { ...whole, name: 7 }, 'lacks a name, materials or sources'],
    ['materials that are none', { ...whole, materials: { length: 3 } }, 'lacks a name, materials or sources'],
    ['a material that is nothing', { ...whole, materials: [null] }, 'A material in its project.json lacks its file'],
    [
      'a source without a name',
      { ...whole, sources: [{ file: 's.png' }] },
      'A source in its project.json lacks its file or name',
    ],
    ['a mesh that is a word', { ...whole, meshes: ['x'] }, 'A mesh in its project.json lacks its file or name'],
    ['a set without items', { ...whole, sets: [{ name: 'x' }] }, 'A set in its project.json lacks its items'],
    [
      'a set with an item that is nothing',
      { ...whole, sets: [{ name: 'x', items: [null] }] },
      'A set in its project.json lacks its items',
    ],
    [
      'a file that is not there',
      { ...whole, materials: [{ file: '../m.wake' }] },
      '../m.wake is listed but missing from the zip',
    ],
    [
      'a file that every object has',
      { ...whole, materials: [{ file: 'constructor' }] },
      'constructor is listed but missing from the zip',
    ],
  ])('that holds %s is refused in plain words, and leaves nothing behind', async (_, listing, words) => {
    await expect(projectFromZip(zip(listing))).rejects.toThrow(words);
    expect(Object.values(server.kept).flat()).toEqual([]);
  });

  it('that the server cannot keep, that is no zip, or that unpacks to too much, leaves nothing behind', async () => {
    server.refuses = 'sources';
    await expect(projectFromZip(zip(whole))).rejects.toThrow('The disk is full.');
    await expect(projectFromZip(fileOf(new Blob(['no zip'])))).rejects.toThrow(
      'a.zip cannot be opened: it is not a zip, or it is broken.',
    );
    await expect(projectFromZip(fileOf(new Blob([zipped(new Map([['x', new Uint8Array(1)]]))])))).rejects.toThrow(
      'It has no project.json',
    );
    expect(() => unzipped(zipped(new Map([['a.md', new Uint8Array(3e6)]])), 2 * 2 ** 20)).toThrow(
      'It unpacks to more than 2 MB.',
    );
    expect(Object.values(server.kept).flat()).toEqual([]);
  });
});
