import { fadeForms, fadeGain, fullShape, plainShape, type Shape } from '@core/audio';
import { BLOCK, Engine, Material, renderExcerpt, type Audition } from '@core/engine';
import { interpolate, spanRead } from '@core/engine/interpolate';
import fc from 'fast-check';
import { apart, noise, rms, sine } from '../helpers/signals';

const RATE = 48000;
const shaped = (plane: Float32Array, shape: Partial<Shape>, rate = RATE, region = { start: 0, end: plane.length }) =>
  renderExcerpt(Material.of([plane], rate), { region, gain: 0, shape: { ...plainShape, ...shape } }, RATE)[0];
/** What the engine gives while one listens. */
function heard(planes: Float32Array[], audition: Audition, frames: number, rate = RATE): Float32Array[] {
  const engine = new Engine(RATE);
  engine.handle({ type: 'material', id: 1, rate, frames: planes[0].length, channels: planes.length });
  for (let c = 0; c * 16384 < planes[0].length; c++)
    engine.handle({ type: 'chunk', id: 1, index: c, planes: planes.map((p) => p.slice(c * 16384, (c + 1) * 16384)) });
  engine.handle({ type: 'play', id: 1, audition });
  const out = [new Float32Array(frames), new Float32Array(frames)];
  for (let at = 0; at < frames; at += BLOCK) {
    const [l, r] = out.map((p) => p.subarray(at, Math.min(frames, at + BLOCK)));
    engine.render(l, r);
  }
  return out;
}
const steepest = (plane: Float32Array) =>
  plane.reduce((most, x, i) => (i > 0 ? Math.max(most, Math.abs(x - plane[i - 1])) : 0), 0);

describe('ways through a sound', () => {
  test('backward is the sound from its last sample to its first, to the bit', () => {
    const plane = noise(40000);
    expect(apart(shaped(plane, { direction: 'backward' }), plane.slice().reverse())).toBe(0);
  });

  test('both ways is the same from either end, and each end is heard once', () => {
    const plane = noise(9001);
    const out = shaped(plane, { direction: 'both ways' });
    expect(out).toHaveLength(2 * 9001 - 1);
    expect(apart(out, out.slice().reverse())).toBe(0);
    expect(apart(out.subarray(0, 9001), plane)).toBe(0);
  });

  test('a loop both ways comes round where it began', () => {
    const plane = noise(500);
    const round = 2 * 500 - 2;
    const audition = {
      from: 0,
      region: { start: 0, end: 500 },
      loop: true,
      gain: 0,
      shape: { ...plainShape, direction: 'both ways' as const },
    };
    const [out] = heard([plane], audition, 4 * round);
    for (const n of [1, 2, 3]) expect(apart(out.subarray(n * round, (n + 1) * round), out.subarray(0, round))).toBe(0);
  });

  test('a loop has no step that the signal has not: one that meets itself is left alone, any other is joined', () => {
    const plane = sine(440, RATE, 24000);
    const period = RATE / 440;
    fc.assert(
      fc.property(
        fc.integer({ min: 1000, max: 9000 }),
        fc.double({ min: 5.2, max: 60, noNaN: true }),
        fc.boolean(),
        (start, periods, back) => {
          const region = { start, end: Math.round(start + periods * period) };
          const shape: Shape = { ...plainShape, direction: back ? 'backward' : 'forward' };
          const audition = { from: back ? region.end - 1 : start, region, loop: true, gain: 0, shape };
          const [out] = heard([plane], audition, 3 * (region.end - region.start));
          expect(steepest(out)).toBeLessThan(steepest(plane) * 1.6);
          expect(rms(out)).toBeGreaterThan(0.5 * rms(plane));
        },
      ),
      { numRuns: 60 },
    );
    const whole = sine(RATE / 100, RATE, 4800);
    const [out] = heard([whole], { from: 0, region: { start: 0, end: 4800 }, loop: true, gain: 0 }, 9600);
    expect(apart(out.subarray(4800), whole)).toBe(0);
  });

  test('what is listened to in blocks is what is written', () => {
    const shape = fc.record<Partial<Shape>>({
      gain: fc.integer({ min: -30, max: 6 }),
      speed: fc.constantFrom(1, 0.5, 1.37, 3),
      direction: fc.constantFrom('forward' as const, 'backward' as const, 'both ways' as const),
      fadeIn: fc.constantFrom(0, 0.01),
      fadeOut: fc.constantFrom(0, 0.02),
      fade: fc.constantFrom(...fadeForms),
      channels: fc.constantFrom('all' as const, 'mono' as const, 'side' as const, 'swapped' as const, 0, 1),
    });
    const planes = [noise(6000, 0.5, 3), noise(6000, 0.5, 4)];
    fc.assert(
      fc.property(
        shape,
        fc.integer({ min: 0, max: 2000 }),
        fc.constantFrom(44100, 48000, 96000),
        (part, start, rate) => {
          const s = fullShape(part);
          const region = { start, end: 5000 };
          const written = renderExcerpt(Material.of(planes, rate), { region, gain: 0, shape: s }, RATE, 2);
          const from = s.direction === 'backward' ? 4999 : start;
          const out = heard(planes, { from, region, loop: false, gain: 0, shape: s }, written[0].length + 256, rate);
          out.forEach((plane, c) => {
            expect(apart(plane.subarray(0, written[c].length), written[c])).toBe(0);
            expect(rms(plane.subarray(written[c].length + 1))).toBe(0);
          });
        },
      ),
      { numRuns: 60 },
    );
  });
});

