import { FactsCollector, type Facts, type EnvelopeFacts } from '@core/audio';
import { labelsOfRoll, nameOfRoll, saidOfRoll } from '@core/build';
import { encodePcm } from '@core/files';
import { categoryOf } from '@core/suggest';
import {
  between,
  patches,
  patchNames,
  Random,
  renderRoll,
  rollFrom,
  rollOf,
  rollsOf,
  shareOf,
  turned,
  valueAt,
  type Patch,
  type PatchName,
  type Roll,
} from '@core/synth';
import { cos, exp, exp2, log, pow, sin, sinTurns, soft } from '@core/synth/exact';
import fc from 'fast-check';
import { createHash } from 'node:crypto';

// Sounds made from nothing: the same everywhere, whole in any roll, and each of its family.

const RATE = 24_000;
const ROLLS = 16;
const patchOf = (name: PatchName): Patch => patches[name];
const family = fc.constantFrom(...patchNames);
const seed = fc.nat(0xffffffff);

test('sines, powers and logarithms of plain arithmetic are those of the engine', () => {
  const near = (x: number, y: number) => expect(Math.abs(x - y)).toBeLessThanOrEqual(2e-11 * Math.max(1, Math.abs(y)));
  fc.assert(
    fc.property(fc.double({ min: -50, max: 50, noNaN: true }), (x) => {
      near(sinTurns(x), Math.sin(2 * Math.PI * x));
      near(sin(x), Math.sin(x));
      near(cos(x), Math.cos(x));
      near(exp2(x) / 2 ** x, 1);
      near(exp(x) / Math.exp(x), 1);
      near(pow(1.7, x) / 1.7 ** x, 1);
      if (x > 0) near(log(x), Math.log(x));
      expect(Math.abs(soft(x))).toBeLessThanOrEqual(1);
    }),
  );
  expect([exp2(-2000), exp2(2000), log(0), log(-1), exp2(NaN)]).toEqual([0, Infinity, -Infinity, NaN, NaN]);
});

test('a family has eight to fourteen numbers, each with a name of its own, and a category of the list', () => {
  for (const name of patchNames) {
    const { values, catId, keywords } = patchOf(name);
    expect([name, values.length >= 8 && values.length <= 14, values[0].key]).toEqual([name, true, 'length']);
    expect(new Set(values.map((v) => v.key)).size).toBe(values.length);
    expect(new Set(values.map((v) => v.name)).size).toBe(values.length);
    expect(categoryOf(catId)?.catId).toBe(catId);
    expect(keywords.length).toBeGreaterThan(2);
  }
});

test('a number keeps its place in its range, whatever its steps', () => {
  fc.assert(
    fc.property(family, fc.double({ min: 0, max: 1, noNaN: true }), (name, share) => {
      for (const v of patchOf(name).values) {
        const value = valueAt(v, share);
        expect(value).toBeGreaterThanOrEqual(v.from);
        expect(value).toBeLessThanOrEqual(v.to);
        expect(valueAt(v, shareOf(v, value))).toBe(value);
      }
    }),
  );
});

test('what is locked stays, and leaves the chance of the others as it is', () => {
  fc.assert(
    fc.property(family, seed, fc.nat(20), (name, of, which) => {
      const { values } = patchOf(name);
      const { key, to } = values[which % values.length];
      const free = rollOf(name, of);
      expect(rollOf(name, of, { [key]: to })).toEqual({ ...free, values: { ...free.values, [key]: to } });
    }),
  );
});

test('what lies between two sounds lies between them in each number', () => {
  fc.assert(
    fc.property(family, seed, seed, seed, (name, a, b, of) => {
      const [one, other] = [rollOf(name, a), rollOf(name, b)];
      const made = between(one, other, of);
      expect([one.seed, other.seed]).toContain(made.seed);
      for (const { key } of patchOf(name).values) {
        const ends = [one.values[key], other.values[key]];
        expect(made.values[key]).toBeGreaterThanOrEqual(Math.min(...ends));
        expect(made.values[key]).toBeLessThanOrEqual(Math.max(...ends));
      }
    }),
  );
});

