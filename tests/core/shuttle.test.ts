import { BLOCK, emptyPlan, Engine } from '@core/engine';
import { clip, give, planWith, play, RATE, set } from '../helpers/scene-graph';
import { apart, rms, sine } from '../helpers/signals';

describe('a scene that is run through at another speed', () => {
  const tone = sine(300, RATE, 96_000);
  const region = { start: 0, end: 96_000 };
  const whole = planWith({ 1: clip({ at: 300, region }) });
  /** What is heard of the tone, once its beginning has risen. */
  function shuttled(
    speed: number,
    position: number,
    count: number,
    plan = whole,
    loop?: { start: number; end: number },
  ) {
    const engine = new Engine(RATE);
    give(engine, 1, [tone]);
    set(engine, emptyPlan, plan);
    engine.handle({ type: 'transport', playing: true, position, speed, loop: loop ?? null });
    const [out] = play(engine, count);
    return { out, engine };
  }
  const crossings = (plane: Float32Array) =>
    plane.reduce((n, v, i) => n + Number(i > 0 && plane[i - 1] < 0 && v >= 0), 0);

  test('backward gives the very samples in reverse, across the seams of what is held', () => {
    const { out, engine } = shuttled(-1, 60_000, 9600);
    const wanted = Float32Array.from({ length: 9600 }, (_, i) => tone[60_000 - i]);
    expect(apart(out, wanted)).toBeLessThan(1e-6);
    expect(engine.status().scene).toMatchObject({ playing: true, position: 60_000 - 9600, speed: -1 });
  });

  test.each([0.25, 0.5, 2, 8, -0.5, -2, -8])('at %d times, position and pitch go with it', (speed) => {
    const count = 4800;
    const { out, engine } = shuttled(speed, 48_000, count);
    expect(engine.status().scene.position).toBe(48_000 + count * speed);
    expect(Math.abs(crossings(out) - (300 * Math.abs(speed) * count) / RATE)).toBeLessThanOrEqual(1);
    expect(rms(out)).toBeCloseTo(rms(tone), 1);
  });

  test('it goes round in either direction, and stops where the scene begins', () => {
    const loop = { start: 10_000, end: 20_000 };
    expect(shuttled(2, 19_000, 1024, whole, loop).engine.status().scene.position).toBeLessThan(12_000);
    expect(shuttled(-2, 11_000, 1024, whole, loop).engine.status().scene.position).toBeGreaterThan(18_000);
    const { out, engine } = shuttled(-4, 4000, 4096);
    expect(engine.status().scene).toMatchObject({ playing: false, position: 0, speed: 1 });
    expect(rms(out.subarray(2048))).toBe(0);
  });

  test('turning from one speed to another, to a stop and back never clicks', () => {
    const engine = new Engine(RATE);
    give(engine, 1, [tone]);
    set(engine, emptyPlan, whole);
    const parts: Float32Array[] = [];
    for (const [playing, speed] of [
      [true, 1],
      [true, 2],
      [true, -1],
      [true, -4],
      [true, 1],
      [false, 1],
      [true, -2],
    ] as const) {
      engine.handle({ type: 'transport', playing, speed, position: parts.length === 0 ? 50_000 : undefined });
      parts.push(play(engine, 1280)[0]);
    }
    const all = Float32Array.from(parts.flatMap((p) => [...p]));
    // No step is larger than those of the tone itself at its fastest, and of a block that rises over it.
    const steepest = (2 * Math.PI * 300 * 4) / RATE + 2 / BLOCK;
    let largest = 0;
    for (let i = 1; i < all.length; i++) largest = Math.max(largest, Math.abs(all[i] - all[i - 1]));
    expect(largest).toBeLessThan(steepest * 0.6);
  });

  test('stopped and begun again, the scene plays from a whole sample at its own speed', () => {
    const { engine } = shuttled(0.25, 48_000, 130);
    engine.handle({ type: 'transport', playing: false });
    play(engine, 256);
    engine.handle({ type: 'transport', playing: true });
    const from = engine.status().scene.position;
    const [out] = play(engine, 1024);
    expect(apart(out.subarray(BLOCK), tone.subarray(from + BLOCK, from + 1024))).toBeLessThan(1e-6);
  });
});
