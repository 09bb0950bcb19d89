import { energyOf, MOTION_DEFAULT, MOTION_SIZE, MotionFinder, type MotionEvent } from '@core/scene';
import { Random } from '@core/synth';
import fc from 'fast-check';

// Movement in films that are drawn here, so that the frame of everything that happens is known.

const { width, height } = MOTION_SIZE;
const chance = new Random(3);
/** A wall of stones, each a little lighter or darker. */
const wall = Float32Array.from({ length: width * height }, (_, i) => {
  const [x, y] = [i % width, Math.floor(i / width)];
  return 70 + 40 * Math.sin(Math.floor(x / 9) * 12.9 + Math.floor(y / 6) * 4.1);
});

interface Body {
  /** Where its middle is at a frame. Pixels */
  at(frame: number): { x: number; y: number };
  size?: number;
}
/** @param light how bright a frame is; @param grain grey levels */
function film(
  frames: number,
  bodies: readonly Body[],
  { light = (_: number): number => 1, grain = 2 } = {},
): Uint8Array[] {
  return Array.from({ length: frames }, (_, f) => {
    const out = Float32Array.from(wall);
    for (const { at, size = 9 } of bodies) {
      const { x, y } = at(f);
      for (let j = Math.max(0, Math.round(y - size)); j < Math.min(height, y + size); j++)
        for (let i = Math.max(0, Math.round(x - size)); i < Math.min(width, x + size); i++)
          out[j * width + i] = 160 + 60 * Math.sin((i - x) * 1.3) * Math.sin((j - y) * 1.1);
    }
    return Uint8Array.from(out, (v) => Math.max(0, Math.min(255, v * light(f) + (chance.next() - 0.5) * grain)));
  });
}
function found(frames: readonly Uint8Array[], fps = 24) {
  const finder = new MotionFinder(fps);
  frames.forEach((f, i) => finder.push(i, f));
  return finder.finish();
}
const offered = (frames: readonly Uint8Array[], fps?: number): MotionEvent[] =>
  found(frames, fps).events.filter((e) => e.strength >= MOTION_DEFAULT);
/** To and fro between two places: it turns every `half` frames. */
const swinging = (half: number): Body => ({
  at: (f) => ({ x: 96 + 16 * Math.cos((Math.PI * f) / half), y: 60 }),
});

test('what sets out, jumps or comes to rest is told on its frame, as what it is, and where', () => {
  const gap = fc.integer({ min: 18, max: 40 });
  const path = fc.record({ gaps: fc.array(gap, { minLength: 2, maxLength: 4 }), y: fc.integer({ min: 15, max: 90 }) });
  fc.assert(
    fc.property(path, fc.boolean(), ({ gaps, y }, jumps) => {
      // It stands and goes, or stands and jumps, by turns.
      const when = gaps.reduce<number[]>((all, g) => [...all, (all.at(-1) ?? 12) + g], []);
      const length = when.at(-1)! + 20;
      let x = 20;
      const places = Array.from({ length }, (_, f) => {
        if (jumps ? when.includes(f) : when.filter((w) => w <= f).length % 2 === 1) x += jumps ? 22 : 1.6;
        return x;
      });
      const events = offered(film(length, [{ at: (f) => ({ x: places[f], y }) }]));
      expect(events).toHaveLength(when.length);
      events.forEach((e, i) => expect(Math.abs(e.frame - when[i])).toBeLessThanOrEqual(1));
      events.forEach((e, i) => {
        expect(e.kind).toBe(jumps || i % 2 === 0 ? 'peak' : 'stop');
        expect(Math.abs(e.y - y / height)).toBeLessThan(0.2);
        expect(Math.abs(e.x - places[e.frame] / width)).toBeLessThan(0.25);
      });
    }),
    { numRuns: 8 },
  );
});

test('what swings is told where it turns, as a hand that meets something', () => {
  const events = offered(film(140, [swinging(24)]));
  const turns = [24, 48, 72, 96, 120];
  for (const turn of turns) expect(events.some((e) => Math.abs(e.frame - turn) <= 2)).toBe(true);
  expect(events.length).toBeLessThan(2 * turns.length);
});

test('steady movement, flickering light, grain, pictures that a codec renews and other shots are no events', () => {
  const going: Body = { at: (f) => ({ x: 10 + f, y: 50 }) };
  expect(offered(film(120, [going]).slice(2))).toEqual([]);
  expect(offered(film(120, [], { light: (f) => 1 + 0.1 * Math.sin(f * 0.9) }))).toEqual([]);
  expect(offered(film(120, [], { grain: 14 }))).toEqual([]);
  const renewed = film(120, []).map((frame, i) => (i % 12 < 6 ? frame : frame.map((v) => v + 3)));
  expect(offered(renewed)).toEqual([]);
  const shots = [...film(40, []), ...film(40, []).map((f) => f.map((v) => 255 - v)), ...film(40, [])];
  expect(offered(shots)).toEqual([]);
  for (const few of [[], shots.slice(0, 1), shots.slice(0, 9)]) expect(found(few).events).toEqual([]);
});

test('of cuts and of what dissolves nothing is told as movement, and what happens beside them is', () => {
  const jump: Body = { at: (f) => ({ x: f < 50 ? 40 : 120, y: 50 }) };
  const frames = film(100, [jump]);
  const told = (frame: number, kind: 'cut' | 'dissolve') => {
    const finder = new MotionFinder(24);
    frames.forEach((f, i) => finder.push(i, f));
    return finder.finish([{ frame, kind, strength: 1 }]).events.filter((e) => e.strength >= MOTION_DEFAULT).length;
  };
  expect([told(49, 'cut'), told(53, 'cut')]).toEqual([0, 1]);
  expect([told(57, 'dissolve'), told(61, 'dissolve')]).toEqual([0, 1]);
});

test('the curve follows how much moves, is finite for any picture, and stays short for a long one', () => {
  const { curve, step } = found(film(100, [{ at: (f) => ({ x: f < 50 ? 20 : 20 + (f - 50) * 3, y: 50 }) }]));
  const energy = energyOf({ events: [], curve, step });
  const mean = (from: number, to: number) => energy.slice(from, to).reduce((a, b) => a + b, 0) / (to - from);
  expect([step, energy.length]).toEqual([1, 100]);
  expect(mean(52, 100)).toBeGreaterThan(1.3 * mean(2, 48));
  const black = new Uint8Array(width * height);
  const long = new MotionFinder(24);
  for (const frame of [0, 1, 20_000, 1e12]) long.push(frame, black);
  const of = long.finish();
  expect([of.step, energyOf(of).length, Math.max(...energyOf(of))]).toEqual([2, 10_001, 0]);
});

test('at fifty and more frames a second the same is found', () => {
  const jump = (at: number): Body => ({ at: (f) => ({ x: f < at ? 40 : 70, y: 50 }) });
  for (const [fps, at] of [
    [50, 80],
    [60, 96],
    [119.88, 200],
  ]) {
    const [event, ...more] = offered(film(at + 80, [jump(at)]), fps);
    expect(more).toEqual([]);
    expect(Math.abs(event.frame - at)).toBeLessThan(fps / 24);
  }
});
