import { BYTE_LIMIT, tooManyBytes, TYPE_NAMES } from '@estela/codecs';
import type { GltfLooks } from '@estela/codecs/mesh';
import { gltfMaterialText, type MeshData } from '@estela/core';
import { createStore, type StoreApi } from 'zustand/vanilla';
import { api, sentence, type Material } from '../api/client.ts';
import type { MeshesStore } from './meshes-store.ts';
import { meshFiles } from '../workers/meshes.ts';
import { pixels, stopPixels } from '../workers/pixels.ts';
import { freeName, stemOf, type SourcesStore } from './sources-store.ts';
import { handOver } from './supply.ts';

/** What happens to one file. Questions wait while the other files go on. */
export type ImportStage =
  | 'waiting'
  | 'reading'
  | 'asks frames'
  | 'asks uvs'
  | 'asks materials'
  | 'asks name'
  | 'sending'
  | 'done'
  | 'refused'
  | 'left out';

export interface ImportItem {
  readonly id: number;
  readonly name: string;
  readonly file: File;
  readonly stage: ImportStage;
  /** What it turned out to be, or why it was refused. */
  readonly message: string;
  readonly frames: number;
  /** All frames of an animation as one sheet, as was chosen. */
  readonly asSheet: boolean;
  /** A mesh instead of a picture, and once it is stored its id. */
  readonly mesh?: { readonly id?: string };
  /** Materials that came with it. */
  readonly materials: readonly Pick<Material, 'id' | 'title'>[];
}

export interface ImportState {
  readonly items: readonly ImportItem[];
}

/** How to lay UVs over a mesh that has none; or to leave it so. */
export type UvAnswer = 'planar' | 'cylindrical' | 'none';
export type NameAnswer = 'replace' | 'keep both' | 'leave out';

export interface Importer extends StoreApi<ImportState> {
  readonly add: (files: readonly File[]) => void;
  readonly answerFrames: (id: number, asSheet: boolean) => void;
  readonly answerUvs: (id: number, answer: UvAnswer) => void;
  /** Whether textures and materials of a file come in with its mesh. */
  readonly answerMaterials: (id: number, take: boolean) => void;
  /** For one file, or for all that ask. */
  readonly answerName: (id: number | 'all', answer: NameAnswer) => void;
  /** Stops what is being read, and leaves out what waits. */
  readonly cancel: () => void;
  /** Takes what is settled off the list. */
  readonly clear: () => void;
}

export const isSettled = ({ stage }: ImportItem): boolean =>
  stage === 'done' || stage === 'refused' || stage === 'left out';
export const isWorking = ({ stage }: ImportItem): boolean =>
  stage === 'waiting' || stage === 'reading' || stage === 'sending';

const isMesh = ({ name }: File): boolean => /\.(obj|gltf|glb)$/i.test(name);

/**
 * Brings files into a project one after the other: reads each in a worker, asks where it must, then sends it. A refused
 * one stops none.
 */
