import type { Material, Start } from '@estela/contract';
import { createHash } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { applyEdits, check, parse, setTitle, titleOf } from '@estela/core';
import { Inject, Injectable, type OnModuleDestroy } from '@nestjs/common';
import { notFound } from '../http/problem.ts';
import { MaterialsService } from '../materials/materials.service.ts';
import { ProjectsService } from '../projects/projects.service.ts';
import { SourcesService } from '../sources/sources.service.ts';
import { bytesIn } from '../storage/blobs.ts';
import { threadsOf } from '../threads.ts';
import { startGroups } from '../../../../demo/starts.ts';

/** The folder of the starts, from the sources and from the built server. */
const FOLDER = new URL(
  import.meta.filename.endsWith('.ts') ? '../../../../demo/starts/' : '../../../demo/starts/',
  import.meta.url,
);

/** What a new material can begin from, and the pictures that come along. */
@Injectable()
export class StartsService implements OnModuleDestroy {
  readonly #pool = threadsOf(import.meta, 'start-worker');
  readonly #pictures = new Map<string, Promise<Buffer | undefined>>();
  #list: Promise<readonly Start[]> | undefined;

  constructor(
    @Inject(ProjectsService) readonly projects: ProjectsService,
    @Inject(MaterialsService) readonly materials: MaterialsService,
    @Inject(SourcesService) readonly sources: SourcesService,
  ) {}

  list(): Promise<readonly Start[]> {
    this.#list ??= Promise.all(
      Object.entries(startGroups).flatMap(([group, names]) => names.map((name) => read(group, name))),
    );
    return this.#list;
  }

  /** A picture that some start reads, as a PNG. */
  async picture(name: string): Promise<Buffer> {
    const read = (await this.list()).some((s) => s.images.includes(name));
    let made = read ? this.#pictures.get(name) : undefined;
    if (read && !made) {
      made = (this.#pool.run(name) as Promise<Uint8Array | undefined>).then((bytes) => bytes && Buffer.from(bytes));
      this.#pictures.set(name, made);
      made.catch(() => {
        this.#pictures.delete(name);
      });
    }
    const bytes = await made;
    if (!bytes) throw notFound('picture');
    return bytes;
  }

  /**
   * Makes a material of a start in a project, under a title. Its pictures become sources of the project: one that is
   * there already is used, and where another has the name they get one of their own.
   */
  async begin(projectId: string, name: string, title: string): Promise<Material> {
    await this.projects.row(projectId);
    const start = (await this.list()).find((s) => s.name === name);
    if (!start) throw notFound('start');
    let { text } = start;
    for (const image of start.images) {
      const source = await this.#bring(projectId, image);
      const { images } = check(parse(text));
      const edits = images
        .filter((i) => i.source === image && source !== image)
        .map(({ sourceSpan }) => ({ ...sourceSpan, insert: `"${source}"` }));
      text = applyEdits(text, edits);
    }
    return this.materials.create(projectId, applyEdits(text, setTitle(parse(text), title)));
  }

  /** Gives the name under which a project has a picture, storing it where it has not. */
  async #bring(projectId: string, image: string): Promise<string> {
    const bytes = await this.picture(image);
    const hash = createHash('sha256').update(bytes).digest('hex');
    const there = await this.sources.list(projectId);
    const [, stem = image, ending = ''] = /^(.*)(\.[a-z]+)$/.exec(image) ?? [];
    for (let n = 1; ; n++) {
      const name = n === 1 ? image : `${stem} ${String(n)}${ending}`;
      const source = there.find((s) => s.name === name);
      if (source && source.hash !== hash) continue;
      if (!source) await this.sources.create(projectId, { name, recipe: null }, bytesIn(bytes));
      return name;
    }
  }

  async onModuleDestroy(): Promise<void> {
    await this.#pool.destroy();
  }
}

async function read(group: string, name: string): Promise<Start> {
  const text = await readFile(new URL(`${name}.wake`, FOLDER), 'utf8');
  const program = check(parse(text));
  return {
    name,
    group,
    title: titleOf(program.tree) ?? name,
    sentence: (text.split('\n')[1] ?? '').replace(/^\/\/\s*/, ''),
    text,
    images: [...new Set(program.images.map((i) => i.source))],
  };
}
