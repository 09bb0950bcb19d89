import { phases, toDb, TruePeakMeter } from '@core/audio';
import { airLoss, bent, effects, responses, staticGain } from '@core/effects';
import fc from 'fast-check';
import { run, through } from '../helpers/effects';
import { amplitude, apart, joined, noise, rms, sine } from '../helpers/signals';

// Effects that follow a level, bend, hold back or answer, against what is known of them.

const RATE = 48000;
const kinds = effects.map((e) => e.kind);
const magnitude = (x: ArrayLike<number>): number => Array.from(x).reduce((most, v) => Math.max(most, Math.abs(v)), 0);
const gainAt = (kind: string, values: Record<string, number>, freq: number, level = 0.1): number => {
  const tone = sine(freq, RATE, RATE, level);
  return toDb(rms(through(kind, values, tone).subarray(RATE / 2)) / rms(tone.subarray(RATE / 2)));
};

describe('whatever comes in', () => {
  /** A preset of each, and as each begins. */
  const settings = effects.flatMap((e) => [
    [e.kind, 'as it begins', {}] as const,
    ...(e.presets ?? []).map((p) => [e.kind, p.name, p.values] as const),
  ]);
  test.each(settings)(
    '%s, %s: silence stays silent, and what went in has died away after its tail',
    (kind, _, values) => {
      const quiet = new Float32Array(4096);
      expect(magnitude(through(kind, values, quiet))).toBe(0);
      const { tail, latency } = run(kind, values, [new Float32Array(1), new Float32Array(1)]);
      const hit = new Float32Array(Math.min(tail, 12 * RATE) + latency + 4096);
      hit[0] = 1;
      const { planes } = run(kind, values, [hit, hit]);
      if (tail <= 12 * RATE) expect(magnitude(planes[0].subarray(tail + latency + 1))).toBeLessThan(10 ** (-80 / 20));
      expect(magnitude(planes[0])).toBeGreaterThan(0);
    },
  );
  test.each(kinds)(
    '%s: at any rate, any values and any level it gives numbers, and the tiniest ones cost no more',
    (kind) => {
      const { params } = effects.find((e) => e.kind === kind)!;
      const values = fc.record(
        Object.fromEntries(params.map((p) => [p.key, fc.double({ min: p.least, max: p.most, noNaN: true })])),
      );
      const rates = fc.constantFrom(8000, 44_100, 48_000, 96_000, 192_000);
      const levels = fc.constantFrom(1e-30, 1e-8, 1, 30);
      fc.assert(
        fc.property(values, rates, levels, (all, rate, level) => {
          const made = run(
            kind,
            all as Record<string, number>,
            [noise(700, level, 3), sine(300, rate, 700, level)],
            rate,
          );
          for (const plane of made.planes) expect(plane.every(Number.isFinite)).toBe(true);
          expect(Number.isInteger(made.latency) && made.latency >= 0 && made.tail >= 0).toBe(true);
        }),
        { numRuns: 25 },
      );
    },
  );
});

describe('filter', () => {
  test.each([
    [0, 1000, 0, 1000, -3.01],
    [0, 1000, 0, 4000, -24.5],
    [0, 1000, 1, 4000, -49],
    [1, 1000, 0, 250, -24.1],
    [2, 1000, 0, 1000, 0],
    [3, 1000, 0, 100, -0.1],
  ])('kind %i at %i Hz, slope %i: at %i Hz %d dB', (kind, freq, slope, at, wanted) => {
    expect(Math.abs(gainAt('filter', { kind, freq, slope }, at) - wanted)).toBeLessThan(0.5);
  });
});

