import Joi from 'joi';

export interface ProjectBody {
  readonly name: string;
  readonly notes?: string;
}
const name = Joi.string().trim().min(1).max(120).label('name');
const notes = Joi.string().allow('').max(20_000).label('notes');

export const newProject = Joi.object<ProjectBody>({ name: name.required(), notes });
export const changedProject = Joi.object<Partial<ProjectBody>>({ name, notes }).min(1);
export const identifier = Joi.string().uuid().required().label('id');
