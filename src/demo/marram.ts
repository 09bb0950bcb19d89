import type { DemoFile, Kind } from './plan';
import { planTake } from './plan';

interface Entry extends Kind {
  name: string;
  text: string;
  nc?: boolean;
  as?: DemoFile['format'];
}

/** *Marram Field Recordings*: a recordist's archive. All text is in the description; numbers run through the names. */
const entries: Entry[] = [
  {
    name: 'sedge bed, light wind',
    family: 'wind',
    takes: 6,
    seconds: [14, 22],
    peak: 0.4,
    settings: { rustle: 1 },
    spread: { gusts: [0.2, 0.4], force: [0.5, 0.8] },
    text: 'Light wind in a sedge bed, stems touching',
  },
  {
    name: 'reeds in gusts',
    family: 'wind',
    takes: 6,
    seconds: [10, 18],
    peak: 0.7,
    settings: { rustle: 1.6 },
    spread: { gusts: [0.5, 0.9] },
    text: 'Reeds bending in strong gusts',
    as: 'flac',
  },
  {
    name: 'rigging whistle',
    family: 'wind',
    takes: 5,
    seconds: [8, 14],
    peak: 0.5,
    spread: { whistle: [620, 1300], gusts: [0.3, 0.6] },
    text: 'Wind whistling through the rigging of a laid-up smack',
    nc: true,
  },
  {
    name: 'dune wind, steady',
    family: 'wind',
    takes: 4,
    seconds: [12, 18],
    peak: 0.5,
    spread: { gusts: [0.15, 0.25] },
    text: 'Steady wind over dunes, no vegetation',
  },
  {
    name: 'grey heron takes off',
    family: 'wings',
    takes: 6,
    seconds: [3, 4.5],
    room: 'open',
    settings: { count: 9, size: 1.4 },
    spread: { pace: [0.32, 0.44] },
    text: 'Grey heron leaving its post, large slow wingbeats',
  },
  {
    name: 'ducks flushed',
    family: 'wings',
    takes: 4,
    seconds: [2, 3],
    room: 'open',
    settings: { count: 14, size: 0.6 },
    spread: { pace: [0.11, 0.17] },
    text: 'Two ducks flushed from the ditch, quick wings',
  },
  {
    name: 'heron call',
    family: 'bird',
    takes: 6,
    seconds: [1.4, 4],
    room: 'shore',
    settings: { kind: 0 },
    spread: { count: [1, 3], pitch: [0.9, 1.15] },
    text: 'Harsh croak of a heron in flight',
    nc: true,
  },
  {
    name: 'warbler in reeds',
    family: 'bird',
    takes: 8,
    seconds: [4, 9],
    room: 'open',
    peak: 0.5,
    settings: { kind: 1, count: 9 },
    spread: { pace: [0.4, 0.9], pitch: [0.85, 1.2] },
    text: 'Small warbler singing low in the reeds',
    as: 'ogg',
  },
  {
    name: 'curlew over mudflat',
    family: 'bird',
    takes: 6,
    seconds: [3, 7],
    room: 'shore',
    settings: { kind: 2, count: 5 },
    spread: { pace: [0.5, 1], pitch: [0.9, 1.1] },
    text: 'Curlew calling as it crosses the mudflat',
  },
  {
    name: 'gulls at the landing',
    family: 'bird',
    takes: 6,
    seconds: [4, 8],
    room: 'open',
    settings: { kind: 3, count: 8 },
    spread: { pace: [0.3, 0.8], pitch: [0.85, 1.2] },
    text: 'Herring gulls quarrelling at the fish landing',
    nc: true,
  },
  {
    name: 'boot out of mud',
    family: 'mud',
    takes: 6,
    seconds: [1.2, 1.8],
    room: 'open',
    text: 'Rubber boot pulled out of deep mud',
  },
  {
    name: 'walking on mudflat',
    family: 'mud',
    takes: 5,
    seconds: [6, 9],
    room: 'open',
    settings: { count: 8 },
    spread: { pace: [0.8, 1.1] },
    text: 'Slow steps across wet mud, suction at each',
  },
  {
    name: 'rain on sallow leaves',
    family: 'rain',
    takes: 5,
    seconds: [12, 18],
    peak: 0.45,
    spread: { density: [160, 420] },
    text: 'Rain on broad leaves beside the dyke',
  },
  {
    name: 'rain on still water',
    family: 'rain',
    takes: 5,
    seconds: [10, 16],
    peak: 0.45,
    settings: { surface: 1 },
    spread: { density: [120, 380] },
    text: 'Fine rain on the still water of a fleet',
  },
  {
    name: 'rain on boathouse roof',
    family: 'rain',
    takes: 4,
    seconds: [10, 16],
    peak: 0.6,
    settings: { surface: 2 },
    spread: { density: [140, 300] },
    text: 'Rain on the corrugated iron of a boathouse, heard from inside',
    nc: true,
  },
  {
    name: 'drips under jetty',
    family: 'drips',
    takes: 6,
    seconds: [5, 9],
    room: 'lock',
    spread: { density: [0.8, 2.6], size: [0.8, 1.6] },
    text: 'Drops falling from the jetty boards into the water',
  },
  {
    name: 'ditch gurgle',
    family: 'gurgle',
    takes: 6,
    seconds: [5, 9],
    room: 'open',
    spread: { density: [50, 140], size: [3, 8] },
    text: 'Sluice leaking into a ditch, gurgling',
  },
  {
    name: 'tide creeping in',
    family: 'lap',
    takes: 6,
    seconds: [12, 20],
    peak: 0.4,
    spread: { swell: [0.2, 0.6], bright: [0.8, 1.6] },
    text: 'Tide creeping over flat sand, foam hissing',
  },
  {
    name: 'shore waves',
    family: 'slap',
    takes: 5,
    seconds: [8, 12],
    room: 'open',
    settings: { count: 5 },
    spread: { pace: [1.6, 2.4], force: [0.5, 0.9] },
    text: 'Short waves breaking on a shingle bank',
  },
  {
    name: 'fence post lean',
    family: 'creak',
    takes: 6,
    seconds: [1.2, 2.4],
    room: 'open',
    spread: { speed: [30, 60], pitch: [280, 420] },
    text: 'Old fence post leaning in the wind, a dry creak',
  },
  {
    name: 'boathouse door on the hinge',
    family: 'gate',
    takes: 4,
    seconds: [3, 4],
    room: 'shed',
    settings: { count: 1 },
    text: 'Boathouse door swinging shut on dry hinges',
  },
  {
    name: 'far foghorn',
    family: 'foghorn',
    takes: 3,
    seconds: [6, 8],
    room: 'shore',
    peak: 0.25,
    spread: { pitch: [70, 100] },
    text: 'Foghorn of the outer light, very far away',
    nc: true,
  },
  {
    name: 'reed cutter swish',
    family: 'whoosh',
    takes: 4,
    seconds: [0.6, 1.1],
    room: 'open',
    spread: { pitch: [700, 1400] },
    text: 'Scythe swung through reeds',
  },
];

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
