import { BLOCK, Engine, Material, type Insert, type StruckClip } from '@core/engine';
import { plainShape, TruePeakMeter } from '@core/audio';
import { patchNames, renderRoll, rollsOf } from '@core/synth';
import { effectOf, movedTo, type Mover } from '@core/effects';
import { Mixdown } from '@core/scene';
import { noise } from '../tests/helpers/signals';

type Line = (what: string, measured: string, reach: string) => void;
const RATE = 48_000;
const [LAYERS, SECONDS] = [8, 10];

/** What a build costs that is played: eight layers of four effects each, ten movers, few strokes at once and many. */
export function builds(line: Line): void {
  const planes = [noise(2 * RATE, 0.2, 1), noise(2 * RATE, 0.2, 2)];
  const material = Material.of(planes, RATE);
  const kinds = ['filter', 'equaliser', 'compressor', 'saturation'];
  const values: Record<string, Record<string, number>> = {
    equaliser: { kind1: 3, freq1: 300, gain1: -4, kind2: 3, freq2: 4000, gain2: 3 },
  };
  const inserts = (n: number): Insert[] =>
    kinds.map((kind, k) => ({ id: 10 * n + k + 1, kind, on: true, values: values[kind] ?? {} }));
  const lines = Array.from({ length: LAYERS }, (_, i) => ({
    ...{ id: i + 1, gain: -18, place: 0, open: true, inserts: inserts(i + 1) },
  }));
  const { least, most, curve } = effectOf('filter')!.params.find((p) => p.key === 'freq')!;
  const middle = {
    bend: 'straight' as const,
    from: movedTo({ from: least, to: most, bend: 'straight' }, curve, 0.4),
    to: most,
  };
  const movers: Mover[] = Array.from({ length: 10 }, (_, i) => ({
    ...{ id: i + 1, kind: ['wave', 'drift', 'envelope', 'velocity', 'key'][i % 5], values: { seed: i + 1 } },
    moves: [
      i % 2 === 0
        ? { of: 'line', id: 1 + (i % LAYERS), key: 'gain', from: -30, to: -12, bend: 'straight' }
        : { of: 'effect', id: 10 * (1 + (i % LAYERS)) + 1, key: 'freq', ...middle },
    ],
  }));
  const play = (moving: readonly Mover[], strokes: number): { share: number; first: number[] } => {
    const engine = new Engine(RATE);
    engine.handle({ type: 'material', id: 1, rate: RATE, frames: material.frames, channels: 2 });
    for (let c = 0; c * 16_384 < material.frames; c++)
      engine.handle({
        type: 'chunk',
        id: 1,
        index: c,
        planes: planes.map((p) => p.slice(c * 16_384, (c + 1) * 16_384)),
      });
    engine.handle({ type: 'strikes', limit: strokes, gives: 'first' });
    const changes = lines.map((l) => ({ do: 'line' as const, line: l }));
    engine.handle({ type: 'build', changes: [...changes, { do: 'movers', movers: moving }] });
    const clips: StruckClip[] = lines.map((l, i) => ({
      line: l.id,
      clip: {
        ...{ material: 1, rate: RATE, at: 40 * i, anchor: 0, gain: 0, place: 0 },
        ...{ region: { start: 0, end: 2 * RATE }, shape: { ...plainShape, speed: 0.8 + 0.05 * i } },
      },
    }));
    const [left, right] = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
    const first: number[] = [];
    const every = Math.round((RATE * 2) / strokes / BLOCK);
    const begun = performance.now();
    for (let b = 0; b < (SECONDS * RATE) / BLOCK; b++) {
      const from = performance.now();
      const strikes = b % every === 0;
      if (strikes) engine.handle({ type: 'strike', key: b, clips, velocity: (b % 7) / 7 });
      engine.render(left, right);
      if (strikes) first.push(performance.now() - from);
    }
    return { share: (performance.now() - begun) / 10 / SECONDS, first: first.sort((a, b) => a - b) };
  };
  play(movers, 2);
  const plain = play([], 2);
  const moved = play(movers, 2);
  const many = play(movers, 16);
  line(
    'A build of eight layers with four effects each, sixteen sounds at once (two strokes): of one core, without movers; with ten',
    `${plain.share.toFixed(0)} %; ${moved.share.toFixed(0)} %`,
    '50 %',
  );
  line('The same with sixteen strokes, which are 128 sounds at once', `${many.share.toFixed(0)} %`, '—');
  const p95 = many.first[Math.floor(0.95 * many.first.length)];
  line('A stroke of it, until its first block is rendered', `p95 ${p95.toFixed(1)} ms`, '30 ms to the ear');
  variations(line, material, inserts);
  rolls(line);
}

