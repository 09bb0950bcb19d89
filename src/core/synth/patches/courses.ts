import { pow } from '../exact';
import { silence, smooth, type Settings, type Take } from '../family';
import { Drift, Pink } from '../filters';
import { above, driven, held, Oscillator, placed, Sweepable } from '../generators';
import { even, length, ratio, type Patch } from './patch';

/** Samples for which what moves slowly stays where it is: a third of a millisecond. */
const STEP = 16;

/** Voices that climb or fall together, with air about them: risers and fallers. */
function course(take: Take, v: Settings, octaves: number, level: (x: number) => number): Float32Array[] {
  const { rate, random } = take;
  const count = Math.round(v.voices);
  const tremor = new Oscillator(rate);
  const voices = Array.from({ length: count }, (_, n) => ({
    tones: [new Oscillator(rate, random.next()), new Oscillator(rate, random.next())],
    // Evenly to both sides of the pitch.
    ratio: above(1, (v.spread / 100) * (count > 1 ? (2 * n) / (count - 1) - 1 : 0)),
  }));
  const sides = [0, 1].map(() => ({ out: silence(take), air: new Sweepable(rate), lid: new Sweepable(rate) }));
  const frames = sides[0].out.length;
  const scale = 1 / Math.sqrt(count);
  let f = 0;
  let loud = 0;
  for (let i = 0; i < frames; i++) {
    const x = i / frames;
    if (i % STEP === 0) {
      f = v.pitch * pow(2, octaves * pow(x, v.curve));
      loud = level(x);
    }
    const shake = 1 - (v.tremor / 100) * (0.5 + 0.5 * tremor.sine(v.pace * (1 + 2 * x)));
    sides.forEach(({ out, air, lid }, side) => {
      if (i % STEP === 0) {
        air.tune(f * v.air, 1.4);
        lid.tune(f * v.lid, 0.8);
      }
      let y = 0;
      for (const { tones, ratio: r } of voices) y += tones[side].saw(f * r);
      lid.step(y * scale);
      air.step(random.noise());
      const mixed = lid.low * (1 - v.noise / 100) + (air.band * 1.8 * v.noise) / 100;
      out[i] = driven(mixed, v.drive) * shake * loud * held(i / rate, take.seconds, 0.02, 0.012);
    });
  }
  return sides.map((s) => s.out);
}

const courseValues = [
  ratio('curve', 'Hurries', 'times', 0.7, 2.6, 1),
  even('voices', 'Voices', '', 1, 5),
  even('spread', 'Spread by', 'cents', 3, 60),
  ratio('lid', 'Overtones up to', 'times', 2, 12, 1),
  even('noise', 'Air', '%', 5, 55),
  ratio('air', 'Air above by', 'times', 1, 5, 1),
  ratio('pace', 'Trembles', 'a second', 3, 14, 1),
  even('tremor', 'Trembling', '%', 0, 60),
  even('drive', 'Driven by', 'times', 0, 3, 1),
];

const riser: Patch = {
  name: 'Riser',
  what: 'Climbs and swells to the instant at which it ends.',
  catId: 'DSGNRise',
  keywords: ['build-up', 'tension', 'swell', 'trailer'],
  values: [
    length(2.5, 8),
    ratio('pitch', 'Starts at', 'Hz', 70, 320),
    even('octaves', 'Climbs by', 'octaves', 1.5, 4, 1),
    ...courseValues,
  ],
  make: (take, v) => ({
    dry: course(take, v, v.octaves, (x) => 0.02 + 0.98 * pow(x, 2)),
    events: [0.02],
    anchor: take.seconds - 0.012,
  }),
};

const faller: Patch = {
  name: 'Faller',
  what: 'Comes in at full height and sinks away.',
  catId: 'DSGNTonl',
  keywords: ['downer', 'sinking', 'power down', 'drop'],
  values: [
    length(1.5, 6),
    ratio('pitch', 'Starts at', 'Hz', 500, 2400),
    even('octaves', 'Falls by', 'octaves', 1.5, 4.5, 1),
    ...courseValues,
  ],
  make: (take, v) => ({
    dry: course(take, v, -v.octaves, (x) => pow(1 - x, 1.3)),
    events: [0.02],
  }),
};

