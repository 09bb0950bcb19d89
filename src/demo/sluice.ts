import type { DemoFile, Kind } from './plan';
import { planTake } from './plan';

interface Entry extends Kind {
  folder: string;
  name: string;
  aiff?: boolean;
}

/** *Sluice Yard*: no labels at all, only folders and hurried names. */
const entries: Entry[] = [
  {
    folder: 'Iron/ratchets',
    name: 'pawlClack_wet',
    family: 'pawl',
    takes: 9,
    seconds: [0.6, 1.3],
    room: 'lock',
    spread: { pitch: [700, 1500], ring: [0.7, 2] },
  },
  {
    folder: 'Iron/hits',
    name: 'ironBarHit',
    family: 'barHit',
    takes: 6,
    seconds: [1.6, 3],
    room: 'shed',
    spread: { pitch: [380, 800] },
  },
  {
    folder: 'Iron/hits',
    name: 'gateIron_slam',
    family: 'ironHit',
    takes: 6,
    seconds: [1, 2.2],
    room: 'lock',
    spread: { pitch: [260, 520] },
  },
  {
    folder: 'Iron/latches',
    name: 'latchSnap',
    family: 'latch',
    takes: 6,
    seconds: [0.4, 0.9],
    room: 'cabin',
    settings: { count: 2, pace: 0.09 },
    spread: { pitch: [1100, 1900] },
    aiff: true,
  },
  {
    folder: 'Iron/sheet',
    name: 'sheetBoom',
    family: 'sheetHit',
    takes: 4,
    seconds: [2, 3.6],
    room: 'shed',
    spread: { pitch: [120, 240] },
  },
  {
    folder: 'Scrapes/metal',
    name: 'ironScrape-long',
    family: 'scrape',
    takes: 5,
    seconds: [1.5, 3.5],
    room: 'shed',
    spread: { grain: [500, 1300], pitch: [420, 900] },
  },
  {
    folder: 'Scrapes/timber',
    name: 'crateDrag',
    family: 'scrape',
    takes: 5,
    seconds: [1.5, 3.5],
    settings: { body: 1 },
    spread: { grain: [250, 600], pitch: [130, 220] },
  },
  {
    folder: 'Timber/knocks',
    name: 'postKnock',
    family: 'woodKnock',
    takes: 7,
    seconds: [0.4, 0.9],
    spread: { pitch: [220, 460] },
    aiff: true,
  },
  {
    folder: 'Timber/knocks',
    name: 'plankDrop_hard',
    family: 'plankDrop',
    takes: 6,
    seconds: [0.7, 1.3],
    settings: { count: 2, pace: 0.2 },
    spread: { pitch: [110, 190] },
  },
  {
    folder: 'Timber/creaks',
    name: 'pierPlankCreak',
    family: 'creak',
    takes: 7,
    seconds: [0.9, 2.2],
    settings: { body: 1 },
    spread: { speed: [30, 90], pitch: [260, 520] },
  },
  {
    folder: 'Rope',
    name: 'ropeStretch06_96k',
    family: 'creak',
    takes: 5,
    seconds: [1.6, 3.4],
    rate: 96000,
    settings: { fibre: 0.9, body: 1 },
    spread: { speed: [70, 130] },
  },
  {
    folder: 'Rope',
    name: 'rope-swish',
    family: 'whoosh',
    takes: 2,
    seconds: [0.5, 0.9],
    spread: { pitch: [500, 1100], peak: [0.4, 0.6] },
  },
  {
    folder: 'Pier',
    name: 'tyreThump',
    family: 'tyreThump',
    takes: 2,
    seconds: [0.8, 1.2],
    spread: { pitch: [52, 74] },
  },
  {
    folder: 'Boots/deck',
    name: 'bootStep',
    family: 'boots',
    takes: 3,
    seconds: [0.6, 0.9],
    spread: { pitch: [82, 110] },
  },
];

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
