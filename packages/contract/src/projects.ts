import Joi from 'joi';
import { answer, counter, moment, object, uuid } from './object.ts';

export interface ProjectBody {
  readonly name: string;
  readonly notes?: string;
}
export type ProjectChange = Partial<ProjectBody>;

export interface Project {
  readonly id: string;
  readonly name: string;
  readonly notes: string;
  readonly version: number;
  /** How many it has. */
  readonly materials: number;
  readonly createdAt: string;
  readonly updatedAt: string;
}

const name = Joi.string().trim().min(1).max(120).label('name');
const notes = Joi.string().allow('').max(20_000).label('notes');

export const newProject = object<ProjectBody>({ name: name.required(), notes });
export const changedProject = object<ProjectChange>({ name, notes })
  .min(1)
  .meta({ swagger: { minProperties: 1 } });

export const projectAnswer = answer<Project>('Project', {
  id: uuid,
  name,
  notes,
  version: counter,
  materials: Joi.number().integer().min(0),
  createdAt: moment,
  updatedAt: moment,
});