const drone: Patch = {
  name: 'Drone',
  what: 'A low chord that stands and breathes, for as long as is wanted.',
  catId: 'DSGNDron',
  keywords: ['ambience', 'pad', 'tonal', 'dark'],
  values: [
    length(6, 14),
    ratio('pitch', 'Root at', 'Hz', 32, 110, 1),
    even('voices', 'Voices', '', 2, 6),
    even('spread', 'Detuned by', 'cents', 2, 25),
    even('fifth', 'Fifths', '%', 0, 100),
    even('octave', 'Octaves', '%', 0, 80),
    even('folds', 'Folded', 'times', 0, 2.5, 1),
    ratio('lid', 'Overtones up to', 'Hz', 220, 1400),
    ratio('pace', 'Breathes', 'a second', 0.08, 0.7, 2),
    even('breath', 'Breathing', '%', 10, 55),
    even('air', 'Air', '%', 0, 25),
  ],
  make: (take, v) => {
    const { rate, random, seconds } = take;
    const voices = Array.from({ length: Math.round(v.voices) }, () => {
      const chance = random.next() * 200;
      const interval = chance < v.fifth ? 1.5 : chance < v.fifth + v.octave ? 2 : 1;
      return interval * above(1, (random.noise() * v.spread) / 100);
    });
    const dry = [0, 1].map(() => {
      const out = silence(take);
      const tones = voices.map(() => new Oscillator(rate, random.next()));
      const drifts = voices.map(() => new Drift(random, v.pace, rate / STEP));
      const pitches = Float64Array.from(voices, (of) => of * v.pitch);
      const gains = new Float64Array(voices.length);
      const [lid, wind] = [new Sweepable(rate), new Sweepable(rate)];
      const pink = new Pink(random);
      const open = new Drift(random, v.pace, rate / STEP);
      const edge = Math.min(1.2, seconds / 4);
      const { folds } = v;
      const breeze = v.air / 50;
      const scale = 1 / Math.sqrt(voices.length);
      wind.tune(v.lid * 1.6, 0.7);
      for (let i = 0; i < out.length; i++) {
        if (i % STEP === 0) {
          lid.tune(v.lid * (1 + 0.5 * open.step()), 0.9);
          for (let n = 0; n < gains.length; n++)
            gains[n] = scale * (1 - (v.breath / 100) * (0.5 + 0.5 * drifts[n].step()));
        }
        let y = 0;
        for (let n = 0; n < gains.length; n++) y += tones[n].folded(pitches[n], folds) * gains[n];
        lid.step(y);
        wind.step(pink.step());
        out[i] = (lid.low + wind.band * breeze) * held(i / rate, seconds, edge, edge);
      }
      return out;
    });
    return { dry, events: [0] };
  },
};

