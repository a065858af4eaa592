import { createHash } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { PageData } from '@estela/contract';
import { firstPicture, type FirstPicture } from '@estela/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import type { Request, Response } from 'express';
import { Problem } from './http/problem.ts';
import { MaterialsService } from './materials/materials.service.ts';
import { ProjectsService } from './projects/projects.service.ts';
import { Recent } from './recent.ts';
import { SourcesService } from './sources/sources.service.ts';

/** Letters of a text that is compiled while its page waits: some 20 ms. */
const LONGEST = 20_000;
/** How many first pictures are kept. */
const KEPT = 100;

/** The page of the application, at every address of it. That of a material comes with what its Bench asks for first. */
export class ApplicationPage {
  readonly #pictures = new Recent<FirstPicture | undefined>(KEPT);

  private constructor(
    readonly app: NestExpressApplication,
    readonly html: string,
    /** Sources that a policy must name for the scripts within the page to be run. */
    readonly scripts: readonly string[],
  ) {}

  /** The page in the folder of a built web application. */
  static async of(app: NestExpressApplication, web: string): Promise<ApplicationPage> {
    const html = await readFile(join(web, 'index.html'), 'utf8');
    const hashes = [...html.matchAll(/<script>([^]*?)<\/script>/g)].map(([, script = '']) =>
      createHash('sha256').update(script).digest('base64'),
    );
    return new ApplicationPage(
      app,
      html,
      hashes.map((hash) => `'sha256-${hash}'`),
    );
  }

  async send(request: Request, response: Response): Promise<void> {
    const [, id] = /^\/materials\/([^/]+)$/.exec(request.path) ?? [];
    const { html } = this;
    response.type('html');
    if (id === undefined) {
      response.setHeader('Cache-Control', 'no-cache').send(html);
      return;
    }
    // The data may be different at the next visit.
    response.setHeader('Cache-Control', 'no-store');
    // The browser starts on the head while the data is read.
    const end = html.indexOf('</head>');
    response.write(html.slice(0, end));
    response.flush();
    const data = await this.#dataOf(id).catch((error: unknown) => {
      // The page asks the API again, and shows what is wrong.
      if (!(error instanceof Problem)) request.log.error({ err: error }, 'the data of a page could not be read');
      return undefined;
    });
    response.end(data ? withData(html.slice(end), data) : html.slice(end));
  }

  async #dataOf(id: string): Promise<PageData> {
    const material = await this.app.get(MaterialsService).get(id);
    const [project, sources] = await Promise.all([
      this.app.get(ProjectsService).get(material.projectId),
      this.app.get(SourcesService).list(material.projectId),
    ]);
    const { text } = material;
    const picture = text.length > LONGEST ? undefined : this.#pictures.get(text, () => firstPicture(text));
    return { material, project, sources, ...(picture ? { picture } : {}) };
  }
}

/** A block of data is not run, so that the policy of scripts says nothing of it; no text may end it. */
const withData = (html: string, data: PageData): string =>
  html.replace(
    '</body>',
    () => `<script type="application/json">${JSON.stringify(data).replaceAll('<', '\\u003c')}</script></body>`,
  );
