import { plainShape } from '@core/audio';
import {
  BLOCK,
  differences,
  emptyPlan,
  Engine,
  Graph,
  Material,
  type Clip,
  type GraphPlan,
  type Insert,
} from '@core/engine';
import {
  credits,
  creditsCrawl,
  creditsCsv,
  cueSheet,
  cueSheetCells,
  incomingOtio,
  Mixdown,
  planOf,
  readOtio,
  writeDawproject,
  writeEdls,
  writeOtio,
  type Cue,
  type Scene,
  type Track,
} from '@core/scene';
import type { Sound } from '@core/library';
import { boxesIn, marksOf } from '@core/timeline';
import { effects } from '@core/effects';
import { noise } from '../tests/helpers/signals';

type Line = (what: string, measured: string, reach: string) => void;
const RATE = 48_000;
const MINUTE = 60 * RATE;

/** So many stereo cues of four seconds, spread over a minute and eight tracks; every second one has to be resampled. */
function planWith(count: number, inserts: readonly Insert[]): GraphPlan {
  const clips = new Map<number, { line: number; clip: Clip }>();
  for (let i = 0; i < count; i++) {
    const rate = i % 2 ? 44_100 : RATE;
    const clip = { material: rate, rate, at: Math.round((i * MINUTE) / count), anchor: 0, gain: -6, place: 0 };
    clips.set(i + 1, { line: 1 + (i % 8), clip: { ...clip, region: { start: 0, end: 4 * rate }, shape: plainShape } });
  }
  const line = (id: number) => ({ id, gain: -3, place: 0.1, open: true, inserts });
  return { lines: new Map(Array.from({ length: 8 }, (_, i) => [i + 1, line(i + 1)])), clips };
}
const materials = new Map(
  [RATE, 44_100].map((rate) => [rate, Material.of([noise(4 * rate, 0.3, 1), noise(4 * rate, 0.3, 2)], rate)]),
);

/** How many times faster than real time a minute is mixed. */
function mixed(plan: GraphPlan): number {
  const graph = new Graph(RATE, materials);
  graph.apply(differences(emptyPlan, plan), false);
  while (graph.feed());
  const from = performance.now();
  for (let at = 0; at < MINUTE; at += BLOCK) graph.render(at, BLOCK);
  return 60_000 / (performance.now() - from);
}
const bands = {
  kind1: 1,
  freq1: 60,
  slope1: 1,
  kind2: 3,
  freq2: 400,
  gain2: -3,
  kind3: 3,
  freq3: 3000,
  gain3: 2,
  kind4: 5,
};
const eq: Insert = { id: 1, kind: 'equaliser', on: true, values: { ...bands, freq4: 9000, gain4: 2 } };

