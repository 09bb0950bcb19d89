import type { DemoFile, Kind } from './plan';
import { planTake } from './plan';

interface Entry extends Kind {
  catId: string;
  name: string;
  text: string;
  words: string;
  loop?: boolean;
}

/** *Tidewrack Audio*: boats, winches, chain and water, labelled as a careful publisher does. */
const entries: Entry[] = [
  { catId: 'BOATMech', name: 'Winch Pawl Clack Heavy', family: 'pawl', takes: 8, seconds: [0.7, 1.4], room: 'deck', spread: { pitch: [820, 1250], ring: [0.8, 1.8] }, text: 'One tooth of a heavy hand winch passing under its pawl, close, iron on iron', words: 'winch, pawl, ratchet, clack, iron, tooth' },
  { catId: 'BOATMech', name: 'Winch Pawl Clack Dry', family: 'pawl', takes: 6, seconds: [0.5, 0.9], room: 'cabin', spread: { pitch: [1300, 1900], ring: [0.4, 0.8] }, text: 'Single ratchet click of a small winch, dry and close', words: 'winch, pawl, ratchet, click, dry' },
  { catId: 'BOATMech', name: 'Hand Winch Ratchet Run', family: 'pawl', takes: 3, seconds: [3, 6], settings: { count: 40, bounce: 0 }, spread: { pace: [0.09, 0.22], pitch: [900, 1500] }, text: 'Hand winch taking up slack, an even run of pawl clacks', words: 'winch, ratchet, pawl, run, taking up' },
  { catId: 'BOATMech', name: 'Capstan Groan Slow Turn', family: 'creak', takes: 5, seconds: [3, 6], spread: { pitch: [140, 230], speed: [30, 60] }, room: 'shed', text: 'Wooden capstan turning under load, groaning', words: 'capstan, groan, creak, wood, turn, strain' },
  { catId: 'BOATMech', name: 'Windlass Crank Oiled', family: 'crank', takes: 5, seconds: [2.5, 6], spread: { teeth: [6, 14], pitch: [600, 1000] }, text: 'Windlass cranked by hand, gears freshly oiled', words: 'windlass, crank, gear, handle, turning' },
  { catId: 'BOATMech', name: 'Old Rudder Post Strain', family: 'creak', takes: 4, seconds: [2.5, 5], spread: { pitch: [180, 260], speed: [45, 80] }, text: 'Rudder post working in its bearing in a swell', words: 'rudder, strain, creak, timber, post' },
  { catId: 'BOATRow', name: 'Oar Lock Knock And Creak', family: 'oarlock', takes: 5, seconds: [1, 1.6], text: 'Oar knocking in its lock as the stroke begins', words: 'oar, rowlock, knock, row, boat' },
  { catId: 'BOATRow', name: 'Oar Dip And Pull', family: 'splash', takes: 5, seconds: [1.6, 2.6], settings: { force: 0.4 }, spread: { depth: [0.1, 0.3] }, room: 'open', text: 'Oar blade dipped, pulled and lifted, drops falling', words: 'oar, row, dip, water, paddle' },
  { catId: 'BOATHorn', name: 'Foghorn Harbor Mouth', family: 'foghorn', takes: 4, seconds: [5, 8], room: 'shore', peak: 0.6, spread: { pitch: [78, 118], hold: [2, 3.4] }, text: 'Foghorn across the water from the harbor mouth, long reflections', words: 'foghorn, horn, fog, signal, harbor, distant' },
  { catId: 'BOATMotr', name: 'Launch Motor Idle', family: 'motor', takes: 3, seconds: [8, 12], spread: { rpm: [380, 520] }, loop: true, text: 'Single-cylinder launch idling at the pier', words: 'motor, engine, launch, idle, diesel' },
  { catId: 'BOATMotr', name: 'Launch Motor Under Load', family: 'motor', takes: 3, seconds: [8, 12], settings: { load: 1.4, startUp: 2.5 }, spread: { rpm: [700, 950] }, text: 'Launch pulling away under load', words: 'motor, engine, launch, away, load' },
  { catId: 'CHAINMvmt', name: 'Anchor Chain Takes Up', family: 'chain', takes: 6, seconds: [2, 4.5], spread: { density: [24, 50], pitch: [1300, 2100] }, text: 'Anchor chain drawn taut, links knocking', words: 'chain, anchor, links, taut, metal' },
  { catId: 'CHAINMvmt', name: 'Chain Dragged Over Timber', family: 'chain', takes: 5, seconds: [2, 4], spread: { density: [60, 110], pitch: [1100, 1700] }, room: 'shed', text: 'Heavy chain dragged across deck boards', words: 'chain, drag, timber, deck, heavy' },
  { catId: 'CHAINImpt', name: 'Chain Dropped On Deck', family: 'chain', takes: 5, seconds: [1.5, 2.6], settings: { drop: 1, force: 0.8 }, spread: { density: [50, 90] }, text: 'A length of chain let go onto the deck', words: 'chain, drop, fall, deck, impact' },
  { catId: 'WATRLap', name: 'Estuary Slack Tide', family: 'lap', takes: 3, seconds: [20, 26], loop: true, peak: 0.4, spread: { swell: [0.25, 0.5] }, text: 'Wide water bed of an estuary at slack tide, night, no birds', words: 'estuary, water, lapping, tide, bed, night' },
  { catId: 'WATRLap', name: 'Hull Lap Slow', family: 'lap', takes: 5, seconds: [6, 12], peak: 0.5, spread: { swell: [0.5, 1], bright: [0.6, 1.3] }, text: 'Small waves lapping along a wooden hull', words: 'hull, lapping, water, boat, calm' },
  { catId: 'WATRWave', name: 'Wave Slap Against Hull', family: 'slap', takes: 6, seconds: [1.4, 2.4], room: 'open', spread: { force: [0.5, 1] }, text: 'One wave slapping the planks at the waterline', words: 'wave, slap, hull, water, hit' },
  { catId: 'WATRSplsh', name: 'Rope End Into Water', family: 'splash', takes: 5, seconds: [1.5, 2.4], spread: { depth: [0.1, 0.4], force: [0.4, 0.7] }, room: 'open', text: 'Mooring rope cast off, its end falling into the water', words: 'rope, splash, cast off, water, drop' },
  { catId: 'WATRSplsh', name: 'Bollard Splash Deep', family: 'splash', takes: 4, seconds: [2.4, 3.6], spread: { depth: [0.7, 1] }, room: 'open', text: 'Timber bollard dropped from the quay, deep gulp', words: 'splash, deep, heavy, water, plunge' },
  { catId: 'WATRBubl', name: 'Bubbles Under Keel', family: 'gurgle', takes: 4, seconds: [3, 6], spread: { density: [40, 110], size: [4, 9] }, room: 'cabin', text: 'Air rising along the keel, heard from inside', words: 'bubbles, gurgle, keel, underwater, air' },
  { catId: 'ROPEMvmt', name: 'Mooring Rope Under Load', family: 'creak', takes: 6, seconds: [2, 4.5], settings: { fibre: 0.8, body: 1 }, spread: { speed: [60, 120], pitch: [230, 420] }, text: 'Mooring rope stretching round a bollard, fibres creaking', words: 'rope, mooring, strain, creak, stretch' },
  { catId: 'WOODMvmt', name: 'Rope And Timber Under Load', family: 'creak', takes: 4, seconds: [3, 5.5], settings: { fibre: 0.4 }, spread: { speed: [40, 70], pitch: [260, 360] }, text: 'Pier timber taking the pull of a mooring rope', words: 'timber, wood, rope, creak, load, pier' },
  { catId: 'WOODMvmt', name: 'Hull Flex Against Tyres', family: 'creak', takes: 4, seconds: [2.5, 4], spread: { speed: [25, 45], pitch: [120, 170] }, text: 'Hull leaning into the pier tyres and easing off', words: 'hull, flex, tyres, pier, wood, groan' },
  { catId: 'FIREIgn', name: 'Lantern Wick Lit', family: 'ignite', takes: 2, seconds: [2, 3], room: 'cabin', text: 'Match struck and a lantern wick catching', words: 'lantern, wick, match, flame, light' },
  { catId: 'DSGNDron', name: 'Night Water Drone', family: 'drone', takes: 1, seconds: [18, 18], peak: 0.5, text: 'Slow low drone for still water at night', words: 'drone, low, night, tension' },
  { catId: 'DSGNRise', name: 'Undertow Riser', family: 'drone', takes: 1, seconds: [6, 6], settings: { climb: 2.5, rough: 0.5 }, text: 'Riser that climbs out of the undertow and stops dead', words: 'riser, build, climb, tension' },
];

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
        labels: { catId: entry.catId, fxName, description: entry.text, keywords: entry.words.split(', '), licence: 'Owned' },
        loop: entry.loop,
      };
    }),
  );
}
