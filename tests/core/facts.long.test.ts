import { findOnsets, LoudnessMeter, pitchOf, TruePeakMeter } from '@core/audio';
import { render, type FamilyName } from '@core/synth';
import fc from 'fast-check';
import { measure } from '../helpers/measure';
import { addAt, hit, joined, noise, sine } from '../helpers/signals';

jest.setTimeout(120_000);
const RATE = 48000;
/** A stereo 1 kHz sine at levels and lengths, as the EBU's test signals are defined. */
const steps = (...parts: [level: number, seconds: number][]) => {
  const plane = joined(...parts.map(([db, s]) => sine(1000, RATE, Math.round(s * RATE), 10 ** (db / 20))));
  return [plane, plane];
};

/** Loudness alone: these signals are minutes long. */
function loudness(planes: Float32Array[]) {
  const meter = new LoudnessMeter(RATE, planes.length);
  meter.push(planes);
  return meter.done();
}

describe('loudness of the signals that EBU Tech 3341 and 3342 define', () => {
  test.each([
    ['1: -23 dBFS for 20 s', steps([-23, 20]), -23],
    ['2: -33 dBFS for 20 s', steps([-33, 20]), -33],
    ['3: quiet ends are gated away', steps([-36, 10], [-23, 60], [-36, 10]), -23],
    ['4: and quieter ones', steps([-72, 10], [-36, 10], [-23, 60], [-36, 10], [-72, 10]), -23],
    ['5: a loud middle', steps([-26, 20], [-20, 20.1], [-26, 20]), -23],
  ])('3341 case %s', (_, planes, expected) => {
    expect(Math.abs(loudness(planes).integrated - expected)).toBeLessThan(0.1);
  });

  test('3341 case 6: five channels, the surround ones louder', () => {
    const at = (db: number) => sine(1000, RATE, 20 * RATE, 10 ** (db / 20));
    const planes = [at(-28), at(-28), at(-24), at(-30), at(-30)];
    expect(Math.abs(loudness(planes).integrated + 23)).toBeLessThan(0.1);
  });

  test.each([
    ['1', steps([-20, 20], [-30, 20]), 10],
    ['2', steps([-20, 20], [-15, 20]), 5],
    ['3', steps([-40, 20], [-20, 20]), 20],
    ['4', steps([-50, 20], [-35, 20], [-20, 20], [-35, 20], [-50, 20]), 15],
  ])('3342 case %s', (_, planes, range) => {
    expect(Math.abs(loudness(planes).range - range)).toBeLessThan(1);
  });

  // Tech 3341 table 1, cases 15 to 19: sines whose tops lie between samples.
  test.each([
    ['15', 4, 0, 0.5, -6],
    ['16', 4, 45, 0.5, -6],
    ['17', 6, 60, 0.5, -6],
    ['18', 8, 67.5, 0.5, -6],
    ['19', 4, 45, 1.41, 3],
  ])('true peak case %s: a sine of a %dth of the rate', (_, part, phase, level, expected) => {
    const meter = new TruePeakMeter(RATE, 1);
    // Faded in and out, as the published signals are: a hard edge has a peak of its own.
    const fade = (i: number) => Math.min(1, i / 2000, (RATE - i) / 2000);
    meter.push([
      Float32Array.from(
        { length: RATE },
        (_, i) => fade(i) * level * Math.sin((2 * Math.PI * i) / part + (phase * Math.PI) / 180),
      ),
    ]);
    const peak = meter.done();
    expect(peak).toBeGreaterThan(expected - 0.4);
    expect(peak).toBeLessThan(expected + 0.2);
  });

  test('a quieter copy is quieter by just that much, at any rate', async () => {
    for (const rate of [22050, 44100, 96000, 192000]) {
      const tone = sine(997, rate, rate * 2, 0.5);
      const { facts } = await measure([tone, tone], rate);
      const low = await measure([tone.map((x) => x / 2), tone.map((x) => x / 2)], rate);
      expect(facts.loudness! - low.facts.loudness!).toBeCloseTo(6.02, 1);
      // A full-scale sine of 1 kHz in both channels is at 0 LUFS: half scale is 6 under.
      expect(Math.abs(facts.loudness! + 6)).toBeLessThan(0.15);
      expect(Math.abs(facts.truePeak! + 6.02)).toBeLessThan(0.1);
    }
  });
});

const cents = (a: number, b: number) => Math.abs(1200 * Math.log2(a / b));

