import { FACTS_VERSION, FactsCollector } from '@core/audio';
import { contourCode, measuredText, thinnedContour } from '@core/elsewhere';
import { memorySource, readAudioFile, writeWav } from '@core/files';
import { factPatch, type FieldValue, type Sound } from '@core/library';
import { likeCode, likenessOf } from '@core/search';
import type { TeamMeasured, TeamSound } from '@core/schemas';
import { categoryOf } from '@core/suggest';
import { render } from '@core/synth';
import { createHash } from 'node:crypto';
import { commonsEntries } from './commons';
import { planTake } from './plan';
import data from './team.json';

/** What a sound of the demo's team is made of: the kind of which sound of the commons, where it lies, and its labels. */
type Entry = [kind: string, path: string, fxName: string, catId: string, description: string, keywords: string];

/** The people of the demo's team. Made up, like all of it: the server is on this machine alone. */
export const demoPeople = {
  owner: 'Maren Quay',
  assistant: 'Idris Vane',
  password: 'net loft demo',
} as const;
export const demoLibraryName = 'Net Loft house sounds';

/** A sound that the demo's team shares, with its file and what was measured of it. */
export interface DemoTeamSound {
  sound: TeamSound;
  bytes: Uint8Array;
  measured: TeamMeasured;
}

function wordsOf(catId: string): { category: string; subCategory: string } {
  const found = categoryOf(catId);
  if (!found) throw new Error(`there is no category ${catId}`);
  return { category: found.category, subCategory: found.subCategory };
}

/** Makes the sounds that the demo's team shares: the same bytes each time. */
export async function makeTeamSounds(): Promise<DemoTeamSound[]> {
  const made: DemoTeamSound[] = [];
  for (const [kind, path, fxName, catId, description, keywords] of data as unknown as Entry[]) {
    const found = commonsEntries.find((e) => e.title === kind);
    if (!found) throw new Error(`there is no sound ${kind} in the commons`);
    const { seconds } = found;
    const plan = planTake({ ...found, takes: 1, seconds: [seconds * 0.8, seconds * 1.2] }, `team ${fxName}`, 0);
    const { planes, anchor } = render(plan);
    const bytes = writeWav(planes, { rate: plan.rate, bits: 24 }, {});
    const { format } = await readAudioFile(memorySource(bytes));
    const collector = await FactsCollector.start(format.frames, format.rate, format.channels);
    collector.push(planes);
    const { facts, curves, peaks, hash, print } = collector.done(false);
    const patch = factPatch({ fields: {}, from: {} } as unknown as Sound, facts, hash);
    const fields: Record<string, FieldValue> = {
      ...{
        fxName,
        catId,
        ...wordsOf(catId),
        description,
        keywords: keywords.split(', '),
        library: demoLibraryName,
        licence: 'Owned',
      },
      ...{ length: format.frames / format.rate, channels: format.channels, rate: format.rate, bits: format.bits },
    };
    for (const [key, value] of Object.entries(patch))
      if (key.startsWith('fields.') && value !== undefined) fields[key.slice(7)] = value as FieldValue;
    const arrays = { onsets: Uint32Array.from(facts.onsets), ...curves, ...print };
    made.push({
      sound: {
        ...{ path, file: createHash('sha256').update(bytes).digest('hex'), size: bytes.length, format, fields },
        ...{ anchor: Math.round(anchor * plan.rate), contour: contourCode(thinnedContour(peaks.pairs)), hash },
        like: likeCode(likenessOf({ rate: plan.rate, ...peaks, ...curves, ...facts })),
      },
      bytes,
      measured: measuredText(FACTS_VERSION, peaks, arrays),
    });
  }
  return made;
}
