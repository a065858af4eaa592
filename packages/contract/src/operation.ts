import Joi from 'joi';
import { pageQuery } from './pages.ts';

/** One call of the API: what it takes, what it answers, and why it may refuse. */
export interface Operation {
  /** Its name, for clients that are made from its description. */
  readonly name: string;
  readonly method: 'get' | 'post' | 'put' | 'patch' | 'delete';
  /** With names of PARAMETERS in braces. */
  readonly path: string;
  /** In a sentence. */
  readonly does: string;
  readonly query?: Joi.ObjectSchema;
  readonly body?: Joi.ObjectSchema;
  /** The body is a form that may bring a file of its own, `file`. */
  readonly file?: string;
  /** Its body is bytes, which `Content-Digest` must fit: what they are. */
  readonly bytes?: string;
  /** Changes only what still is as it was read, by `If-Match`. */
  readonly match?: boolean;
  /** Of its success. */
  readonly status: number;
  /** What it answers with: a schema, or the media type of bytes. */
  readonly answer?: Joi.Schema | string;
  /** Answers in pages, with a `Link` to the next. */
  readonly paged?: boolean;
  /** Answers with an ETag, and `Location` where it made something. */
  readonly tagged?: boolean;
  /** Its bytes are known by their hash: they may be kept, and asked for in ranges. */
  readonly ranged?: boolean;
  /** Statuses of refusals beside those that its parts bring. */
  readonly refuses?: readonly number[];
  /** A body that it takes. */
  readonly example?: object;
}

export const list = (items: Joi.Schema): Joi.ArraySchema => Joi.array().items(items);

/** The list, the making, the reading, the change and the deletion of the things of a project. */
export const things = (
  one: string,
  [folder, id]: readonly [folder: string, id: string],
  answer: Joi.Schema,
  makes: Pick<Operation, 'body' | 'file' | 'example' | 'refuses'>,
  changes: Pick<Operation, 'method' | 'body' | 'file' | 'example' | 'refuses'>,
): readonly Operation[] => {
  const own = `/api/${folder}/{${id}}`;
  const all = `/api/projects/{projectId}/${folder}`;
  const Name = one[0]!.toUpperCase() + one.slice(1);
  return [
    {
      name: `list${Name}${one.endsWith('h') ? 'es' : 's'}`,
      method: 'get',
      path: all,
      does: `Lists the ${folder} of a project.`,
      query: pageQuery,
      status: 200,
      answer: list(answer),
      paged: true,
    },
    {
      name: `create${Name}`,
      method: 'post',
      path: all,
      does: `Makes a ${one}.`,
      status: 201,
      answer,
      tagged: true,
      ...makes,
    },
    { name: `read${Name}`, method: 'get', path: own, does: `Reads a ${one}.`, status: 200, answer, tagged: true },
    {
      name: `change${Name}`,
      path: own,
      does: `Changes a ${one}; what is stored already can be sent again.`,
      match: true,
      status: 200,
      answer,
      tagged: true,
      ...changes,
    },
    { name: `delete${Name}`, method: 'delete', path: own, does: `Deletes a ${one}.`, match: true, status: 204 },
  ];
};
