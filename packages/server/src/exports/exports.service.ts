import type { ExportQuery, ExportsQuery } from '@estela/contract';
import { packageName } from '@estela/core';
import { Inject, Injectable, type OnModuleDestroy } from '@nestjs/common';
import { notExported, notFound } from '../http/problem.ts';
import { MaterialsService } from '../materials/materials.service.ts';
import { SourcesService } from '../sources/sources.service.ts';
import { Recent } from '../recent.ts';
import { threadsOf } from '../threads.ts';
import { filesOf, sourcesRead } from './images-read.ts';
import type { Files, Packaged, PackageJob } from './package-worker.ts';
import { why } from '../http/wording.ts';

/** A zip, and what it is called. */
export interface Exported {
  readonly name: string;
  readonly bytes: Uint8Array;
}

/** Most milliseconds that a package may take. */
const MOST_TIME = 120_000;
/** How many packages are kept: the Export view asks for a package, and for the page in it. */
const KEPT = 4;

/** Writes materials as packages, in threads of their own. */
@Injectable()
export class ExportsService implements OnModuleDestroy {
  readonly #pool = threadsOf(import.meta, 'package-worker');
  readonly #kept = new Recent<Promise<Files>>(KEPT);

  constructor(
    @Inject(MaterialsService) readonly materials: MaterialsService,
    @Inject(SourcesService) readonly sources: SourcesService,
  ) {}

  /** A material's package as a zip. Throws a Problem where it cannot be written. */
  async zip(id: string, how: ExportQuery): Promise<Exported> {
    const { title } = await this.materials.get(id);
    return { name: packageName(title).file, bytes: await this.#zip(await this.files(id, how)) };
  }

  /** Several materials of a project in one zip, each in a folder of its own. */
  async zipAll(projectId: string, { materials, ...how }: ExportsQuery): Promise<Exported> {
    const own = new Map((await this.materials.list(projectId)).map((m) => [m.id, m]));
    const all = new Map<string, Uint8Array>();
    const folders = new Set<string>();
    for (const id of materials) {
      const title = own.get(id)?.title;
      if (title === undefined) throw notFound('material');
      const { file } = packageName(title);
      let folder = file;
      for (let n = 2; folders.has(folder); n++) folder = `${file}-${String(n)}`;
      folders.add(folder);
      for (const [name, bytes] of await this.files(id, how)) all.set(`${folder}/${name}`, bytes);
    }
    return { name: 'materials', bytes: await this.#zip(all) };
  }

  /** The files of a material's package. Throws a Problem where it cannot be written. */
  async files(id: string, how: ExportQuery): Promise<Files> {
    const { projectId, text, title, revision } = await this.materials.get(id);
    const images = await sourcesRead(this.sources, projectId, [text]);
    const key = JSON.stringify([id, revision, how, images.map((s) => [s.name, s.hash])]);
    return this.#kept.get(key, () => {
      const made = filesOf(this.sources, images).then((bytes) =>
        this.#write(title, { ...how, text, revision, targets: how.target, images: bytes }),
      );
      made.catch(() => {
        this.#kept.drop(key);
      });
      return made;
    });
  }

  #zip(files: Files): Promise<Uint8Array> {
    return this.#pool.run({ zip: files }) as Promise<Uint8Array>;
  }

  async #write(title: string, job: PackageJob): Promise<Files> {
    const signal = AbortSignal.timeout(MOST_TIME);
    const made = await (this.#pool.run(job, { signal }) as Promise<Packaged>).catch((error: unknown) => {
      if (signal.aborted) return { refused: why.tooLongToExport };
      throw error;
    });
    if ('files' in made) return made.files;
    throw notExported(title, made.refused, 'missing' in made ? made.missing : undefined);
  }

  async onModuleDestroy(): Promise<void> {
    await this.#pool.destroy();
  }
}