/** A hundred variations of a build of four layers of two effects each: mixed, and measured to be told apart by ear. */
function variations(line: Line, material: Material, inserts: (n: number) => Insert[]): void {
  const length = 3 * RATE;
  const scene = { id: 1, name: 'Build', fps: '24', startFrame: 0, sampleRate: RATE, length };
  const press: Insert = { id: 99, kind: 'compressor', on: true, values: {} };
  const lines = Array.from({ length: 4 }, (_, i) => ({
    ...{ id: i + 1, gain: -12, place: 0, open: true, inserts: inserts(i + 1).slice(0, 2) },
  }));
  const main = { id: 0, gain: 0, place: 0, open: true, inserts: [press] };
  const from = performance.now();
  for (let n = 0; n < 100; n++) {
    const clips = lines.map(({ id }) => {
      const shape = { ...plainShape, speed: 0.7 + ((n * 7 + id * 13) % 60) / 100 };
      const clip = {
        material: 1,
        rate: RATE,
        at: 0,
        anchor: 0,
        gain: 0,
        place: 0,
        region: { start: 0, end: 2 * RATE },
        shape,
      };
      return [id, { line: id, clip }] as const;
    });
    const plan = { lines: new Map([main, ...lines].map((l) => [l.id, l])), clips: new Map(clips) };
    const mixdown = new Mixdown(scene, plan, length, new Map([[1, material]]));
    while (mixdown.share < 1) mixdown.next();
  }
  line(
    'A hundred variations of three seconds of a build of four layers with two effects each, mixed on one core',
    `${((performance.now() - from) / 1000).toFixed(1)} s`,
    '20 s',
  );
}

/** What it takes to make sounds from nothing. */
function rolls(line: Line): void {
  const made = patchNames.map((name) => {
    const times = rollsOf(name, 12, 5).map((roll) => {
      const from = performance.now();
      const { planes } = renderRoll(roll, RATE);
      return { ms: performance.now() - from, seconds: planes[0].length / RATE };
    });
    const sum = (of: 'ms' | 'seconds') => times.reduce((all, t) => all + t[of], 0);
    return { name, ms: sum('ms') / times.length, speed: (1000 * sum('seconds')) / sum('ms') };
  });
  made.sort((a, b) => a.ms - b.ms);
  const said = (m: (typeof made)[number]) => `${m.name} ${m.ms.toFixed(0)} ms (${m.speed.toFixed(0)} times as fast)`;
  line(
    'A roll of a family, from its seed to its samples: the quickest, the middle one, the slowest',
    [made[0], made[made.length >> 1], made[made.length - 1]].map(said).join('; '),
    '50 ms to the ear',
  );
  let most = -Infinity;
  let broken = 0;
  for (const [n, name] of patchNames.entries())
    for (const roll of rollsOf(name, n < 6 ? 72 : 71, 9)) {
      const { planes } = renderRoll(roll, 12_000);
      const meter = new TruePeakMeter(12_000, 2);
      meter.push(planes);
      most = Math.max(most, meter.done());
      if (!planes.every((p) => p.every(Number.isFinite)) || !planes[0].some((x) => Math.abs(x) > 0.05)) broken++;
    }
  line(
    '1,000 rolls of all families: the highest true peak, and how many are silent or not finite',
    `${most.toFixed(2)} dBTP; ${broken}`,
    '0 dBTP; 0',
  );
}