describe('compressor', () => {
  test.each([
    [-40, -20, 4, 0],
    [-10, -20, 4, 0],
    [-4, -24, 10, 12],
    [-20, -20, 3, 12],
    [-26, -20, 3, 12],
  ])(
    'a tone of %i dB above a threshold of %i dB, %i to 1, knee %i, settles on the static curve',
    (level, threshold, ratio, knee) => {
      const tone = new Float32Array(RATE).fill(10 ** (level / 20));
      const out = through('compressor', { threshold, ratio, knee, attack: 1, release: 50 }, tone);
      expect(toDb(out[RATE - 1])).toBeCloseTo(level + staticGain(level, threshold, ratio, knee), 2);
    },
  );
  test('the static curve: above the knee a line, below it nothing, and in between both meet without a step', () => {
    expect(staticGain(-10, -20, 2, 0)).toBe(-5);
    expect(staticGain(-26.01, -20, 2, 12)).toBe(0);
    fc.assert(
      fc.property(
        fc.double({ min: -60, max: 0, noNaN: true }),
        fc.double({ min: 0, max: 24, noNaN: true }),
        (t, knee) => {
          for (const edge of [t - knee / 2, t + knee / 2])
            expect(Math.abs(staticGain(edge - 1e-7, t, 4, knee) - staticGain(edge + 1e-7, t, 4, knee))).toBeLessThan(
              1e-5,
            );
        },
      ),
    );
  });
  test('a step is answered in the time of its attack, and let go in that of its release', () => {
    const step = joined(new Float32Array(RATE).fill(1), new Float32Array(RATE).fill(0.01));
    const values = { threshold: -20, ratio: 20, knee: 0, attack: 20, release: 100 };
    const out = through('compressor', values, step);
    const turned = (i: number) => toDb(out[i]) - toDb(step[i]);
    expect(turned(0.02 * RATE) / -19).toBeCloseTo(1 - Math.exp(-1), 1);
    expect(turned(RATE - 1)).toBeCloseTo(-19, 1);
    const after = turned(RATE + 0.1 * RATE) / -19;
    expect(after).toBeGreaterThan(Math.exp(-1) - 0.05);
    expect(after).toBeLessThan(Math.exp(-1) + 0.2);
  });
  test('it listens to another line', () => {
    const bed = new Float32Array(RATE).fill(0.5);
    const steps = joined(new Float32Array(RATE / 2).fill(1), new Float32Array(RATE / 2));
    const values = { threshold: -30, ratio: 10, knee: 0, attack: 1, release: 5 };
    const made = run('compressor', values, [bed, bed], RATE, [steps, steps]);
    expect(made.reduction).toBeLessThan(-26);
    expect(toDb(made.planes[0][RATE / 2 - 1] / 0.5)).toBeCloseTo(-27, 0);
    expect(made.planes[1][RATE - 1]).toBeCloseTo(0.5, 3);
  });
});

describe('limiter', () => {
  const peakOf = (planes: readonly Float32Array[]): number => {
    const meter = new TruePeakMeter(RATE, 2);
    meter.push(planes);
    return meter.done();
  };
  /** Noise, clicks and tones of any level, some of which lie between samples. */
  const signal = (seed: number): Float32Array => {
    const level = [0.5, 2, 8, 40][seed % 4];
    const out = noise(1600, level, seed + 1);
    if (seed % 3 === 0) for (let i = 0; i < out.length; i++) out[i] *= i % (17 + (seed % 61)) === 0 ? 3 : 0.05;
    if (seed % 5 === 0)
      for (let i = 0; i < out.length; i++) out[i] += level * Math.sin((Math.PI / 2) * i + Math.PI / 4);
    return out;
  };
  test('never lets a true peak above its ceiling, hard or soft, however far it looks ahead', () => {
    let worst = -Infinity;
    for (let seed = 0; seed < 300; seed++) {
      const ceiling = -(seed % 7);
      const values = {
        ceiling,
        character: seed % 2,
        ahead: [0, 0.5, 3, 10][seed % 4],
        release: [5, 80, 2000][seed % 3],
      };
      const quiet = new Float32Array(900);
      const { planes } = run('limiter', values, [joined(signal(seed), quiet), joined(signal(seed + 7), quiet)]);
      worst = Math.max(worst, peakOf(planes) - ceiling);
    }
    expect(worst).toBeLessThanOrEqual(0);
  });
  test('what is softer comes out as it came in, to the sample', () => {
    const soft = noise(RATE, 0.2, 5);
    expect(apart(through('limiter', { ceiling: -1 }, soft), soft)).toBe(0);
  });
  test('soft turns down from three decibels below; hard only at the ceiling', () => {
    const tone = sine(100, RATE, RATE, 10 ** (-8 / 20));
    const top = (values: Record<string, number>) =>
      toDb(magnitude(through('limiter', values, tone).subarray(RATE / 2)));
    expect(top({ ceiling: -6, character: 0 })).toBeCloseTo(-8, 2);
    expect(top({ ceiling: -6, character: 1 })).toBeCloseTo(-8 + staticGain(-8, -6, Infinity, 6), 1);
  });
  test('the interpolator that it finds peaks with is exact for a tone', () => {
    const tone = sine(5000, RATE, 200, 1);
    phases(4).forEach((filter, p) => {
      const sum = filter.reduce((all, h, k) => all + h * tone[80 + k], 0);
      expect(sum).toBeCloseTo(Math.sin((2 * Math.PI * 5000 * (80 + 11 + (p + 1) / 4)) / RATE), 3);
    });
  });
});

