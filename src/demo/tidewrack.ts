import type { DemoFile, Kind } from './plan';
import { planTake } from './plan';
import data from './tidewrack.json';

interface Entry extends Kind {
  catId: string;
  name: string;
  text: string;
  words: string;
  loop?: boolean;
}

/** *Tidewrack Audio*: boats, winches, chain and water, labelled as a careful publisher does. */
const entries = data as unknown as Entry[];

export function tidewrack(): DemoFile[] {
  return entries.flatMap((entry) =>
    Array.from({ length: entry.takes }, (_, i): DemoFile => {
      const fxName = entry.takes > 1 ? `${entry.name} ${String(i + 1).padStart(2, '0')}` : entry.name;
      return {
        library: 'Tidewrack Audio',
        path: `${entry.catId}/${entry.catId}_${fxName}_TWA_TIDE.wav`,
        plan: planTake({ ...entry, rate: i % 4 === 3 ? 96000 : 48000 }, entry.name, i),
        format: 'wav',
        bits: 24,
        labels: {
          catId: entry.catId,
          fxName,
          description: entry.text,
          keywords: entry.words.split(', '),
          licence: 'Owned',
        },
        loop: entry.loop,
      };
    }),
  );
}
