import type { DemoFile, Kind } from './plan';
import { planTake } from './plan';
import data from './marram.json';

interface Entry extends Kind {
  name: string;
  text: string;
  nc?: boolean;
  as?: DemoFile['format'];
}

/** *Marram Field Recordings*: a recordist's archive. All text is in the description; numbers run through the names. */
const entries = data as unknown as Entry[];

/** The channels and rate a take was recorded with; one kind was tried in quad. */
function setup(entry: Entry, take: number): { mic: string; channels: 1 | 2 | 4; rate: number } {
  if (entry.name === 'rain on sallow leaves' && take === 0) return { mic: 'quad', channels: 4, rate: 48000 };
  if (take % 3 === 2) return { mic: 'mono', channels: 1, rate: 44100 };
  return { mic: take % 3 === 0 ? 'wide' : 'near', channels: 2, rate: take % 5 === 4 ? 96000 : 48000 };
}

export function marram(): DemoFile[] {
  let number = 207;
  return entries.flatMap((entry) =>
    Array.from({ length: entry.takes }, (_, i): DemoFile => {
      const { mic, channels, rate } = setup(entry, i);
      const licence = entry.nc ? 'CC BY-NC 4.0' : 'CC BY 4.0';
      const format = entry.as ?? 'wav';
      number += 1 + (i % 3);
      return {
        library: 'Marram Field Recordings',
        path: `MFR-${String(number).padStart(4, '0')} ${entry.name} (${mic}).${format}`,
        plan: planTake({ ...entry, channels, rate: format === 'wav' ? rate : 48000 }, entry.name, i),
        format,
        bits: format === 'wav' && i % 2 === 0 ? 24 : 16,
        labels: {
          description: `${entry.text}, ${mic}. Licence: ${licence}. Credit: Marram Field Recordings.`,
          licence,
        },
      };
    }),
  );
}