describe('gate', () => {
  test('shuts by its range below the threshold, and opens at once above it', () => {
    const steps = joined(
      new Float32Array(RATE).fill(0.001),
      new Float32Array(RATE).fill(0.5),
      new Float32Array(RATE).fill(0.001),
    );
    const out = through('gate', { threshold: -40, range: 30, hold: 50, attack: 1, release: 20 }, steps);
    expect(toDb(out[RATE - 1] / 0.001)).toBeCloseTo(-30, 1);
    expect(toDb(out[RATE + 480] / 0.5)).toBeGreaterThan(-0.1);
    // Held for 50 ms, then shut.
    expect(toDb(out[2 * RATE + 2000] / 0.001)).toBeCloseTo(0, 1);
    expect(toDb(out[3 * RATE - 1] / 0.001)).toBeCloseTo(-30, 1);
  });
});

describe('saturation', () => {
  test('what is soft comes out as it came in, and at its time; nothing gets above full scale', () => {
    const soft = sine(700, RATE, 4800, 0.001);
    // Where it begins and ends the filters ring.
    const inside = (x: Float32Array) => x.subarray(300, 4500);
    for (const mix of [100, 50])
      expect(apart(inside(through('saturation', { drive: 0, mix }, soft)), inside(soft))).toBeLessThan(2e-6);
    expect(magnitude(through('saturation', { drive: 30 }, sine(100, RATE, 4800, 1)))).toBeLessThan(1.05);
  });
  test('it is odd, rises everywhere, and meets full scale flat', () => {
    for (let x = -1.2; x < 1.2; x += 0.01) {
      expect(bent(-x)).toBeCloseTo(-bent(x), 12);
      expect(bent(x + 0.01)).toBeGreaterThanOrEqual(bent(x));
    }
    expect((bent(1) - bent(1 - 1e-3)) / 1e-3).toBeLessThan(1e-5);
  });
  test.each([
    [997, 12],
    [997, 24],
    [4871, 12],
    [9973, 6],
  ])('driven with a tone of %i Hz by %i dB, nothing that is no overtone of it is above -90 dB', (freq, drive) => {
    const tone = sine(freq, RATE, 65_536 + 4800, 1);
    const out = through('saturation', { drive }, tone).subarray(4800);
    // What folds back at the rate lies where overtones above half of it would be.
    let most = 0;
    for (let n = 3; n < 400; n += 2) {
      const over = n * freq;
      if (over < RATE / 2) continue;
      const folded = Math.abs(over - RATE * Math.round(over / RATE));
      if (
        folded > 20_000 ||
        folded < 20 ||
        Array.from({ length: 30 }, (_, k) => (2 * k + 1) * freq).some((h) => Math.abs(h - folded) < 40)
      )
        continue;
      most = Math.max(most, amplitude(out, folded));
    }
    expect(toDb(most)).toBeLessThan(-90);
    expect(toDb(amplitude(out, freq))).toBeGreaterThan(-3);
  });
});

describe('distance', () => {
  // ISO 9613-2, table 2: dB a kilometre.
  test.each([
    [10, 70, [0.1, 0.4, 1.0, 1.9, 3.7, 9.7, 32.8, 117]],
    [20, 70, [0.1, 0.3, 1.1, 2.8, 5.0, 9.0, 22.9, 76.6]],
    [15, 20, [0.3, 0.6, 1.2, 2.7, 8.2, 28.2, 88.8, 202]],
  ])('at %i °C and %i %% the air takes what the standard says', (celsius, humidity, table) => {
    table.forEach((wanted, i) => {
      const loss = 1000 * airLoss(62.5 * 2 ** i * (1 + 0.024 / 4), celsius, humidity);
      expect(Math.abs(loss - wanted)).toBeLessThan(0.06 + 0.03 * wanted);
    });
  });
  test('its filter takes it, too', () => {
    const alone = { ground: 0, early: -60, late: -60, celsius: 10, humidity: 70 };
    for (const [far, freq] of [
      [100, 1000],
      [100, 8000],
      [500, 4000],
      [1000, 2000],
    ])
      expect(Math.abs(gainAt('distance', { ...alone, far }, freq) + far * airLoss(freq, 10, 70))).toBeLessThan(0.7);
  });
  test('twice as far is six decibels softer, where the level is taken along', () => {
    const alone = { ground: 0, early: -60, late: -60, air: 0, level: 100 };
    expect(gainAt('distance', { ...alone, far: 20 }, 500) - gainAt('distance', { ...alone, far: 40 }, 500)).toBeCloseTo(
      6.02,
      1,
    );
  });
});