/** What scenes cost: mixing, playing, and changing them. */
export function scenes(line: Line): void {
  mixed(planWith(64, []));
  const plain = Math.max(...[1, 2, 3].map(() => mixed(planWith(64, []))));
  line(
    'A minute of 64 stereo cues of 4 s on 8 tracks, mixed',
    `${plain.toFixed(0)} times faster than real time`,
    '40 times',
  );
  const with4 = Math.max(...[1, 2, 3].map(() => mixed(planWith(64, [eq]))));
  line(
    'The same with an equaliser of four bands on each track',
    `${with4.toFixed(0)} times faster than real time`,
    '20 times',
  );
  // Each insert needs an id of its own only within its line.
  const limit: Insert = { id: 2, kind: 'limiter', on: true, values: { ceiling: -2 } };
  const wet: Insert = { id: 3, kind: 'reverb', on: true, values: {} };
  const sent: Insert = { id: 4, kind: 'send', on: true, line: 9, values: {} };
  const part = planWith(64, [eq, limit, sent]);
  const hall = { id: 9, gain: 0, place: 0, open: true, inserts: [wet] };
  const full = { ...part, lines: new Map([...part.lines, [9, hall]]) };
  const withAll = Math.max(...[1, 2, 3].map(() => mixed(full)));
  line(
    'The same with a limiter on each track as well, and a send of each into one reverb',
    `${withAll.toFixed(0)} times faster than real time`,
    '20 times',
  );
  line('The same while it plays, of one core', `${(100 / withAll).toFixed(1)} %`, '40 %');
  const alone = (kind: string): string => {
    const wide = planWith(64, []);
    // What is made of a sound is made of four seconds.
    const effect: Insert = { id: 5, kind, on: true, values: {}, sound: { material: RATE, rate: RATE } };
    const main = { id: 0, gain: 0, place: 0, open: true, inserts: [effect] };
    const times = mixed({ ...wide, lines: new Map([...wide.lines, [0, main]]) });
    return `${kind} ${Math.max(0, 100 / times - 100 / plain).toFixed(1)} %`;
  };
  line(
    'One of each effect while it plays, of one core',
    effects.flatMap((e) => (e.sends ? [] : alone(e.kind))).join(', '),
    '—',
  );
  // A fader in a playing scene.
  const engine = new Engine(RATE);
  const plan = planWith(64, []);
  for (const [id, material] of materials) {
    engine.handle({ type: 'material', id, rate: id, frames: material.frames, channels: 2 });
    const planes = [0, 1].map((c) => {
      const plane = new Float32Array(material.frames);
      material.copy(c, 0, material.frames, plane);
      return plane;
    });
    for (let c = 0; c * 16_384 < material.frames; c++)
      engine.handle({ type: 'chunk', id, index: c, planes: planes.map((p) => p.slice(c * 16_384, (c + 1) * 16_384)) });
  }
  engine.handle({ type: 'graph', changes: differences(emptyPlan, plan) });
  engine.handle({ type: 'transport', playing: true, position: 0 });
  const [left, right] = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
  const power = () => {
    engine.render(left, right);
    return left.reduce((sum, x) => sum + x * x, 0);
  };
  let before = 0;
  for (let i = 0; i < 400; i++) before = power();
  const shut = { ...plan, lines: new Map([...plan.lines].map(([id, l]) => [id, { ...l, gain: -90 }])) };
  engine.handle({ type: 'graph', changes: differences(plan, shut) });
  let [heard, down] = [0, 0];
  for (let n = 1; down === 0; n++) {
    const now = power();
    if (heard === 0 && now < before / 2) heard = n;
    if (now < before * 1e-6) down = n;
  }
  line('A fader drawn down, until it is heard; until it is there', `${heard}; ${down} blocks of 2.7 ms`, '2 blocks');
  hour(line);
  large(line);
}

/** An hour mixed window by window, as it is written: what that takes of memory. */
function hour(line: Line): void {
  const minutes = 60;
  const clips = new Map<number, { line: number; clip: Clip }>();
  const { lines, clips: one } = planWith(64, [eq]);
  for (let m = 0; m < minutes; m++)
    for (const [id, { line: on, clip }] of one)
      clips.set(m * 64 + id, { line: on, clip: { ...clip, at: clip.at + m * MINUTE } });
  const scene = { id: 1, name: 'Hour', fps: '24', startFrame: 0, sampleRate: RATE, length: minutes * MINUTE };
  const mixdown = new Mixdown(scene, { lines, clips }, scene.length, materials);
  const used = () => {
    global.gc?.();
    const { heapUsed, arrayBuffers } = process.memoryUsage();
    return (heapUsed + arrayBuffers) / (1 << 20);
  };
  const from = performance.now();
  const memory: number[] = [];
  for (let n = 0; mixdown.share < 1; n++) {
    mixdown.next();
    if (n % 30 === 5) memory.push(used());
  }
  const took = (performance.now() - from) / 1000;
  line(
    'An hour of 3,840 cues with equalisers, mixed by windows',
    `${took.toFixed(0)} s; memory ${Math.min(...memory).toFixed(0)} to ${Math.max(...memory).toFixed(0)} MB, ${(memory.at(-1)! - memory[0]).toFixed(1)} MB more at its end`,
    'flat',
  );
}

