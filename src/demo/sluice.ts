import type { DemoFile, Kind } from './plan';
import { planTake } from './plan';
import data from './sluice.json';

interface Entry extends Kind {
  folder: string;
  name: string;
  aiff?: boolean;
}

/** *Sluice Yard*: no labels at all, only folders and hurried names. */
const entries = data as unknown as Entry[];

const wavPath = (folder: string, name: string, take: number, ending = 'wav') =>
  `${folder}/${name}-${String(take).padStart(2, '0')}.${ending}`;

export function sluice(): DemoFile[] {
  const files = entries.flatMap((entry) =>
    Array.from({ length: entry.takes }, (_, i): DemoFile => ({
      library: 'Sluice Yard',
      path: wavPath(entry.folder, entry.name, i + 1, entry.aiff ? 'aif' : 'wav'),
      plan: planTake(entry, entry.name, i),
      format: entry.aiff ? 'aiff' : 'wav',
      bits: i % 3 === 0 ? 16 : 24,
      labels: {},
    })),
  );
  const find = (path: string) => files.find((f) => f.path === path)!;
  // The yard's faults, for whoever cleans up: the same audio under other names, dead takes, a take that was too loud.
  const again = (of: string, path: string): DemoFile => ({ ...find(of), path });
  const dead = (path: string): DemoFile => ({ ...find('Boots/deck/bootStep-01.wav'), path, silent: true });
  const hot = find('Iron/hits/gateIron_slam-04.wav');
  hot.plan = { ...hot.plan, peak: 2.6 };
  return [
    ...files,
    again('Iron/ratchets/pawlClack_wet-02.wav', 'new/pawlClack (copy).wav'),
    again('Timber/knocks/plankDrop_hard-03.wav', 'Timber/plank drop HARD 3.wav'),
    again('Rope/rope-swish-01.wav', 'Rope/untitled 14.wav'),
    dead('Boots/deck/bootStep-04.wav'),
    dead('Boots/deck/bootStep-05.wav'),
    ...['low', 'high'].map((name, i): DemoFile => ({
      library: 'Sluice Yard',
      path: `misc/blip_${name}.wav`,
      plan: planTake(
        { family: 'blip', takes: 1, seconds: [0.4, 0.5], settings: { pitch: 520 + i * 600 }, channels: 1, rate: 44100 },
        name,
        i,
      ),
      format: 'wav',
      bits: 16,
      labels: {},
    })),
  ];
}
