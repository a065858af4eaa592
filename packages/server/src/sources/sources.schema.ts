import Joi from 'joi';

/**
 * How a source was made, so that it can be made again or edited. The pages read and write it; the server checks its
 * shape.
 */
export type Recipe = { readonly kind: 'path' | 'flow' | 'step' | 'pack' | 'tile' | 'channel' | 'sheet' } & Readonly<
  Record<string, unknown>
>;

/** The fields that come with a source's file, or with the hash of one that is stored. */
export interface SourceBody {
  readonly name?: string;
  readonly hash?: string;
  /** null takes the recipe away. */
  readonly recipe?: Recipe | null;
}

const place = Joi.number().min(-4).max(4).required();
const size = Joi.number().integer().min(16).max(4096).required();
const side = Joi.number().integer().min(1).max(8192).required();
const text = Joi.string().max(400);
const point = { x: place, y: place };

const recipes = {
  path: {
    drawing: Joi.object({
      points: Joi.array()
        .max(500)
        .items(Joi.object({ ...point, width: Joi.number().min(0).max(2).required() }))
        .required(),
      closed: Joi.boolean().required(),
      size,
    }).required(),
  },
  flow: {
    drawing: Joi.object({
      strokes: Joi.array()
        .max(2000)
        .items(
          Joi.object({
            points: Joi.array().max(2000).items(Joi.object(point)).required(),
            radius: Joi.number().min(0).max(1).required(),
            strength: Joi.number().min(0).max(1).required(),
          }),
        )
        .required(),
      smooth: Joi.number().min(0).max(0.5).required(),
      size,
    }).required(),
  },
  step: {
    materialId: Joi.string().uuid().required(),
    signature: text.required(),
    version: Joi.number().integer().min(1),
    bake: Joi.object({
      step: text.required(),
      width: side,
      height: side,
      time: Joi.number().min(0).required(),
      variant: text,
      encoding: Joi.valid('color', 'data', 'normal').required(),
      bits: Joi.valid(8, 16).required(),
    }).required(),
  },
  pack: {
    width: side,
    height: side,
    bits: Joi.valid(8, 16).required(),
    picks: Joi.array()
      .length(4)
      .items(
        Joi.object({
          source: text,
          channel: Joi.number().integer().min(0).max(3).required(),
          invert: Joi.boolean().required(),
          constant: Joi.number().min(0).max(1).required(),
        }),
      )
      .required(),
  },
  tile: {
    from: text.required(),
    way: Joi.valid('blend', 'patch').required(),
    band: Joi.number().min(0).max(0.5).required(),
    keepContrast: Joi.boolean(),
  },
  channel: { from: text.required(), channel: Joi.number().integer().min(0).max(3).required() },
  sheet: {
    from: text.required(),
    columns: Joi.number().integer().min(1).required(),
    rows: Joi.number().integer().min(1).required(),
  },
} satisfies Record<Recipe['kind'], Joi.PartialSchemaMap>;

const recipe = Joi.alternatives().conditional('.kind', {
  switch: Object.entries(recipes).map(([kind, fields]) => ({
    is: kind,
    then: Joi.object({ kind: Joi.valid(kind).required(), ...fields }),
  })),
  otherwise: Joi.object({
    kind: Joi.valid(...Object.keys(recipes)).required(),
  }),
});

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

/** A form's fields are text; the recipe comes as JSON. */
const fromJson = Joi.extend((joi: Joi.Root) => ({
  type: 'json',
  base: joi.any(),
  coerce: (value: unknown, helpers: Joi.CustomHelpers) => {
    if (typeof value !== 'string') return { value };
    try {
      return { value: JSON.parse(value) as unknown };
    } catch {
      return { errors: [helpers.error('any.invalid')] };
    }
  },
})) as Joi.Root & { json: () => Joi.AnySchema };

const recipeField = fromJson.json().custom((value: unknown) => {
  if (value === null) return null;
  return Joi.attempt(value, recipe.label('recipe')) as Recipe;
});

export const newSource = Joi.object<SourceBody & { name: string }>({
  name: oneLine.required(),
  hash: contentHash,
  recipe: recipeField,
});
export const changedSource = Joi.object<SourceBody>({ name: oneLine, hash: contentHash, recipe: recipeField });
