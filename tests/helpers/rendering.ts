import { plainShape } from '@core/audio';
import { BLOCK, differences, emptyPlan, Engine, type Line } from '@core/engine';
import { noise } from './signals';

// Run by itself with --expose-gc: prints the bytes that the engine allocates for each block of a scene. Jest's own world allocates at every look
// at a global, so this can't be counted within it.

const RATE = 48_000;
const FRAMES = 96_000;
const engine = new Engine(RATE);
const planes = [noise(FRAMES, 0.3, 5), noise(FRAMES, 0.3, 6)];
engine.handle({ type: 'material', id: 1, rate: RATE, frames: FRAMES, channels: 2 });
const CHUNK = 16_384;
for (let c = 0; c * CHUNK < FRAMES; c++)
  engine.handle({ type: 'chunk', id: 1, index: c, planes: planes.map((p) => p.slice(c * CHUNK, (c + 1) * CHUNK)) });
const line = (id: number, more: Partial<Line> = {}): [number, Line] => [
  id,
  { id, gain: 0, place: 0, open: true, inserts: [], ...more },
];
const inserts = [{ id: 1, kind: 'equaliser', on: true, values: { kind1: 3, freq1: 80, gain1: 15, q1: 8 } }];
const lines = new Map([line(1, { into: 3 }), line(2, { into: 3 }), line(3, { inserts })]);
const clips = new Map(
  Array.from({ length: 8 }, (_, i) => {
    const direction = i % 4 === 3 ? ('backward' as const) : ('forward' as const);
    const clip = { material: 1, rate: i % 2 ? 44_100 : RATE, at: 300 + i, anchor: 300, gain: 0, place: 0 };
    return [
      i + 1,
      { line: 1 + (i % 2), clip: { ...clip, region: { start: 0, end: 90_000 }, shape: { ...plainShape, direction } } },
    ] as const;
  }),
);
engine.handle({ type: 'graph', changes: differences(emptyPlan, { lines, clips }) });
engine.handle({ type: 'transport', playing: true, position: 0, loop: { start: 1000, end: 60_000 } });
const [left, right] = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
for (let i = 0; i < 6000; i++) engine.render(left, right);
let least = Infinity;
// What is compiled meanwhile allocates, too: the least of several tries is ours.
for (let n = 0; n < 5; n++) {
  (globalThis as unknown as { gc(): void }).gc();
  const before = process.memoryUsage().heapUsed;
  for (let i = 0; i < 1000; i++) engine.render(left, right);
  least = Math.min(least, process.memoryUsage().heapUsed - before);
}
const loudest = left.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
console.log(JSON.stringify({ bytes: least / 1000, loudest }));