test('a roll that was written elsewhere is whole, or no roll', () => {
  const anything = fc.dictionary(fc.string(), fc.oneof(fc.double(), fc.constant(NaN), fc.constant(-1e300)));
  fc.assert(
    fc.property(fc.oneof(family, fc.string()), fc.double(), anything, (name, of, values) => {
      const roll = rollFrom({ family: name, seed: of, values });
      expect(roll !== undefined).toBe(patchNames.includes(name as PatchName));
      for (const v of roll ? patchOf(roll.family).values : []) {
        expect(roll!.values[v.key]).toBeGreaterThanOrEqual(v.from);
        expect(roll!.values[v.key]).toBeLessThanOrEqual(v.to);
      }
    }),
  );
  const own = rollOf('zap', 9);
  expect(rollFrom(JSON.parse(JSON.stringify(own)) as Roll)).toEqual(own);
  expect(turned(own, 'pitch', 1e9).values.pitch).toBe(9000);
  expect(turned(own, 'pitch', -1).values.pitch).toBe(2500);
  expect(turned(own, 'nothing', 1)).toBe(own);
});

/** The samples of a roll in 24 bit, as a hash: what a file of it holds. */
const printOf = (roll: Roll): string =>
  createHash('sha256')
    .update(encodePcm(renderRoll(roll, 48_000).planes, { bits: 24 }))
    .digest('hex')
    .slice(0, 16);

test('from a seed come the same bytes, on every machine and in every version', () => {
  const shortest = (name: PatchName) => rollOf(name, 77, { length: patchOf(name).values[0].from });
  expect(Object.fromEntries(patchNames.map((name) => [name, printOf(shortest(name))]))).toMatchInlineSnapshot(`
    {
      "alarm": "f4dd9a178f62caac",
      "blip": "2abf0e1316242d3e",
      "bubbles": "961e1b74853df51a",
      "chime": "6019a27b07932e6d",
      "creature": "157b87cab70c28c2",
      "drone": "da9799f1fcd892cc",
      "engine": "78d8c63b085f4bf6",
      "faller": "4691a20d76a0bd18",
      "glitch": "84d10171aaa54585",
      "gust": "1c4004dd231418e0",
      "impact": "157007eba7e1fb8e",
      "riser": "1ccf46a6cf3937f9",
      "whoosh": "a8bf00169fe441d5",
      "zap": "ac2da2bb22b8240e",
    }
  `);
});

interface Made {
  roll: Roll;
  facts: Facts & EnvelopeFacts;
  planes: Float32Array[];
}
let made: Made[];
beforeAll(async () => {
  made = [];
  for (const name of patchNames)
    for (const roll of rollsOf(name, ROLLS, 7)) {
      const { planes, anchor } = renderRoll(roll, RATE);
      expect(anchor).toBeGreaterThanOrEqual(0);
      expect(anchor * RATE).toBeLessThan(planes[0].length);
      const collector = await FactsCollector.start(planes[0].length, RATE, 2);
      for (let i = 0; i < planes[0].length; i += 65_536) collector.push(planes.map((p) => p.slice(i, i + 65_536)));
      made.push({ roll, planes, facts: collector.done().facts });
    }
}, 600_000);

test('any roll is as long as it says, finite, audible, below full scale, and begins and ends without a click', () => {
  for (const { roll, planes, facts } of made) {
    const about = `${roll.family} ${JSON.stringify(roll.values)}`;
    expect([about, planes.length, planes[0].length]).toEqual([about, 2, Math.round(roll.values.length * RATE)]);
    expect([about, planes.every((p) => p.every(Number.isFinite))]).toEqual([about, true]);
    expect([about, facts.truePeak! <= -0.99 && facts.truePeak! > -1.1]).toEqual([about, true]);
    expect([about, facts.loudness! > -40]).toEqual([about, true]);
    const edges = planes.flatMap((p) => [Math.abs(p[0]), Math.abs(p[p.length - 1])]);
    expect([about, Math.max(...edges) < 0.02]).toEqual([about, true]);
  }
});

