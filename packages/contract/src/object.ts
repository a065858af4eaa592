import Joi from 'joi';

/** The schema of an object, with one entry for each field of its type: the two cannot drift apart. */
export const object = <T extends object>(fields: { readonly [K in keyof T]-?: Joi.Schema }): Joi.ObjectSchema<T> =>
  Joi.object<T>(fields);

/** The schema of one of several kinds of object, told apart by `kind`: of each the fields beside it. */
export const oneOf = <T extends { readonly kind: string }>(
  kinds: {
    readonly [K in T['kind']]: Readonly<Record<Exclude<keyof Extract<T, { readonly kind: K }>, 'kind'>, Joi.Schema>>;
  },
  otherwise: Joi.Schema,
): Joi.AlternativesSchema<T> =>
  Joi.alternatives<T>().conditional('.kind', {
    switch: Object.entries<Joi.PartialSchemaMap>(kinds).map(([kind, fields]) => ({
      is: kind,
      then: Joi.object({ kind: Joi.valid(kind).required(), ...fields }),
    })),
    otherwise,
  });

const needed = <T extends object>(fields: T): T =>
  Object.fromEntries(
    Object.entries<Joi.Schema>(fields as Record<string, Joi.Schema>).map(([key, field]) => [
      key,
      field.$_getFlag('presence') === 'optional' ? field : field.required(),
    ]),
  ) as T;

/** The schema of what is answered, called `name` where it is described: each field is there unless it is optional. */
export const answer = <T extends object>(
  name: string,
  fields: { readonly [K in keyof T]-?: Joi.Schema },
): Joi.ObjectSchema<T> => Joi.object<T>(needed(fields)).meta({ className: name });

/** A moment, as an ISO 8601 text in UTC. */
export const moment = Joi.date().iso();
/** Counts the changes of a thing, from 1 on: its ETag. */
export const counter = Joi.number().integer().min(1);
/** Nothing, where there could be something. */
export const nothing = Joi.valid(null).meta({
  swagger: { type: 'object', enum: [null], nullable: true },
  swaggerOverride: true,
});

/** What refers to a thing of the project. */
export const uuid = Joi.string().uuid();
/** What stands in a path. */
export const identifier = uuid.required().label('id');
/** A name on one line. */
export const oneLine = Joi.string()
  .trim()
  .min(1)
  .max(200)
  .pattern(/^[^"\n\r]+$/, 'a name on one line, without quotes')
  .label('name');
export const contentHash = Joi.string()
  .pattern(/^[0-9a-f]{64}$/, 'a SHA-256 in hex')
  .label('hash');
