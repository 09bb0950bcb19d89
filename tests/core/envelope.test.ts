import { envelopeFacts, FactsCollector } from '@core/audio';
import { Random } from '@core/synth';
import fc from 'fast-check';

// Courses of level whose facts are known from how they were made.

const SPAN = 0.002;
const spans = (seconds: number, level: (t: number) => number) =>
  Array.from({ length: Math.round(seconds / SPAN) }, (_, i) => level(i * SPAN) ** 2);

test('what dies away by 60 dB in a time has that decay, whatever its level', () => {
  fc.assert(
    fc.property(
      fc.double({ min: 0.1, max: 3, noNaN: true }),
      fc.double({ min: 0.01, max: 1, noNaN: true }),
      (t60, top) => {
        const { decay, attack, trend } = envelopeFacts(
          spans(2 * t60, (t) => top * 10 ** ((-3 * t) / t60)),
          SPAN,
          [0],
        );
        expect(decay! / t60).toBeGreaterThan(0.93);
        expect(decay! / t60).toBeLessThan(1.07);
        expect(attack).toBeLessThan(0.02);
        if (t60 > 0.35) expect(trend).toBeLessThan(-20);
      },
    ),
  );
});

test('clarity is the first 50 ms against the rest, and each event counts by itself', () => {
  // Energy falls by e in 2 tau: of the whole, 1 - exp(-0.1 / tau) lies in the first 50 ms.
  const tau = 0.2;
  const early = 1 - Math.exp(-0.1 / tau);
  const expected = 10 * Math.log10(early / (1 - early));
  const hit = (t: number) => Math.exp(-t / tau);
  const one = envelopeFacts(spans(1.5, hit), SPAN, [0]);
  const three = envelopeFacts(
    spans(4.5, (t) => hit(t % 1.5)),
    SPAN,
    [0, 750, 1500],
  );
  expect(one.clarity).toBeCloseTo(expected, 0);
  expect(three.clarity).toBeCloseTo(expected, 0);
  expect(three.decay! / one.decay!).toBeCloseTo(1, 1);
});

test.each([0.7, 2, 4.5, 12])('a level that pulses %d times a second has that rate, and its depth', (rate) => {
  const { pulse, pulseDepth } = envelopeFacts(
    spans(8, (t) => 0.2 * (1 + 0.6 * Math.sin(2 * Math.PI * rate * t))),
    SPAN,
    [],
  );
  expect(pulse! / rate).toBeGreaterThan(0.93);
  expect(pulse! / rate).toBeLessThan(1.07);
  expect(pulseDepth).toBeGreaterThan(0.4);
});

test.each<[string, (t: number) => number]>([
  ['steady noise', () => 0.1 + 0.02 * chance.next()],
  ['a swell', (t) => t / 4],
  ['one decay', (t) => Math.exp(-3 * t)],
])('%s does not pulse', (_, level) => expect(envelopeFacts(spans(4, level), SPAN, []).pulse).toBeUndefined());
const chance = new Random(5);

test('swells rise late and grow, beds are steady and never decay, silence has no facts', () => {
  const swell = envelopeFacts(
    spans(2, (t) => t / 2),
    SPAN,
    [],
  );
  expect(swell.attack).toBeGreaterThan(1);
  expect(swell.trend).toBeGreaterThan(6);
  const bed = envelopeFacts(
    spans(10, () => 0.1),
    SPAN,
    [],
  );
  expect(bed).toMatchObject({ decay: undefined, clarity: undefined });
  expect(bed.unrest).toBeCloseTo(0, 9);
  expect(bed.trend).toBeCloseTo(0, 6);
  expect(
    envelopeFacts(
      spans(1, () => 0),
      SPAN,
      [],
    ),
  ).toEqual({});
});

test('lows, width and density of a sound', async () => {
  const rate = 48_000;
  const measure = async (left: (i: number) => number, right = left) => {
    const planes = [left, right].map((f) => Float32Array.from({ length: 2 * rate }, (_, i) => f(i)));
    const collector = await FactsCollector.start(2 * rate, rate, 2);
    collector.push(planes);
    return collector.done().facts;
  };
  const tone = (hz: number) => (i: number) => 0.2 * Math.sin((2 * Math.PI * hz * i) / rate);
  expect((await measure(tone(100))).lows).toBeGreaterThan(97);
  expect((await measure(tone(2000))).lows).toBeLessThan(3);
  expect((await measure(tone(100))).width).toBe(-60);
  // Two different tones share half of their power.
  expect((await measure(tone(300), tone(500))).width).toBeCloseTo(0, 0);
  const hits = await measure((i) => (i % 24_000 < 2000 ? tone(900)(i) : 0));
  expect(hits.density).toBeCloseTo(2, 0);
});
