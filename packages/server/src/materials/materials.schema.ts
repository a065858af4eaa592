import Joi from 'joi';

export interface MaterialBody {
  readonly text: string;
}
/** As long as the parser reads. */
const text = Joi.string().allow('').max(200_000).required().label('text');

export const materialBody = Joi.object<MaterialBody>({ text });
export const revisionNumber = Joi.number().integer().min(1).required().label('revision');

export interface RevisionBody {
  readonly name: string;
}
export const revisionBody = Joi.object<RevisionBody>({
  name: Joi.string().trim().allow('').max(120).required().label('name'),
});
