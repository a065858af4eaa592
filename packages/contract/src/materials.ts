import Joi from 'joi';
import { answer, counter, moment, object, uuid } from './object.ts';

export interface MaterialBody {
  readonly text: string;
}

/** The title is read from the text. */
export interface Material {
  readonly id: string;
  readonly projectId: string;
  readonly title: string;
  readonly text: string;
  readonly revision: number;
  readonly createdAt: string;
  readonly updatedAt: string;
}

export interface RevisionBody {
  readonly name: string;
}

/** A kept text of a material; the list leaves the text out. */
export interface Revision {
  readonly number: number;
  readonly name: string;
  readonly createdAt: string;
  readonly text?: string;
}

/** As long as the parser reads. */
const text = Joi.string().allow('').max(200_000).required().label('text');

export const materialBody = object<MaterialBody>({ text });
export const revisionNumber = Joi.number().integer().min(1).required().label('revision');
export const revisionBody = object<RevisionBody>({
  name: Joi.string().trim().allow('').max(120).required().label('name'),
});

export const materialAnswer = answer<Material>('Material', {
  id: uuid,
  projectId: uuid,
  title: Joi.string().allow(''),
  text,
  revision: counter,
  createdAt: moment,
  updatedAt: moment,
});
export const revisionAnswer = answer<Revision>('Revision', {
  number: counter,
  name: Joi.string().allow(''),
  createdAt: moment,
  text: text.optional(),
});
