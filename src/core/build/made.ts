import type { FieldValue, Made } from '@core/library';
import { patches, type Patch, type Roll } from '@core/synth';
import { suggested, type Labels } from './kept';

/** What of its facts names a synthesised sound. */
export interface HeardFacts {
  /** Spectral centroid, Hz */
  brightness?: number;
  /** 0 tone-like to 1 noise-like */
  noisiness?: number;
  /** Level of the last third against the first, dB. */
  trend?: number;
  density?: number;
}

/** Words for what is heard, by borders that hold for all families. */
function wordsFor(facts: HeardFacts, seconds: number): string[] {
  const { brightness = 1000, noisiness = 0, trend = 0, density = 0 } = facts;
  const said = [
    brightness < 260 ? 'deep' : brightness < 700 ? 'dark' : brightness > 3200 ? 'bright' : undefined,
    seconds < 0.6 ? 'short' : seconds > 5 ? 'long' : undefined,
    trend > 8 ? 'swelling' : undefined,
    noisiness > 0.18 ? 'airy' : undefined,
    density > 9 ? 'busy' : undefined,
  ];
  return said.filter((w) => w !== undefined);
}

const patchOf = (roll: Roll): Patch => patches[roll.family];

/** A name for a roll, by its family and what is heard of it: *Riser dark long*. */
export const nameOfRoll = (roll: Roll, facts: HeardFacts): string =>
  [patchOf(roll).name, ...wordsFor(facts, roll.values.length).slice(0, 2)].join(' ');

/** What is said of a roll: the numbers that tell it most from the others of its family. */
export const saidOfRoll = (roll: Roll, numbers = 3): string =>
  patchOf(roll)
    .values.slice(1, 1 + numbers)
    .map(({ key, name, unit, digits = 0 }) => {
      const number = roll.values[key].toFixed(digits).replace('-', '−');
      const said = name.toLowerCase();
      return unit === '' ? `${number} ${number === '1' ? said.replace(/s$/, '') : said}` : `${said} ${number} ${unit}`;
    })
    .join(', ');

/** Labels of a synthesised sound: category, keywords and description from its family and from what is heard. */
export function labelsOfRoll(
  name: string,
  roll: Roll,
  facts: HeardFacts,
  category: { category: string; subCategory: string } | undefined,
): Labels {
  const patch = patchOf(roll);
  const fields: Record<string, FieldValue> = {
    fxName: name,
    catId: patch.catId,
    ...(category && { category: category.category, subCategory: category.subCategory }),
    keywords: [...new Set([patch.name.toLowerCase(), ...patch.keywords, ...wordsFor(facts, roll.values.length)])],
    description: `Synthesised ${patch.name.toLowerCase()}: ${saidOfRoll(roll)}`,
    // Nobody recorded it, and nobody else has a say in it.
    licence: 'Owned',
  };
  return suggested(fields);
}

/** A roll as its sound's record keeps it. */
export const madeOf = ({ family, seed, values }: Roll): Made => ({ family, seed, values: { ...values } });
