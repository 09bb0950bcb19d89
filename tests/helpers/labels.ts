import { Random } from '@core/synth';
import fc from 'fast-check';

/** Bytes that are the same for each seed. */
export const randomBytes = (length: number, seed: number): Uint8Array => {
  const random = new Random(seed);
  return Uint8Array.from({ length }, () => Math.floor(random.next() * 256));
};

const text = fc
  .string({ unit: fc.constantFrom(...'abc ÄöZ海&<>"\'=/0.\\é😀-'), minLength: 1, maxLength: 40 })
  .map((t) => t.trim())
  .filter((t) => t !== '');
const word = fc.string({ unit: fc.constantFrom(...'abcÄö海-'), minLength: 1, maxLength: 9 });

/** Labels as somebody may have typed them, of every type that a file holds. */
export const randomLabels = fc.record(
  {
    fxName: text,
    description: fc.oneof(
      text,
      fc.string({ unit: fc.constantFrom('Möw', 'e 海', ' x'), minLength: 90, maxLength: 200 }).map((t) => `a${t}b`),
    ),
    catId: fc.constantFrom('DOORWood', 'BIRDSea'),
    keywords: fc.uniqueArray(word, { minLength: 1, maxLength: 4 }),
    author: text,
    library: text,
    copyright: fc.oneof(text, fc.constantFrom('cc0.', 'CC BY-NC 3.0, Ines', 'Licence: owned')),
    notes: text,
    stars: fc.integer({ min: 1, max: 5 }),
    project: text,
    take: text,
    microphone: text,
    licence: fc.constantFrom('CC0 1.0', 'CC BY 4.0'),
  },
  { requiredKeys: [] },
);