describe('reverb', () => {
  /** The decay of a band from -5 to -35 dB, by backward integration (M. R. Schroeder 1965). Seconds for 60 dB */
  function decayOf(plane: Float32Array): number {
    const energy = new Float64Array(plane.length + 1);
    for (let i = plane.length - 1; i >= 0; i--) energy[i] = energy[i + 1] + plane[i] ** 2;
    const at = (dB: number) => energy.findIndex((e) => e < energy[0] * 10 ** (dB / 10));
    return ((at(-35) - at(-5)) / RATE) * 2;
  }
  const eq = (kind: (typeof responses)[number]) => responses.indexOf(kind) + 1;
  test.each([
    [0.4, 1, 1, 1000],
    [1.5, 1, 1, 1000],
    [4, 1, 1, 1000],
    [1.5, 2, 0.5, 50],
    [1.5, 2, 0.5, 12_000],
  ])('a decay of %d s, times %d and %d at the ends, is that at %i Hz', (decay, low, high, freq) => {
    const asked = decay * (freq < 200 ? low : freq > 4000 ? high : 1);
    const hit = new Float32Array(Math.round((asked * 1.6 + 0.4) * RATE));
    hit[0] = 1;
    const wet = through('reverb', { decay, low, high, mix: 100, early: -60, late: 0 }, hit);
    const band = {
      kind1: eq('low cut'),
      freq1: freq / 1.4,
      slope1: 1,
      kind2: eq('high cut'),
      freq2: freq * 1.4,
      slope2: 1,
    };
    expect(Math.abs(decayOf(through('equaliser', band, wet)) / asked - 1)).toBeLessThan(0.05);
  });
  test('its sides are apart, and dense: no sample of the tail stands out', () => {
    const hit = new Float32Array(RATE);
    hit[0] = 1;
    const { planes } = run('reverb', { mix: 100, early: -60, late: 0 }, [hit, hit]);
    const part = planes.map((p) => p.subarray(RATE / 4, RATE / 2));
    const together = part[0].reduce((sum, x, i) => sum + x * part[1][i], 0) / part[0].length;
    expect(Math.abs(together) / (rms(part[0]) * rms(part[1]))).toBeLessThan(0.2);
    expect(magnitude(part[0].subarray(0, 4800)) / rms(part[0].subarray(0, 4800))).toBeLessThan(6);
  });
});

describe('delay and width', () => {
  test('a hit is heard again after its time, softer each time, from one side and the other', () => {
    const hit = new Float32Array(RATE);
    hit[0] = 1;
    const values = { time: 100, feedback: 50, mix: 50, lowCut: 10, highCut: 20_000, sides: 1 };
    const { planes } = run('delay', values, [hit, hit]);
    const at = (c: number, n: number) => rms(planes[c].subarray(n * 4800 - 50, n * 4800 + 200));
    expect(at(0, 1)).toBeGreaterThan(20 * at(1, 1));
    expect(at(1, 2)).toBeGreaterThan(20 * at(0, 2));
    expect(at(1, 2) / at(0, 1)).toBeCloseTo(0.5, 1);
    expect(planes[0][0]).toBe(0.5);
  });
  test('at no width both sides are the middle; twice as wide the difference is twice as great', () => {
    const [a, b] = [noise(4800, 0.5, 1), noise(4800, 0.5, 2)];
    const mono = run('width', { width: 0 }, [a, b]).planes;
    expect(apart(mono[0], mono[1])).toBe(0);
    const wide = run('width', { width: 200 }, [a, b]).planes;
    expect(
      apart(
        wide[0].map((x, i) => x - wide[1][i]),
        a.map((x, i) => 2 * (x - b[i])),
      ),
    ).toBeLessThan(1e-6);
    expect(
      apart(
        wide[0].map((x, i) => x + wide[1][i]),
        a.map((x, i) => x + b[i]),
      ),
    ).toBeLessThan(1e-6);
    const low = [sine(30, RATE, RATE), sine(30, RATE, RATE).map((x) => -x)] as [Float32Array, Float32Array];
    expect(rms(run('width', { below: 300 }, low).planes[0].subarray(RATE / 2))).toBeLessThan(0.05);
  });
});
