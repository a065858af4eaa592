import type { MaterialGlbQuery, SetGlbQuery } from '@estela/contract';
import { packageName, SHAPES } from '@estela/core';
import { Inject, Injectable, type OnModuleDestroy } from '@nestjs/common';
import { notExported, Problem } from '../http/problem.ts';
import { MaterialsService } from '../materials/materials.service.ts';
import { MeshesService } from '../meshes/meshes.service.ts';
import { SetsService } from '../sets/sets.service.ts';
import { SourcesService } from '../sources/sources.service.ts';
import { threadsOf } from '../threads.ts';
import type { Exported } from './exports.service.ts';
import { filesOf, sourcesRead } from './images-read.ts';
import type { GlbWritten, MaterialGlbJob, SetGlbJob } from './glb-worker.ts';
import { why } from '../http/wording.ts';

/** Most milliseconds that a GLB may take, and most megabytes of the heap of its thread. */
const [MOST_TIME, MOST_MEMORY] = [120_000, 2048];

/** Writes materials and sets as GLB, in threads of their own. */
@Injectable()
export class GlbService implements OnModuleDestroy {
  readonly #pool = threadsOf(import.meta, 'glb-worker', { megabytes: MOST_MEMORY });

  constructor(
    @Inject(MaterialsService) readonly materials: MaterialsService,
    @Inject(SourcesService) readonly sources: SourcesService,
    @Inject(MeshesService) readonly meshes: MeshesService,
    @Inject(SetsService) readonly sets: SetsService,
  ) {}

  /** A material on a mesh, given up once `gone`. Throws a Problem where it cannot be written. */
  async material(id: string, how: MaterialGlbQuery, gone: AbortSignal): Promise<Exported> {
    const { projectId, text, title } = await this.materials.get(id);
    const isOwn = !Object.hasOwn(SHAPES, how.mesh);
    const mesh = isOwn ? { bytes: await this.meshes.bytes(how.mesh) } : { shape: how.mesh };
    const meshName = isOwn ? (await this.meshes.get(how.mesh)).name : how.mesh;
    const images = await this.#images(projectId, [text]);
    return {
      name: packageName(title).file,
      bytes: await this.#write(title, { text, mesh, meshName, how, images }, gone),
    };
  }

  /** A set as one scene, given up once `gone`. Throws a Problem where it cannot be written. */
  async set(id: string, how: SetGlbQuery, gone: AbortSignal): Promise<Exported> {
    const set = await this.sets.get(id);
    const materials = new Map<string, { readonly title: string; readonly text: string }>();
    const meshes = new Map<string, { readonly name: string; readonly bytes: Uint8Array }>();
    for (const { material, mesh } of set.items) {
      // What is deleted since shows as it does on the Stage: plain, or not at all.
      const found = material === null ? undefined : await orMissing(this.materials.get(material));
      if (material !== null && found) materials.set(material, found);
      const own = !Object.hasOwn(SHAPES, mesh) ? await orMissing(this.meshes.get(mesh)) : undefined;
      if (own) meshes.set(mesh, { name: own.name, bytes: await this.meshes.bytes(mesh) });
    }
    const images = await this.#images(
      set.projectId,
      [...materials.values()].map((m) => m.text),
    );
    return {
      name: packageName(set.name).file,
      bytes: await this.#write(set.name, { set, materials, meshes, how, images }, gone),
    };
  }

  async #images(projectId: string, texts: readonly string[]): Promise<ReadonlyMap<string, Uint8Array>> {
    return filesOf(this.sources, await sourcesRead(this.sources, projectId, texts));
  }

  async #write(title: string, job: MaterialGlbJob | SetGlbJob, gone: AbortSignal): Promise<Uint8Array> {
    // Whoever chose something else in the meantime keeps no thread.
    const signal = AbortSignal.any([AbortSignal.timeout(MOST_TIME), gone]);
    const made = await (this.#pool.run(job, { signal }) as Promise<GlbWritten>).catch((error: unknown): GlbWritten => {
      if (signal.aborted) return { refused: why.tooLongForGlb };
      if (error instanceof Error && 'code' in error && error.code === 'ERR_WORKER_OUT_OF_MEMORY')
        return { refused: why.tooMuchMemory };
      throw error;
    });
    if ('bytes' in made) return made.bytes;
    throw notExported(title, made.refused, made.missing);
  }

  async onModuleDestroy(): Promise<void> {
    await this.#pool.destroy();
  }
}

/** What is there; undefined where it is not. */
async function orMissing<T>(reading: Promise<T>): Promise<T | undefined> {
  try {
    return await reading;
  } catch (error) {
    if (error instanceof Problem && error.kind === 'not-found') return undefined;
    throw error;
  }
}