describe('pitch', () => {
  const tone = (hz: number, partials: readonly number[], rate = RATE, seconds = 1) =>
    Float32Array.from(
      { length: rate * seconds },
      (_, i) => partials.reduce((sum, a, k) => sum + a * Math.sin((2 * Math.PI * hz * (k + 1) * i) / rate), 0) * 0.3,
    );

  test.each([41.2, 55, 110, 196.5, 440, 987.77, 1975.5, 3520])(
    '%d Hz within 20 cents: a sine, a rich tone, one without fundamental',
    async (hz) => {
      const kinds = [[1], [1, 0.6, 0.4, 0.3, 0.2]].concat(hz < 800 ? [[0, 1, 0.8, 0.6]] : []);
      for (const partials of kinds) {
        const { facts } = await measure([tone(hz, partials)]);
        expect(cents(facts.pitch!, hz)).toBeLessThan(20);
        expect(facts.pitchSure!).toBeGreaterThan(0.8);
      }
    },
  );

  test('at other rates, in noise, and none in noise alone', async () => {
    for (const rate of [22050, 44100, 96000])
      expect(cents((await measure([tone(330, [1, 0.5], rate)], rate)).facts.pitch!, 330)).toBeLessThan(20);
    const hiss = noise(RATE, 0.05);
    const hidden = tone(330, [1, 0.5]).map((x, i) => x + hiss[i]);
    expect(cents((await measure([hidden])).facts.pitch!, 330)).toBeLessThan(20);
    expect((await measure([noise(RATE)])).facts.pitch).toBeUndefined();
    expect(pitchOf([], RATE)).toBeUndefined();
  });

  test('of the demo’s horns, as their plan has it', async () => {
    for (const pitch of [92, 118, 150]) {
      const { planes } = render({
        family: 'foghorn' as FamilyName,
        settings: { pitch, count: 1, sag: 0 },
        seed: 5,
        rate: RATE,
        seconds: 4,
        channels: 1,
      });
      const { facts } = await measure(planes);
      // A horn sags while it is blown, and beats: the plan is its beginning.
      expect(cents(facts.pitch!, pitch)).toBeLessThan(60);
    }
  });
});

describe('tempo', () => {
  /** A bar of beats, the first heavier, with lighter strokes between: what a hand or machine plays. */
  function loop(bpm: number, bars: number, seed: number): Float32Array {
    const beat = (60 / bpm) * RATE;
    const out = new Float32Array(Math.round(beat * 4 * bars));
    for (let n = 0; n < 4 * bars; n++) {
      addAt(out, hit(RATE, 0.2, 0.8, 110, seed + n), Math.round(n * beat), n % 4 === 0 ? 1 : 0.75);
      addAt(out, hit(RATE, 0.08, 0.4, 700, seed + 90 + n), Math.round((n + 0.5) * beat), 0.5);
    }
    return out;
  }

  test('right in nine of ten loops, double and half counting as wrong', async () => {
    const cases = Array.from({ length: 20 }, (_, i) => 72 + i * 4.7);
    const wrong: string[] = [];
    for (const [i, bpm] of cases.entries()) {
      const { facts } = await measure([loop(bpm, 2 + (i % 3), i * 7)], RATE, [1 << 16], true);
      if (!facts.tempo || Math.abs(facts.tempo / bpm - 1) > 0.01)
        wrong.push(`${bpm.toFixed(1)} heard as ${facts.tempo}`);
    }
    expect(wrong.length).toBeLessThanOrEqual(2);
  });

  test('none where nothing returns', async () => {
    expect((await measure([noise(4 * RATE, 0.3)])).facts.tempo).toBeUndefined();
    expect((await measure([hit(RATE, 3)])).facts.tempo).toBeUndefined();
  });
});

