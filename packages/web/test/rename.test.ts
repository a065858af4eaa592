import { beforeEach, describe, expect, it } from '@jest/globals';
import type { Source } from '../src/api/client.ts';
import { renameSource } from '../src/project/rename.ts';
import type { Beside, SourcesStore } from '../src/project/sources-store.ts';

interface AutosavedHistory {
  readonly id: string;
  readonly title: string;
  text: string;
  revision: number;
}
const READS = 'image sign = "old.png"\nout color = uv |> sample(sign)\n';

describe('a source that is renamed is renamed in the materials that read it', () => {
  let materials: AutosavedHistory[] = [];
  /** What someone else does just before a material is saved, so many times. */
  let meanwhile: (material: AutosavedHistory) => void = () => undefined;
  const make = (id: string, text: string): AutosavedHistory => ({ id, title: `Title ${id}`, text, revision: 1 });
  beforeEach(() => {
    materials = [make('a', READS), make('b', READS), make('c', 'out color = 1\n'), make('d', `// "old.png"\n${READS}`)];
    meanwhile = () => undefined;
    globalThis.fetch = ((address: string, { method = 'GET', headers, body }: RequestInit = {}) => {
      const answer = (status: number, what: unknown): Promise<Response> =>
        Promise.resolve(new Response(JSON.stringify(what), { status }));
      const id = /materials\/(\w+)/.exec(address)?.[1];
      const material = materials.find((m) => m.id === id);
      if (!material) return answer(200, materials);
      if (method === 'GET') return answer(200, material);
      meanwhile(material);
      if ((headers as Record<string, string>)['if-match'] !== `"${String(material.revision)}"`)
        return answer(412, { detail: 'It was saved elsewhere.' });
      Object.assign(material, JSON.parse(body as string), { revision: material.revision + 1 });
      return answer(200, material);
    }) as typeof fetch;
  });
  const texts = (): string[] => materials.map((m) => m.text);
  const rename = async (): Promise<Beside> => {
    let kept: Beside | undefined;
    const store = {
      change: async (_: Source, __: unknown, ___: string, beside: Beside) => {
        kept = beside;
        await beside.does();
      },
    } as unknown as SourcesStore;
    await renameSource(store, { id: 's', projectId: 'p', name: 'old.png' } as Source, 'new.png');
    return kept!;
  };
  const renamed = READS.replace('old.png', 'new.png');

  it('each on its image lines alone, and back again', async () => {
    const before = texts();
    const beside = await rename();
    expect(texts()).toEqual([renamed, renamed, 'out color = 1\n', `// "old.png"\n${renamed}`]);
    expect(materials.map((m) => m.revision)).toEqual([2, 2, 1, 2]);
    await beside.undoes();
    expect(texts()).toEqual(before);
  });

  it('also in one that is saved elsewhere half-way: its newer text is kept, and the rest goes on', async () => {
    let times = 2;
    meanwhile = (material) => {
      if (material.id !== 'b' || times-- <= 0) return;
      material.text = `// theirs ${String(times)}\n${material.text}`;
      material.revision++;
    };
    await rename();
    expect(texts()).toEqual([
      renamed,
      `// theirs 0\n// theirs 1\n${renamed}`,
      'out color = 1\n',
      `// "old.png"\n${renamed}`,
    ]);
  });

  it('and says which still has the old name where one cannot be written, after doing all others', async () => {
    meanwhile = (material) => {
      if (material.id === 'b') material.revision++;
    };
    await expect(rename()).rejects.toThrow('It still has the old name in Title b: It was saved elsewhere.');
    expect(texts()).toEqual([renamed, READS, 'out color = 1\n', `// "old.png"\n${renamed}`]);
  });
});
