import { BLOCK, Engine, type Audition, type Command } from '@core/engine';
import { plainShape } from '@core/audio';
import { apart, clicks, rms, sine } from '../helpers/signals';

const RATE = 48000;

/** Renders blocks and joins them. */
function listen(engine: Engine, frames: number): Float32Array[] {
  const out = [new Float32Array(frames), new Float32Array(frames)];
  for (let at = 0; at < frames; at += BLOCK) {
    const [l, r] = out.map((p) => p.subarray(at, Math.min(frames, at + BLOCK)));
    engine.render(l, r);
  }
  return out;
}

function give(engine: Engine, id: number, planes: Float32Array[], rate = RATE): void {
  engine.handle({ type: 'material', id, rate, frames: planes[0].length, channels: planes.length });
  for (let c = 0; c * 16384 < planes[0].length; c++) {
    engine.handle({ type: 'chunk', id, index: c, planes: planes.map((p) => p.slice(c * 16384, (c + 1) * 16384)) });
  }
}

const whole = (frames: number, more: Partial<Audition> = {}): Audition => ({
  from: 0,
  region: { start: 0, end: frames },
  loop: false,
  gain: 0,
  ...more,
});
const play = (id: number, audition: Audition): Command => ({ type: 'play', id, audition });

describe('audition', () => {
  test('gives a file of its own rate back to the bit, first sample included', () => {
    const engine = new Engine(RATE);
    const planes = [sine(440, RATE, 20000), sine(700, RATE, 20000)];
    planes[0][0] = 0.77;
    give(engine, 1, planes);
    engine.handle(play(1, whole(20000)));
    const out = listen(engine, 20000);
    out.forEach((plane, c) => expect(apart(plane, planes[c])).toBe(0));
    expect(engine.status().audition).toBeUndefined();
  });

  test('waits for audio that is late, and then loses nothing', () => {
    const engine = new Engine(RATE);
    const plane = sine(440, RATE, 5000);
    engine.handle(play(7, whole(5000)));
    expect(rms(listen(engine, 512)[0])).toBe(0);
    engine.handle({ type: 'material', id: 7, rate: RATE, frames: 5000, channels: 1 });
    expect(rms(listen(engine, 512)[0])).toBe(0);
    expect(engine.status().audition?.waiting).toBe(true);
    engine.handle({ type: 'chunk', id: 7, index: 0, planes: [plane.slice()] });
    expect(apart(listen(engine, 5000)[0], plane)).toBe(0);
  });

  test('a sound whose audio is on its way is not over because the one before it was heard', () => {
    const engine = new Engine(RATE);
    give(engine, 1, [sine(440, RATE, 1000)]);
    engine.handle(play(1, whole(1000)));
    listen(engine, 2000);
    expect(engine.status()).toMatchObject({ audition: undefined, began: true });
    engine.handle(play(8, whole(1000)));
    expect(engine.status()).toMatchObject({ audition: undefined, began: false });
  });

  test.each([44100, 88200, 96000, 22050])('a tone recorded at %d Hz keeps pitch, level and length', (rate) => {
    const engine = new Engine(RATE);
    const frames = rate / 2;
    give(engine, 1, [sine(1000, rate, frames)], rate);
    engine.handle(play(1, whole(frames)));
    const [out] = listen(engine, RATE / 2);
    expect(
      apart(out.subarray(200, RATE / 2 - 200), sine(1000, RATE, RATE / 2).subarray(200, RATE / 2 - 200)),
    ).toBeLessThan(0.002);
  });

  test('what lies above the new band is taken out, not folded back', () => {
    const engine = new Engine(RATE);
    give(engine, 1, [sine(34000, 96000, 48000)], 96000);
    engine.handle(play(1, whole(48000)));
    expect(rms(listen(engine, 24000)[0].subarray(500, 23000))).toBeLessThan(0.005);
  });

  test('a loop comes round with its attack whole, any number of times', () => {
    const engine = new Engine(RATE);
    give(engine, 1, [clicks(5000, [1000])]);
    engine.handle(play(1, whole(5000, { from: 1000, region: { start: 1000, end: 3000 }, loop: true })));
    const [out] = listen(engine, 10000);
    for (const at of [0, 2000, 4000, 6000, 8000]) expect(out[at]).toBeCloseTo(0.9, 5);
  });

  test.each(['forward', 'backward'] as const)(
    '%s, it rises in 2 ms where it begins in mid-sound, and at once where silence lies before',
    (direction) => {
      const tone = sine(440, RATE, 6000, 0.5).map((x, i) => (i < 2000 || i >= 4000 ? 0 : x + 0.2));
      const begin = (start: number, end: number) => {
        const engine = new Engine(RATE);
        give(engine, 1, [tone]);
        const from = direction === 'forward' ? start : end - 1;
        engine.handle(play(1, whole(6000, { from, region: { start, end }, shape: { ...plainShape, direction } })));
        const [out] = listen(engine, 512);
        return { out, heard: (i: number) => tone[direction === 'forward' ? start + i : end - 1 - i] };
      };
      const attack = begin(2000, 4000);
      for (let i = 0; i < 512; i++) expect(attack.out[i]).toBe(attack.heard(i));
      const inside = begin(2500, 3500);
      expect(inside.out[0]).toBe(0);
      for (let i = 1; i < 96; i++) expect(Math.abs(inside.out[i])).toBeLessThan(Math.abs(inside.heard(i)) + 1e-9);
      for (let i = 96; i < 512; i++) expect(inside.out[i]).toBe(inside.heard(i));
    },
  );

  test('another sound takes over without a click', () => {
    const engine = new Engine(RATE);
    give(engine, 1, [new Float32Array(48000).fill(0.5)]);
    give(engine, 2, [new Float32Array(48000)]);
    engine.handle(play(1, whole(48000)));
    listen(engine, 1280);
    engine.handle(play(2, whole(48000)));
    const [out] = listen(engine, 1280);
    let jump = 0;
    for (let i = 1; i < out.length; i++) jump = Math.max(jump, Math.abs(out[i] - out[i - 1]));
    expect(out[0]).toBeGreaterThan(0.4);
    expect(jump).toBeLessThan(0.01);
    expect(rms(out.subarray(400))).toBe(0);
  });

  test('the meter reports the highest level since it was last read', () => {
    const engine = new Engine(RATE);
    give(engine, 1, [clicks(2000, [700], 0.6), clicks(2000, [900], 0.3)]);
    engine.handle(play(1, whole(2000)));
    listen(engine, 2048);
    expect(engine.status().peaks.map((p) => Math.round(p * 10))).toEqual([6, 3]);
    expect(engine.status().peaks).toEqual([0, 0]);
  });

  test('a capture starts with the first block that sounds', () => {
    const engine = new Engine(RATE);
    const plane = sine(300, RATE, 4000);
    give(engine, 1, [plane]);
    engine.handle({ type: 'capture', frames: 1024 });
    listen(engine, 1000 - (1000 % BLOCK));
    engine.handle(play(1, whole(4000)));
    listen(engine, 2048);
    expect(apart(engine.status().captured![0], plane.subarray(0, 1024))).toBe(0);
  });
});