describe('single facts', () => {
  test('silences, to two milliseconds', async () => {
    const planes = [joined(new Float32Array(12000), sine(500, RATE, 24000), new Float32Array(7200))];
    const { facts } = await measure(planes);
    expect(Math.abs(facts.headSilence - 0.25)).toBeLessThan(0.003);
    expect(Math.abs(facts.tailSilence - 0.15)).toBeLessThan(0.003);
  });

  test('the noise floor is the level of the quiet part', async () => {
    const floor = 10 ** (-60 / 20);
    const plane = joined(
      noise(RATE, floor * Math.sqrt(3)),
      sine(300, RATE, RATE, 0.5),
      noise(RATE, floor * Math.sqrt(3), 3),
    );
    expect(Math.abs((await measure([plane])).facts.noiseFloor! + 60)).toBeLessThan(1.5);
  });

  test('brightness is where the tone is; noisiness tells noise from tone', async () => {
    const tone = (await measure([sine(3000, RATE, RATE)])).facts;
    const hiss = (await measure([noise(RATE)])).facts;
    expect(Math.abs(tone.brightness! - 3000)).toBeLessThan(60);
    expect(Math.abs(hiss.brightness! - 10_000)).toBeLessThan(1500);
    expect(tone.noisiness!).toBeLessThan(0.05);
    expect(hiss.noisiness!).toBeGreaterThan(0.7);
  });

  test('clipping counts flat tops only', async () => {
    const loud = sine(100, RATE, RATE, 1.6).map((x) => Math.max(-1, Math.min(1, x)));
    const flat = loud.filter((x) => Math.abs(x) === 1).length;
    const { facts } = await measure([loud]);
    expect(Math.abs(facts.clipped - flat)).toBeLessThan(flat * 0.02);
    expect((await measure([sine(997, RATE, RATE, 0.999)])).facts.clipped).toBe(0);
  });

  test.each([
    ['Mono', (a: Float32Array) => [a]],
    ['Stereo', (a: Float32Array, b: Float32Array) => [a, b]],
    ['Stereo, both sides the same', (a: Float32Array) => [a, a]],
    ['Stereo, one side inverted', (a: Float32Array) => [a, a.map((x) => -x)]],
    ['Stereo, one side silent', (a: Float32Array) => [a, new Float32Array(a.length)]],
    ['Quad', (a: Float32Array, b: Float32Array) => [a, b, a, b]],
    ['5.1', (a: Float32Array, b: Float32Array) => [a, b, a, b, a, b]],
  ])('the layout: %s', async (layout, make) => {
    expect((await measure(make(noise(9600), noise(9600, 0.5, 2)))).facts.layout).toBe(layout);
  });

  test('an offset is told in percent', async () => {
    expect((await measure([sine(400, RATE, RATE).map((x) => x + 0.05)])).facts.dc).toBeCloseTo(5, 1);
  });

  test('a loop runs on into its beginning, a fade does not', async () => {
    const even = noise(3 * RATE, 0.2).map((x, i, a) => 0.5 * (x + (a[i - 1] ?? 0)));
    expect((await measure([even])).facts.seamless).toBe(true);
    expect((await measure([even.map((x, i) => x * (1 - i / even.length))])).facts.seamless).toBe(false);
    expect((await measure([hit(RATE, 3)])).facts.seamless).toBe(false);
  });

  test('force: a slam is more than a tap, a tap more than wind, at the same true peak', async () => {
    const slam = (await measure([hit(RATE, 1, 0.9)])).facts.force!;
    const tap = (await measure([hit(RATE, 1, 0.05)])).facts.force!;
    const wind = noise(3 * RATE, 0.03).map((x, i) => x * Math.sin((Math.PI * i) / (3 * RATE)) ** 2);
    expect(slam).toBeGreaterThan(tap + 15);
    expect(tap).toBeGreaterThan((await measure([wind.map((_, i) => 0.3 * Math.sin(i / 60) * wind[i])])).facts.force!);
    expect(slam).toBeLessThanOrEqual(100);
  });

  test('silence, one sample, and numbers that are none have facts too', async () => {
    const silent = (await measure([new Float32Array(RATE)])).facts;
    expect(silent).toMatchObject({ onsets: [], clipped: 0, dc: 0, headSilence: 1, seamless: false });
    expect([silent.loudness, silent.truePeak, silent.force, silent.pitch]).toEqual([
      undefined,
      undefined,
      undefined,
      undefined,
    ]);
    expect((await measure([Float32Array.of(0.5)])).facts.truePeak).toBeCloseTo(-6, 0);
    const broken = sine(440, RATE, RATE);
    broken[500] = NaN;
    broken[9000] = Infinity;
    const { facts } = await measure([broken]);
    expect(cents(facts.pitch!, 440)).toBeLessThan(20);
    expect(Number.isFinite(facts.loudness)).toBe(true);
  });
});

test('the blocks in which a sound comes in change nothing', async () => {
  const sound = [
    joined(hit(44100, 0.4), noise(9000, 0.1), hit(44100, 0.5, 0.5, 900)),
    joined(noise(9000, 0.2, 4), hit(44100, 0.9)),
  ];
  sound[0] = sound[0].slice(0, 40000);
  sound[1] = sound[1].slice(0, 40000);
  const whole = await measure(sound, 44100, [40000]);
  await fc.assert(
    fc.asyncProperty(fc.array(fc.integer({ min: 1, max: 9000 }), { minLength: 1, maxLength: 9 }), async (blocks) => {
      const parts = await measure(sound, 44100, blocks);
      expect(parts.facts.onsets).toEqual(whole.facts.onsets);
      expect(parts.hash).toBe(whole.hash);
      expect([...parts.print.words]).toEqual([...whole.print.words]);
      expect(parts.facts.loudness).toBeCloseTo(whole.facts.loudness!, 2);
      expect(parts.facts.truePeak).toBeCloseTo(whole.facts.truePeak!, 2);
      expect(parts.facts.pitch).toBe(whole.facts.pitch);
    }),
    // The steps from rate to rate add up to the very end of one of these blocks.
    { numRuns: 12, examples: [[[646, 1527, 9000, 1]]] },
  );
});

test('onsets are never closer than they may be, and rise', () => {
  fc.assert(
    fc.property(fc.array(fc.float({ min: 0, max: 20, noNaN: true }), { maxLength: 300 }), (strengths) => {
      const energies = strengths.flatMap((s) => Array.from({ length: 5 }, () => s * s));
      const onsets = findOnsets(Float32Array.from(strengths), { energies, span: 96 }, RATE);
      onsets.slice(1).forEach((o, i) => expect(o - onsets[i]).toBeGreaterThanOrEqual(0.05 * RATE));
    }),
  );
});