test('what is told of it again while it plays changes no sample', () => {
  const plane = noise(20000);
  const audition: Audition = {
    from: 19999,
    region: { start: 0, end: 20000 },
    loop: false,
    gain: 0,
    shape: { ...plainShape, direction: 'backward', speed: 0.8409 },
  };
  const listen = (told: boolean) => {
    const engine = new Engine(RATE);
    engine.handle({ type: 'material', id: 1, rate: RATE, frames: 20000, channels: 1 });
    for (const index of [0, 1])
      engine.handle({ type: 'chunk', id: 1, index, planes: [plane.slice(index * 16384, (index + 1) * 16384)] });
    engine.handle({ type: 'play', id: 1, audition, playId: 3 });
    const out = new Float32Array(12800);
    for (let at = 0; at < out.length; at += BLOCK) {
      if (told) engine.handle({ type: 'adjust', audition: { ...audition } });
      engine.render(out.subarray(at, at + BLOCK), new Float32Array(BLOCK));
    }
    expect(engine.status().playId).toBe(3);
    return out;
  };
  expect(apart(listen(true), listen(false))).toBe(0);
});

describe('shapes', () => {
  test('speed is that of a tape: length and pitch go together', () => {
    const out = shaped(sine(1000, RATE, 24000), { speed: 2 });
    expect(out).toHaveLength(12000);
    expect(apart(out.subarray(200, 11800), sine(2000, RATE, 12000).subarray(200, 11800))).toBeLessThan(1e-4);
  });

  test('fades have their form and are mirrors of each other', () => {
    for (const form of fadeForms) {
      const out = shaped(new Float32Array(RATE).fill(0.5), { fadeIn: 0.25, fadeOut: 0.25, fade: form });
      for (const share of [0.1, 0.5, 0.9])
        expect(out[Math.round(share * 12000)]).toBeCloseTo(0.5 * fadeGain(form, share), 3);
      expect(apart(out.slice(RATE - 12000 + 1).reverse(), out.slice(1, 12000))).toBeLessThan(1e-3);
      expect([fadeGain(form, 0), fadeGain(form, 1)]).toEqual([0, expect.closeTo(1, 12)]);
    }
    for (let t = 0; t <= 1; t += 0.01)
      expect(fadeGain('equal power', t) ** 2 + fadeGain('equal power', 1 - t) ** 2).toBeCloseTo(1, 12);
  });

  test.each<[Shape['channels'], number[]]>([
    ['all', [0.5, -0.25]],
    ['swapped', [-0.25, 0.5]],
    ['mono', [0.125]],
    ['side', [0.375]],
    [0, [0.5]],
    [1, [-0.25]],
    [7, [-0.25]],
  ])('channels %s of left 0.5 and right -0.25 are %j', (channels, levels) => {
    const planes = [0.5, -0.25].map((v) => new Float32Array(100).fill(v));
    const out = renderExcerpt(
      Material.of(planes, RATE),
      { region: { start: 0, end: 100 }, gain: 0, shape: { ...plainShape, channels } },
      RATE,
    );
    expect(out.map((p) => p[50])).toEqual(levels);
  });

  test.each([0, 1, 2])('a sound of %i samples plays in every way and comes to an end', (frames) => {
    for (const direction of ['forward', 'backward', 'both ways'] as const)
      for (const speed of [0.5, 1, 2])
        for (const loop of [false, true]) {
          const audition = {
            from: 0,
            region: { start: 0, end: frames },
            loop,
            gain: 0,
            shape: { ...plainShape, direction, speed },
          };
          const [out] = heard([new Float32Array(frames).fill(0.5)], audition, 512);
          expect(out.every((x) => Number.isFinite(x) && Math.abs(x) <= 1)).toBe(true);
        }
  });
});

