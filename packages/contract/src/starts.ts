import Joi from 'joi';
import { answer, object } from './object.ts';

/** A small material that a new one begins from. */
export interface Start {
  /** Details asked for by. */
  readonly name: string;
  readonly group: string;
  readonly title: string;
  /** Details for, in a sentence. */
  readonly sentence: string;
  readonly text: string;
  /** Names of the pictures it reads. */
  readonly images: readonly string[];
}

export interface StartBody {
  readonly title: string;
}

export const startName = Joi.string()
  .pattern(/^[a-z][a-z-]*$/)
  .max(60)
  .required()
  .label('start');
export const startImageName = Joi.string()
  .pattern(/^[a-z][a-z0-9-]*\.png$/)
  .max(60)
  .required()
  .label('picture');
export const startBody = object<StartBody>({ title: Joi.string().trim().min(1).max(120).required().label('title') });

export const startAnswer = answer<Start>('Start', {
  name: startName,
  group: Joi.string(),
  title: Joi.string(),
  sentence: Joi.string(),
  text: Joi.string(),
  images: Joi.array().items(startImageName),
});
