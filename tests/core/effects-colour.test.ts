import { toDb } from '@core/audio';
import { BLOCK, effectOf, paramsFor } from '@core/effects';
import { run, through } from '../helpers/effects';
import { amplitude, apart, joined, noise, rms, sine } from '../helpers/signals';

// Effects that make something else of a sound, against their closed forms.

const RATE = 48_000;
const level = (x: Float32Array, freq: number) => toDb(amplitude(x, freq, RATE));

describe('ring modulation', () => {
  test('a tone becomes two, as far above and below it, each half as loud; beside it, it stays', () => {
    const tone = sine(1000, RATE, RATE, 1);
    const made = through('ring', { freq: 180 }, tone);
    expect(level(made, 820)).toBeCloseTo(-6.02, 1);
    expect(level(made, 1180)).toBeCloseTo(-6.02, 1);
    expect(level(made, 1000)).toBeLessThan(-70);
    const beside = through('ring', { freq: 180, how: 1 }, tone);
    expect([1000, 820, 1180].map((f) => Math.round(10 * level(beside, f)) / 10)).toEqual([-6, -12, -12]);
  });
  test('what lies above half the rate is not folded back', () => {
    const made = through('ring', { freq: 9000 }, sine(18_000, RATE, RATE, 1));
    expect(level(made, 9000)).toBeCloseTo(-6.02, 1);
    // 27 kHz would come back as 21 kHz.
    expect(level(made, 21_000)).toBeLessThan(-50);
  });
  test('wherever one begins, the tone stands as if it had run all along', () => {
    const dry = noise(4096, 0.3, 5);
    const from = (begin: number) => {
      const effect = effectOf('ring')!;
      const node = effect.make(RATE, paramsFor(effect, { freq: 777.7 }, RATE));
      const out = dry.slice();
      for (let at = begin; at < out.length; at += BLOCK) {
        const part = out.subarray(at, at + BLOCK);
        const other = part.slice();
        node.process([[part, other]], [part, other], at, BLOCK);
      }
      return out;
    };
    expect(apart(from(2048).subarray(2048 + 80), from(0).subarray(2048 + 80))).toBeLessThan(1e-6);
  });
});

describe('bits and rate', () => {
  test.each([4, 8, 12])('%i bits leave a tone of full scale 6.02 dB of distance each, and 1.76 more', (bits) => {
    const tone = sine(997, RATE, RATE, 1);
    const made = through('reduction', { bits, rate: 192_000 }, tone);
    const distance = toDb(rms(tone)) - toDb(rms(made.map((x, i) => x - tone[i])));
    expect(Math.abs(distance - (6.02 * bits + 1.76))).toBeLessThan(1);
    const off = made.reduce(
      (most, x) => Math.max(most, Math.abs(x * 2 ** (bits - 1) - Math.round(x * 2 ** (bits - 1)))),
      0,
    );
    expect(off).toBeLessThan(1e-6);
  });
  test('a quarter of the rate holds each fourth sample; with as many as there are nothing changes', () => {
    const dry = noise(4000, 0.5, 4);
    expect(through('reduction', { bits: 24, rate: 12_000 }, dry)).toEqual(
      dry.map((_, i) => dry[4 * Math.floor(i / 4)]),
    );
    expect(through('reduction', { bits: 24, rate: 192_000 }, dry)).toEqual(dry);
  });
  test('a tone above half of it comes back below, unless that is taken out', () => {
    const tone = sine(9000, RATE, RATE, 1);
    expect(level(through('reduction', { bits: 24, rate: 12_000 }, tone), 3000)).toBeGreaterThan(-3);
    expect(level(through('reduction', { bits: 24, rate: 12_000, aliases: 1 }, tone), 3000)).toBeLessThan(-50);
    const low = sine(1000, RATE, RATE, 1);
    const kept = through('reduction', { bits: 24, rate: 12_000, aliases: 1 }, low);
    expect(level(kept, 1000)).toBeGreaterThan(-0.5);
    // Its mirrors about the lower rate as well.
    expect(level(kept, 11_000)).toBeLessThan(-60);
  });
});

