import { caseForms, conditionTests } from '@core/naming';

/** Pieces that schemas are made of. */

/** Colours that tracks, cues and markers may be given, by the theme's names for them. */
export const colours = ['sky', 'coral', 'moss', 'plum'] as const;
export type Colour = (typeof colours)[number];

export const text = { type: 'string', maxLength: 4096 } as const;
/** Below a root. */
export const path = { type: 'string', maxLength: 65_536 } as const;
export const count = { type: 'integer', minimum: 0 } as const;

/** A list of at most a million. */
export function list(items: object): object {
  return { type: 'array', items, maxItems: 1_000_000 };
}

/** An object of these properties and no others. @param optional those that may be absent */
export function closed(properties: Record<string, object>, optional: string[] = []): object {
  const required = Object.keys(properties).filter((key) => !optional.includes(key));
  return { type: 'object', properties, required, additionalProperties: false };
}

export const key = { type: 'string', minLength: 1, maxLength: 64 } as const;
export const flag = { type: 'boolean' } as const;
const when = closed(
  {
    field: key,
    test: { enum: conditionTests },
    value: text,
  },
  ['value'],
);
/** A step of a recipe: what all have, and what its kind has. */
function step(kind: string, own: Record<string, object>, optional: string[] = []): object {
  return closed({ kind: { const: kind }, on: flag, when, ...own }, ['when', ...optional]);
}
const side = { enum: ['start', 'end', 'both'] };
const small = { type: 'integer', minimum: 0, maximum: 10_000 };
/** Steps of a recipe. */
export const steps = {
  type: 'array',
  maxItems: 200,
  items: {
    type: 'object',
    required: ['kind'],
    discriminator: { propertyName: 'kind' },
    oneOf: [
      step('copy', { from: key, to: key }),
      step('set', { to: key, text }),
      step('clear', { to: key }),
      step('trim', { to: key, side, count: small, characters: text }, ['characters']),
      step('replace', { to: key, find: text, with: text, matchCase: flag, wholeWords: flag }),
      step('pattern', { to: key, find: text, with: text, matchCase: flag }),
      step('case', { to: key, form: { enum: caseForms } }),
      step('number', {
        to: key,
        start: { type: 'integer' },
        by: { type: 'integer' },
        digits: { type: 'integer', minimum: 1, maximum: 12 },
        place: { enum: ['before', 'after', 'instead'] },
        join: text,
      }),
      step('split', { from: key, by: text, into: { type: 'array', items: key, minItems: 1, maxItems: 20 } }),
      step('join', { of: { type: 'array', items: key, minItems: 1, maxItems: 20 }, with: text, to: key }),
      step('pad', { to: key, width: small, with: text, side: { enum: ['start', 'end'] } }),
      step('shortName', { from: key, to: key, way: { enum: ['shorten', 'expand'] } }),
    ],
  },
};