/** A scene of 5,000 cues on 64 tracks: what a step of a drag of 200 of them comes to, without the painting. */
function large(line: Line): void {
  const tracks: Track[] = Array.from({ length: 64 }, (_, i) => ({
    ...{ id: i + 1, sceneId: 1, order: i, name: `T${i}`, gain: 0, mute: false, solo: false },
  }));
  const cues: Cue[] = Array.from({ length: 5000 }, (_, i) => ({
    ...{ id: i + 1, sceneId: 1, trackId: 1 + (i % 64), soundId: RATE, name: `Cue ${i}`, at: i * 9000, anchor: 0 },
    ...{ start: 0, end: 4 * RATE, rate: RATE, gain: 0, mute: false, fadeIn: 0, fadeOut: 0 },
  }));
  const first = performance.now();
  let plan = planOf(tracks, cues);
  const graph = new Graph(RATE, materials);
  graph.apply(differences(emptyPlan, plan), false);
  line(
    'A scene of 5,000 cues on 64 tracks, into the graph',
    `${Math.round(performance.now() - first)} ms`,
    '1 s to open it',
  );
  const sight = { from: 0, scale: 1130 / (5000 * 9000), width: 1130, height: 43, rate: RATE };
  const times: number[] = [];
  let now = cues;
  for (let n = 0; n < 60; n++) {
    const from = performance.now();
    now = now.map((c) => (c.id <= 200 ? { ...c, at: c.at + 10 } : c));
    const next = planOf(tracks, now);
    graph.apply(differences(plan, next), true);
    plan = next;
    boxesIn(now, sight);
    if (n === 0) marksOf(now, new Set(), [], RATE);
    times.push(performance.now() - from);
  }
  times.sort((a, b) => a - b);
  line(
    'A step of a drag of 200 cues in it: draft, graph and boxes of all that is in sight',
    `p50 ${times[30].toFixed(1)}, p95 ${times[57].toFixed(1)} ms`,
    'a frame of 16 ms',
  );
}

/** 5,000 cues of 500 sounds on 24 tracks, as every list that is delivered, and back from one. */
export function deliveries(line: Line): void {
  const scene: Scene = {
    id: 1,
    name: 'Long',
    fps: '23.976',
    startFrame: 86_400,
    sampleRate: RATE,
    length: 60 * MINUTE,
  };
  const tracks = Array.from({ length: 24 }, (_, i): Track => ({
    ...{ id: i + 1, sceneId: 1, order: i, name: `Track ${i + 1}`, gain: 0, mute: false, solo: false },
  }));
  const cues = Array.from({ length: 5000 }, (_, i): Cue => ({
    ...{ id: i + 1, sceneId: 1, trackId: 1 + (i % 24), soundId: 1 + (i % 500), name: `Sound ${i % 500}`, made: 1 },
    ...{
      at: i * 34_000,
      anchor: 1200,
      start: 0,
      end: 48_000,
      rate: RATE,
      gain: -3,
      mute: false,
      fadeIn: 0,
      fadeOut: 0.1,
    },
  }));
  const sounds = new Map(
    Array.from({ length: 500 }, (_, i) => {
      const fields = { fxName: `Sound ${i}`, licence: 'CC BY 4.0', author: `Author ${i % 40}` };
      const sound = {
        id: i + 1,
        path: `Sound ${i + 1}.wav`,
        fields,
        format: { frames: 48_000, rate: RATE },
        marks: { anchor: 0 },
      };
      return [i + 1, sound as unknown as Sound];
    }),
  );
  const file = (cue: Cue) => `Library/Sound ${cue.soundId}.wav`;
  const from = performance.now();
  writeEdls(scene, tracks, cues, file);
  const otio = writeOtio(scene, tracks, cues, file);
  writeDawproject(
    scene,
    { tracks, effects: [] },
    cues,
    [],
    (c) => ({ path: `audio/${c.soundId}.wav`, channels: 2, rate: RATE, frames: 48_000, from: 0 }),
    '1',
  );
  cueSheetCells(cueSheet(scene, tracks, cues, (c) => ({ file: file(c), library: 'L', licence: 'CC0' })));
  const lines = credits(cues, (id) => sounds.get(id));
  creditsCsv(lines);
  creditsCrawl(lines);
  const written = performance.now() - from;
  incomingOtio(readOtio(otio, RATE), scene);
  const read = performance.now() - from - written;
  line(
    '5,000 cues as edit lists, timeline, project, cue sheet and credits; the timeline read again',
    `${(written / 1000).toFixed(2)} s; ${(read / 1000).toFixed(2)} s`,
    '5 s',
  );
}