describe('chorus', () => {
  const still = { voices: 1, depth: 0, spread: 0, speed: 0.05 };
  test('standing still it is a comb: tones that come half a wave late go, those of a whole one stay', () => {
    const gain = (freq: number, late: number) => {
      const tone = sine(freq, RATE, RATE, 0.5);
      return toDb(rms(through('chorus', { ...still, late, mix: 50 }, tone).subarray(9600)) / rms(tone));
    };
    expect(gain(500, 1)).toBeLessThan(-60);
    expect(gain(1000, 1)).toBeCloseTo(0, 2);
    for (const [freq, late] of [
      [317, 2.5],
      [1234, 7.13],
    ]) {
      const wanted = toDb(Math.abs(Math.cos(Math.PI * freq * (late / 1000))));
      expect(Math.abs(gain(freq, late) - wanted)).toBeLessThan(0.1);
    }
  });
  test('it goes out of tune by as much as its delay changes', () => {
    const tone = sine(1000, RATE, 2 * RATE, 0.5);
    const made = through('chorus', { voices: 1, spread: 0, speed: 1, depth: 5, late: 12, mix: 100 }, tone);
    const crossings: number[] = [];
    for (let i = 4800; i < made.length; i++)
      if (made[i - 1] < 0 && made[i] >= 0) crossings.push(i - made[i] / (made[i] - made[i - 1]));
    const freqs = crossings.slice(1).map((x, i) => RATE / (x - crossings[i]));
    // The slope of the delay, 2 pi of speed times depth, is what is gained or lost of the tone.
    const swing = 2 * Math.PI * 0.005;
    expect(Math.max(...freqs) / 1000).toBeCloseTo(1 + swing, 2);
    expect(Math.min(...freqs) / 1000).toBeCloseTo(1 - swing, 2);
  });
  test('many are as loud as one', () => {
    const dry = noise(4 * RATE, 0.3, 2);
    for (const voices of [1, 3, 6]) {
      const made = through('chorus', { voices, spread: 0, mix: 100 }, dry);
      expect(Math.abs(toDb(rms(made.subarray(RATE)) / rms(dry)))).toBeLessThan(1.5);
    }
  });
});

describe('transients', () => {
  test('what is steady stays as it is, however it is set', () => {
    for (const freq of [200, 1000, 7000])
      for (const [attack, sustain] of [
        [100, 0],
        [-100, 0],
        [0, 100],
        [0, -100],
      ]) {
        const tone = sine(freq, RATE, RATE, 0.3);
        const made = run('transients', { attack, sustain }, [tone, tone]).planes[0].subarray(RATE / 2);
        expect(Math.abs(toDb(rms(made) / rms(tone)))).toBeLessThan(0.5);
      }
  });
  test('a rise is made greater by as much as it has not lasted yet, and all of it whatever its level', () => {
    const step = joined(new Float32Array(RATE).fill(0.001), new Float32Array(RATE).fill(0.1));
    const made = through('transients', { attack: 50, length: 50 }, step);
    const gained = (ms: number) => toDb(made[RATE + (ms * RATE) / 1000] / 0.1);
    expect(gained(1)).toBeCloseTo(12, 0);
    // After its length 40 dB times 1 / e are left of it.
    expect(gained(50)).toBeCloseTo(0.5 * 40 * Math.exp(-1), 0);
    expect(gained(600)).toBeCloseTo(0, 1);
    const softer = through(
      'transients',
      { attack: 50, length: 50 },
      step.map((x) => x / 8),
    );
    expect(
      apart(
        softer.map((x) => x * 8),
        made,
      ),
    ).toBeLessThan(1e-5);
  });
  test('what rings on gets shorter or longer', () => {
    const ring = sine(500, RATE, RATE).map((x, i) => x * Math.exp(-i / 6000));
    const tail = (sustain: number) => toDb(rms(through('transients', { attack: 0, sustain }, ring).subarray(RATE / 2)));
    expect(tail(-80)).toBeLessThan(tail(0) - 6);
    expect(tail(80)).toBeGreaterThan(tail(0) + 6);
  });
});

describe('vocoder', () => {
  const speak = (voice: Float32Array, carrier: Float32Array, values = {}) =>
    run('vocoder', values, [carrier, carrier], RATE, [voice, voice]).planes[0].subarray(RATE / 2);
  test('only the bands that the other line has are heard, as loud as it has them', () => {
    const carrier = noise(RATE, 0.3, 9);
    expect(rms(speak(new Float32Array(RATE), carrier))).toBe(0);
    const [low, high] = [sine(300, RATE, RATE, 0.2), sine(4000, RATE, RATE, 0.2)];
    /** How much more of a signal lies about one frequency than about another, dB. */
    const more = (x: Float32Array, here: number, there: number) => {
      const about = (freq: number) =>
        Math.sqrt([-30, -15, 0, 15, 30].reduce((sum, off) => sum + amplitude(x, freq + off, RATE) ** 2, 0));
      return toDb(about(here) / about(there));
    };
    expect(more(speak(low, carrier), 300, 4000)).toBeGreaterThan(30);
    expect(more(speak(high, carrier), 4000, 300)).toBeGreaterThan(30);
    const soft = speak(
      low.map((x) => x / 2),
      carrier,
    );
    expect(toDb(rms(speak(low, carrier)) / rms(soft))).toBeCloseTo(6.02, 1);
  });
  test('neighbouring bands meet without a hole: a tone that sweeps speaks as loud all along', () => {
    const voice = noise(RATE, 0.2, 3);
    const levels = [200, 230, 265, 300, 345, 400, 460, 530, 610, 700].map((freq) =>
      toDb(rms(speak(voice, sine(freq, RATE, RATE, 0.3), { bands: 18 }))),
    );
    expect(Math.max(...levels) - Math.min(...levels)).toBeLessThan(8);
  });
});