describe('resampling', () => {
  /** Level of what is left of a tone where it should be nothing but that tone, dB below it. */
  function rest(frequency: number, rate: number): number {
    const out = shaped(sine(frequency, rate, rate / 2), {}, rate).subarray(2000, 22000);
    // The tone's own part, by least squares.
    let [cc, cs, ss, xc, xs] = [0, 0, 0, 0, 0];
    const angle = (i: number) => (2 * Math.PI * frequency * (i + 2000)) / RATE;
    out.forEach((x, i) => {
      const [c, s] = [Math.cos(angle(i)), Math.sin(angle(i))];
      cc += c * c;
      cs += c * s;
      ss += s * s;
      xc += x * c;
      xs += x * s;
    });
    const det = cc * ss - cs * cs;
    const [a, b] = [(xc * ss - xs * cs) / det, (xs * cc - xc * cs) / det];
    const left = out.map((x, i) => x - a * Math.cos(angle(i)) - b * Math.sin(angle(i)));
    return 20 * Math.log10(rms(left) / rms(out));
  }
  test.each([
    [997, 44100],
    [9973, 44100],
    [17989, 44100],
    [997, 96000],
    [15013, 96000],
    [997, 32000],
  ])('a tone of %i Hz at %i Hz leaves less than -100 dB beside itself', (frequency, rate) => {
    expect(rest(frequency, rate)).toBeLessThan(-100);
  });

  test.each([25500, 30011, 40009])('%i Hz at 96 kHz is more than 100 dB down', (frequency) => {
    expect(
      20 *
        Math.log10(
          rms(shaped(sine(frequency, 96000, 48000), {}, 96000).subarray(2000, 22000)) /
            rms(sine(frequency, 96000, 48000)),
        ),
    ).toBeLessThan(-100);
  });

  test('the band up to 0.84 of the lower one is level to 0.1 dB', () => {
    for (const [rate, top] of [
      [44100, 18500],
      [96000, 20100],
    ])
      for (let f = 40; f <= top; f += 1741) {
        const out = shaped(sine(f, rate, rate / 2), {}, rate).subarray(2400, 21600);
        expect(
          Math.abs(20 * Math.log10(rms(out) / rms(sine(f, rate, rate / 2).subarray(2000, 2000 + 0.4 * rate)))),
        ).toBeLessThan(0.1);
      }
  });

  test('what is read lies within what was asked to be there', () => {
    fc.assert(
      fc.property(
        fc.oneof(fc.integer({ min: -50, max: 50 }), fc.double({ min: -50, max: 50, noNaN: true })),
        fc.constantFrom(1, -1, 0.5, -0.37, 2.2, -4),
        fc.integer({ min: 1, max: 128 }),
        (position, step, count) => {
          const { base, span } = spanRead(position, step, count);
          const out = new Float32Array(count);
          const asked: [number, number][] = [];
          const copy = (_c: number, from: number, n: number, into: Float32Array, at: number) => {
            asked.push([from, from + n]);
            into.fill(1, at, at + n);
          };
          interpolate({ channels: 1, copy }, position, step, [out], count);
          out.forEach((x) => expect(x).toBeCloseTo(1, 3));
          asked.forEach(([from, to]) => expect(from >= base && to <= base + span).toBe(true));
        },
      ),
    );
  });
});