/** What tells families apart: length, colour, course and events, each in the steps in which it is heard. */
function heard({ facts: f, planes }: Made): number[] {
  const octaves = (x: number | undefined, none: number) => Math.log2(Math.max(1e-4, x ?? none));
  return [
    octaves(planes[0].length / RATE, 1),
    ...[octaves(f.brightness, 1000), f.noisiness ?? 0.5, f.pitchSure ?? 0, (f.lows ?? 0) / 100],
    ...[octaves(Math.min(f.density, 30) + 0.3, 1), octaves(f.attack, 0.01), octaves(f.decay, 0.3)],
    ...[f.unrest ?? 0, f.trend ?? 0, f.pulseDepth ?? 0, octaves(f.pulse, 0.4), f.clarity ?? -10],
  ];
}

test('families are told apart by their facts: the nearest mean finds nine of ten rolls that it never saw', () => {
  const rows = made.map((m) => ({ name: m.roll.family, v: heard(m) }));
  const [known, others] = [0, 1].map((odd) => rows.filter((_, i) => i % 2 === odd));
  const size = rows[0].v.length;
  const means = patchNames.map((name) => {
    const own = known.filter((r) => r.name === name);
    return { name, v: Array.from({ length: size }, (_, d) => own.reduce((sum, r) => sum + r.v[d], 0) / own.length) };
  });
  const meanOf = (name: string) => means.find((m) => m.name === name)!.v;
  const spread = Array.from({ length: size }, (_, d) =>
    Math.sqrt(known.reduce((sum, r) => sum + (r.v[d] - meanOf(r.name)[d]) ** 2, 0) / known.length),
  );
  const far = (a: number[], b: number[]) => a.reduce((sum, x, d) => sum + ((x - b[d]) / spread[d]) ** 2, 0);
  const nearest = (v: number[]) => means.reduce((a, b) => (far(v, b.v) < far(v, a.v) ? b : a)).name;
  const found = others.filter((r) => nearest(r.v) === r.name).length;
  expect(found / others.length).toBeGreaterThanOrEqual(0.9);
});

test('each number is heard: turned from one end to the other, the samples are others', () => {
  for (const name of patchNames) {
    const random = new Random(3);
    const middle = Object.fromEntries(patchOf(name).values.map((v) => [v.key, valueAt(v, random.between(0.4, 0.6))]));
    const whole = { ...middle, length: valueAt(patchOf(name).values[0], 0.5) };
    const at = (values: Record<string, number>) => renderRoll({ family: name, seed: 5, values }, 12_000).planes[0];
    for (const { key, from, to } of patchOf(name).values.slice(1)) {
      const [low, high] = [at({ ...whole, [key]: from }), at({ ...whole, [key]: to })];
      expect([name, key, low.some((x, i) => Math.abs(x - high[i]) > 1e-4)]).toEqual([name, key, true]);
    }
  }
});

test('a sound is named and labelled by its family and by what is heard of it', () => {
  const roll = rollOf('riser', 4, { length: 6, pitch: 90, octaves: 3, curve: 1.5 });
  expect(saidOfRoll(roll)).toBe('starts at 90 Hz, climbs by 3.0 octaves, hurries 1.5 times');
  expect(nameOfRoll(roll, { brightness: 400, trend: 12 })).toBe('Riser dark long');
  expect(saidOfRoll(rollOf('blip', 4, { pitch: 900, notes: 1, step: -2 }))).toBe(
    'starts at 900 Hz, 1 tone, each higher by −2 semitones',
  );
  const { fields, from } = labelsOfRoll('Lift', roll, { brightness: 400 }, categoryOf('DSGNRise'));
  expect(fields).toMatchObject({ fxName: 'Lift', catId: 'DSGNRise', category: 'DESIGNED', subCategory: 'RISER' });
  expect(fields.keywords).toEqual(expect.arrayContaining(['riser', 'tension', 'dark', 'long']));
  expect([from.fxName, from.catId]).toEqual(['typed', 'suggested']);
});