export function createImporter(sources: SourcesStore, meshes: MeshesStore): Importer {
  const store = createStore<ImportState>(() => ({ items: [] }));
  let next = 1;
  let running = false;
  let round = 0;
  /** Meshes that were read and wait to be stored, and files that came along with them. */
  const held = new Map<number, MeshData>();
  const beside = new Map<number, ReadonlyMap<string, File>>();
  const looks = new Map<number, GltfLooks>();

  const items = (): readonly ImportItem[] => store.getState().items;
  const find = (id: number): ImportItem | undefined => items().find((item) => item.id === id);
  const put = (id: number, change: Partial<ImportItem>): void => {
    store.setState({ items: items().map((item) => (item.id === id ? { ...item, ...change } : item)) });
    const item = find(id);
    if (item && !isSettled(item)) return;
    held.delete(id);
    beside.delete(id);
    looks.delete(id);
  };
  /** Whether it is still as it was before something was waited for: not stopped, that is. */
  const isAt = (id: number, stage: ImportStage): boolean => find(id)?.stage === stage;

  const read = async ({ id, file, name }: ImportItem): Promise<void> => {
    put(id, { stage: 'reading' });
    if (file.size > BYTE_LIMIT) throw tooManyBytes(file.size);
    if (isMesh(file)) {
      await readMesh(id, file);
      return;
    }
    const { header, frames } = await pixels('import').inspect(await handOver(file));
    const what = `${TYPE_NAMES[header.type]}, ${String(header.width)} x ${String(header.height)}, ${String(header.bits)} bit`;
    put(id, { message: what, frames, stage: frames > 1 ? 'asks frames' : 'waiting' });
    if (frames === 1) await settleName(id, name);
  };

  const readMesh = async (id: number, file: File): Promise<void> => {
    const others = new Map<string, Uint8Array>();
    for (const [name, other] of beside.get(id) ?? []) others.set(name, new Uint8Array(await other.arrayBuffer()));
    const { mesh, type, hasUvs, notes } = await meshFiles().read(file.name, await handOver(file), others);
    const own = type === 'OBJ' ? undefined : await looksOf(file, others);
    if (!isAt(id, 'reading')) return;
    held.set(id, mesh);
    if (own?.looks) looks.set(id, own.looks);
    const what = `${type}, ${String(mesh.indices.length / 3)} triangles${mesh.colors ? ', coloured' : ''}${hasUvs ? '' : ', no UVs'}`;
    put(id, {
      message: [what, ...notes, ...(own?.notes ?? [])].join('. '),
      mesh: {},
      stage: hasUvs ? 'waiting' : 'asks uvs',
    });
    if (hasUvs) await settleMaterials(id, file.name);
  };

  /** Materials that are in a file; where they cannot be read, the mesh comes in all the same. */
  const looksOf = async (
    file: File,
    others: ReadonlyMap<string, Uint8Array>,
  ): Promise<{ readonly looks?: GltfLooks; readonly notes: readonly string[] }> => {
    try {
      const found = await meshFiles().looks(file.name, await handOver(file), others);
      return found.materials.length > 0 ? { looks: found, notes: found.notes } : { notes: [] };
    } catch (error) {
      return { notes: [`Its materials are left out: ${sentence(error)}`] };
    }
  };

  const settleMaterials = async (id: number, name: string): Promise<void> => {
    if (looks.has(id)) put(id, { stage: 'asks materials' });
    else await settleName(id, stemOf(name));
  };

  /** Stores the textures of a file, and a material for each of its own that reads some. */
  const bringMaterials = async (id: number): Promise<void> => {
    const found = looks.get(id);
    if (!found) return;
    const names = new Map<number, string>();
    for (const [number, image] of found.images) {
      const name = freeName(image.name, sources.getState().sources);
      await sources.create({ name, file: new Blob([image.bytes]), recipe: null });
      names.set(number, name);
    }
    const made: Material[] = [];
    const notes: string[] = [];
    for (const material of found.materials) {
      const { text, notes: unread } = gltfMaterialText(material, material.name, names);
      const stored = await api.createMaterial(sources.projectId, text);
      made.push(stored);
      notes.push(...unread.map((note) => `${stored.title}: ${note}`));
    }
    const message = [find(id)?.message ?? '', ...notes].join(' ');
    // Who shows what reads them looks again.
    sources.setState(({ travels }) => ({ travels: travels + 1 }));
    put(id, { materials: made.map(({ id: own, title }) => ({ id: own, title })), message });
  };

  const settleName = async (id: number, name: string): Promise<void> => {
    const those = held.has(id) ? meshes.getState().meshes : sources.getState().sources;
    const taken = those.some((s) => s.name === name);
    if (taken) put(id, { stage: 'asks name', name });
    else await send(id, name);
  };

  const send = async (id: number, name: string, replace = false): Promise<void> => {
    const item = find(id);
    if (!item) return;
    put(id, { stage: 'sending', name });
    const mesh = held.get(id);
    if (mesh) {
      const before = replace ? meshes.getState().meshes.find((m) => m.name === name) : undefined;
      const stored = before ? await meshes.write(before.id, mesh, before.version) : await meshes.create(name, mesh);
      put(id, { stage: 'done', mesh: { id: stored.id } });
      return;
    }
    let file: Blob = item.file;
    let recipe = null;
    if (item.asSheet) {
      const sheet = await pixels('import').sheet(await handOver(item.file));
      file = new Blob([sheet.bytes], { type: 'image/png' });
      recipe = { kind: 'sheet', from: item.file.name, columns: sheet.columns, rows: sheet.rows } as const;
    }
    const before = replace ? sources.getState().sources.find((s) => s.name === name) : undefined;
    if (before) await sources.change(before, { file, recipe }, `replace ${name}`);
    else await sources.create({ name, file, recipe });
    put(id, { stage: 'done' });
  };

  const attempt = async (item: ImportItem, act: () => Promise<void>): Promise<void> => {
    const mine = round;
    try {
      await act();
    } catch (error) {
      if (mine !== round) return;
      const why = sentence(error);
      put(item.id, { stage: 'refused', message: why.startsWith('is ') ? `"${item.name}" ${why}` : why });
    }
  };

  const run = async (): Promise<void> => {
    if (running) return;
    running = true;
    const mine = round;
    for (;;) {
      const item = items().find((i) => i.stage === 'waiting' && i.message === '');
      if (!item || mine !== round) break;
      await attempt(item, () => read(item));
    }
    if (mine === round) running = false;
  };

  return {
    ...store,
    add(files) {
      // What belongs to a glTF comes along with it, and is no source of its own.
      const parts = new Map(files.filter((f) => /\.(bin|mtl)$/i.test(f.name)).map((f) => [f.name, f]));
      const items = files.flatMap((file): ImportItem[] => {
        if (parts.has(file.name) && files.some(isMesh)) return [];
        const name = file.name.replace(/["\n\r]/g, "'").slice(0, 200) || 'picture.png';
        beside.set(next, parts);
        return [{ id: next++, name, file, stage: 'waiting', message: '', frames: 1, asSheet: false, materials: [] }];
      });
      store.setState((s) => ({ items: [...s.items.filter((i) => !isSettled(i)), ...items] }));
      void run();
    },
    answerFrames(id, asSheet) {
      const item = find(id);
      if (item?.stage !== 'asks frames') return;
      const name = asSheet ? `${stemOf(item.name)}-sheet.png` : item.name;
      put(id, { asSheet, stage: 'waiting' });
      void attempt(item, () => settleName(id, name));
    },
    answerUvs(id, answer) {
      const item = find(id);
      const mesh = held.get(id);
      if (item?.stage !== 'asks uvs' || !mesh) return;
      put(id, { stage: 'reading' });
      void attempt(item, async () => {
        const laid = answer === 'none' ? mesh : await meshFiles().lay(mesh, answer);
        if (!isAt(id, 'reading')) return;
        held.set(id, laid);
        await settleMaterials(id, item.name);
      });
    },
    answerMaterials(id, take) {
      const item = find(id);
      if (item?.stage !== 'asks materials') return;
      put(id, { stage: 'sending' });
      void attempt(item, async () => {
        if (take) await bringMaterials(id);
        await settleName(id, stemOf(item.file.name));
      });
    },
    answerName(which, answer) {
      const asking = items().filter((i) => i.stage === 'asks name' && (which === 'all' || i.id === which));
      // Answered is answered, also for those whose turn comes later.
      for (const { id } of asking) put(id, { stage: answer === 'leave out' ? 'left out' : 'waiting' });
      void (async () => {
        for (const item of asking) {
          if (!isAt(item.id, 'waiting')) continue;
          await attempt(item, () =>
            answer === 'replace'
              ? send(item.id, item.name, true)
              : send(
                  item.id,
                  freeName(item.name, held.has(item.id) ? meshes.getState().meshes : sources.getState().sources),
                ),
          );
        }
      })();
    },
    cancel() {
      round++;
      running = false;
      stopPixels('import');
      for (const item of items()) if (!isSettled(item)) put(item.id, { stage: 'left out' });
    },
    clear() {
      store.setState(({ items }) => ({ items: items.filter((i) => !isSettled(i)) }));
    },
  };
}