const whoosh: Patch = {
  name: 'Whoosh',
  what: 'Something that goes by: air that opens, passes and shuts.',
  catId: 'DSGNWhsh',
  keywords: ['pass-by', 'swish', 'transition', 'fast'],
  values: [
    length(0.5, 2),
    even('peak', 'Nearest after', '%', 30, 70),
    ratio('low', 'Air from', 'Hz', 180, 700),
    ratio('high', 'Air to', 'Hz', 1500, 6500),
    ratio('narrow', 'Narrow', 'times', 0.7, 3, 1),
    ratio('sharp', 'Pointed', 'times', 1.4, 4, 1),
    even('body', 'Low push', '%', 0, 70),
    ratio('flutter', 'Flutters', 'a second', 8, 40),
    even('fluttering', 'Fluttering', '%', 0, 45),
    even('travel', 'Goes across by', '%', -100, 100),
  ],
  make: (take, v) => {
    const { rate, random, seconds } = take;
    const out = silence(take);
    const peak = v.peak / 100;
    const [air, push] = [new Sweepable(rate), new Sweepable(rate)];
    const flutter = new Drift(random, v.flutter, rate);
    push.tune(140, 1);
    for (let i = 0; i < out.length; i++) {
      const x = i / out.length;
      const near = pow(x < peak ? smooth(x, 0, peak) : 1 - smooth(x, peak, 1), v.sharp);
      // What comes nearer is heard higher, what goes away lower.
      const moved = 1 - 0.18 * smooth(x, peak - 0.12, peak + 0.12);
      if (i % 16 === 0) air.tune(v.low * pow(v.high / v.low, near) * moved, v.narrow);
      const noise = random.noise();
      air.step(noise);
      push.step(noise);
      const shake = 1 + (v.fluttering / 100) * flutter.step();
      out[i] = (air.band * 1.4 + (push.low * 3 * v.body) / 100) * near * shake * held(i / rate, seconds, 0.01, 0.02);
    }
    const travel = v.travel / 100;
    const dry = placed(out, (i) => travel * (2 * smooth(i / out.length, 0, 1) - 1));
    return { dry, events: [0.01], anchor: peak * seconds };
  },
};

const gust: Patch = {
  name: 'Gust',
  what: 'Wind that comes and goes, with what whistles and rustles in it.',
  catId: 'WINDGust',
  keywords: ['wind', 'air', 'weather', 'storm'],
  values: [
    length(4, 10),
    ratio('low', 'Body at', 'Hz', 140, 420),
    ratio('gusts', 'Gusts', 'a second', 0.2, 0.9, 2),
    even('calm', 'Least wind', '%', 5, 45),
    even('climb', 'Brightens by', 'octaves', 0.5, 2.5, 1),
    ratio('whistle', 'Whistles at', 'Hz', 500, 1500),
    even('whistling', 'Whistling', '%', 0, 40),
    ratio('flutter', 'Flutters', 'a second', 2, 9, 1),
    even('leaves', 'Leaves', '%', 0, 45),
    even('wide', 'Wide', '%', 20, 100),
  ],
  make: (take, v) => {
    const { rate, random, seconds } = take;
    const swell = new Drift(random, v.gusts, rate);
    const quick = new Drift(random, v.flutter, rate);
    const calm = v.calm / 100;
    const force = silence(take).map(() =>
      Math.max(0, calm + (1 - calm) * (0.5 + 0.5 * swell.step()) * (1 + 0.2 * quick.step())),
    );
    const shared = silence(take).map(() => random.noise());
    const wide = v.wide / 100;
    const dry = [0, 1].map(() => {
      const out = silence(take);
      const [body, thin, stems] = [new Sweepable(rate), new Sweepable(rate), new Sweepable(rate)];
      stems.tune(4600, 0.8);
      const own = new Drift(random, 0.7, rate);
      for (let i = 0; i < out.length; i++) {
        const g = force[i] * (1 + 0.25 * wide * own.step());
        if (i % 32 === 0) {
          body.tune(v.low * pow(2, v.climb * (g - 0.5)), 0.7);
          thin.tune(v.whistle * (0.75 + 0.45 * g), 18);
        }
        const x = random.noise() * wide + shared[i] * (1 - wide);
        body.step(x);
        thin.step(x);
        stems.step(random.next() < 0.04 + 0.4 * g * g ? x : 0);
        const y = body.band * 1.6 + (thin.band * 2.4 * g * v.whistling) / 100 + (stems.band * g * v.leaves) / 100;
        out[i] = y * g * g * held(i / rate, seconds, 0.5, 0.8);
      }
      return out;
    });
    return { dry, events: [0] };
  },
};

/** What goes up, down, by, or stays: tones and air on their way. */
export const courses = { riser, faller, drone, whoosh, gust } satisfies Record<string, Patch>;
