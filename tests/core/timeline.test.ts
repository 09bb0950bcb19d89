import { plainShape, type Shape } from '@core/audio';
import { BLOCK, differences, emptyPlan, Graph, Material } from '@core/engine';
import { frameRate, planOf, spanOf, type Cue, type Track } from '@core/scene';
import {
  allCrossFaded,
  boxesIn,
  boxOf,
  crossFaded,
  drawnFor,
  faded,
  gainBy,
  gainY,
  hit,
  laidOver,
  marksOf,
  nearestMark,
  placeOf,
  sampleAt,
  snapped,
  split,
  trimmed,
  within,
} from '@core/timeline';
import fc from 'fast-check';
import { apart, noise } from '../helpers/signals';

// What hands do to cues, against what is heard of them.

const RATE = 48000;
const FRAMES = 9000;
const plane = noise(FRAMES, 0.4, 7);
const track: Track = { ...{ id: 1, sceneId: 1, order: 0, name: 'Steps', gain: 0, mute: false, solo: false } };
const cueOf = ({ shape, ...more }: Partial<Omit<Cue, 'shape'>> & { shape?: Partial<Shape> } = {}): Cue => ({
  ...{ id: 1, sceneId: 1, trackId: 1, soundId: 9, name: 'Clack', at: 20_000, anchor: 3000, start: 1000, end: 8000 },
  ...{ rate: RATE, gain: 0, mute: false, fadeIn: 0, fadeOut: 0, shape: { ...plainShape, ...shape } },
  ...more,
});
/** What is heard of some cues, mono. */
function heard(cues: Cue[], count = 40_000): Float32Array {
  const graph = new Graph(RATE, new Map([[9, Material.of([plane], RATE)]]));
  graph.apply(differences(emptyPlan, planOf([track], cues)), false);
  const out = new Float32Array(count);
  for (let at = 0; at < count; at += BLOCK) {
    const part = Math.min(BLOCK, count - at);
    graph.render(at, part);
    out.set(graph.out[0].subarray(0, part), at);
  }
  return out;
}
const directions = fc.constantFrom('forward', 'backward' as const);
const SEAM = 96;

describe('what becomes of a cue', () => {
  test('a trimmed edge lies where it was put; what is heard of the rest is the same, at the same time', () => {
    fc.assert(
      fc.property(
        directions,
        fc.constantFrom('start' as const, 'end' as const),
        fc.integer({ min: 0, max: 40_000 }),
        (direction, edge, to) => {
          const cue = cueOf({ shape: { direction } });
          const cut = trimmed(cue, edge, to, FRAMES, RATE);
          const [before, after] = [spanOf(cue, RATE), spanOf(cut, RATE)];
          expect([cut.at, cut.anchor]).toEqual([cue.at, cue.anchor]);
          expect(cut.start >= 0 && cut.end <= FRAMES && cut.end > cut.start).toBe(true);
          const other = edge === 'start' ? 'end' : 'start';
          expect(after[other]).toBe(before[other]);
          // It is held where the sound begins or ends, and a frame from the other edge.
          const whole = spanOf({ ...cue, start: 0, end: FRAMES }, RATE);
          const held =
            edge === 'start'
              ? Math.max(whole.start, Math.min(before.end - 1, to))
              : Math.min(whole.end, Math.max(before.start + 1, to));
          expect(after[edge]).toBe(held);
          const [low, high] = [Math.max(before.start, after.start) + SEAM, Math.min(before.end, after.end) - SEAM];
          if (high > low)
            expect(apart(heard([cut]).subarray(low, high), heard([cue]).subarray(low, high))).toBeLessThan(1e-6);
        },
      ),
      { numRuns: 60 },
    );
  });

  test('of a sound of another rate, sped up or stretched, an edge lies within a frame of where it was put', () => {
    for (const [rate, shape] of [
      [44_100, {}],
      [96_000, { speed: 2 }],
      [48_000, { length: 1.5 }],
    ] as [number, Partial<Shape>][])
      for (const edge of ['start', 'end'] as const) {
        const cue = cueOf({ rate, shape });
        const middle = (spanOf(cue, RATE).start + spanOf(cue, RATE).end) / 2;
        expect(Math.abs(spanOf(trimmed(cue, edge, middle, FRAMES, RATE), RATE)[edge] - middle)).toBeLessThan(2);
      }
  });

  test('split in two, it is heard as the one that it was, but for the seam', () => {
    fc.assert(
      fc.property(directions, fc.integer({ min: 17_500, max: 24_500 }), (direction, at) => {
        const cue = cueOf({ shape: { direction } });
        const whole = heard([cue]);
        const parts = split(cue, at, 2, FRAMES, RATE);
        const { start, end } = spanOf(cue, RATE);
        if (at <= start || at >= end) return expect(parts).toBeUndefined();
        expect(parts!.map((p) => p.id)).toEqual([1, 2]);
        expect([spanOf(parts![0], RATE).end, spanOf(parts![1], RATE).start]).toEqual([at, at]);
        const both = heard(parts!);
        expect(apart(both.subarray(0, at - SEAM), whole.subarray(0, at - SEAM))).toBeLessThan(1e-6);
        expect(apart(both.subarray(at + SEAM), whole.subarray(at + SEAM))).toBeLessThan(1e-6);
      }),
      { numRuns: 40 },
    );
    expect(split(cueOf({ shape: { direction: 'both ways' } }), 20_000, 2, FRAMES, RATE)).toBeUndefined();
  });

  test('fades end where they were put, and never overlap', () => {
    const { start, end } = spanOf(cueOf(), RATE);
    expect(faded(cueOf(), 'fadeIn', start + 480, RATE).fadeIn).toBeCloseTo(0.01, 9);
    expect(faded(cueOf(), 'fadeOut', end - 960, RATE).fadeOut).toBeCloseTo(0.02, 9);
    const both = faded(faded(cueOf(), 'fadeIn', start + 6000, RATE), 'fadeOut', start, RATE);
    expect((both.fadeIn + both.fadeOut) * RATE).toBeCloseTo(end - start, 6);
    expect(faded(cueOf(), 'fadeIn', start - 99, RATE).fadeIn).toBe(0);
  });

  test('where cues overlap, one gives way to the other with equal power', () => {
    const [a, b] = [cueOf(), cueOf({ id: 2, at: 24_000 })];
    const [first, second] = crossFaded(a, b, RATE)!;
    const overlap = (spanOf(a, RATE).end - spanOf(b, RATE).start) / RATE;
    expect([first.fadeOut, second.fadeIn]).toEqual([overlap, overlap]);
    expect(crossFaded(b, a, RATE)).toBeUndefined();
    expect(crossFaded(a, cueOf({ id: 3, at: 90_000 }), RATE)).toBeUndefined();
    const all = allCrossFaded(
      [b, cueOf({ id: 4, at: 28_000 }), a, cueOf({ id: 5, at: 90_000 }), { ...a, id: 6, trackId: 2 }],
      RATE,
    );
    expect(all.map((c) => c.id).sort()).toEqual([1, 2, 4]);
    // A constant tone of unlike noise keeps its power through the middle.
    const out = heard([first, second]);
    const power = (from: number, to: number) => out.subarray(from, to).reduce((sum, x) => sum + x * x, 0) / (to - from);
    const middle = (spanOf(a, RATE).end + spanOf(b, RATE).start) / 2;
    expect(power(middle - 700, middle + 700) / power(18_500, 20_500)).toBeGreaterThan(0.7);
  });
});

describe('where things are', () => {
  const sight = { from: 10_000, scale: 0.01, width: 600, height: 36, rate: RATE };

  test('places and samples are each other’s inverse, and so are lines and gains', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 1e9 }), fc.integer({ min: -24, max: 24 }), (sample, gain) => {
        expect(sampleAt(sight, placeOf(sight, sample))).toBeCloseTo(sample, 3);
        expect(gainBy(gainY(gain, 36) - gainY(0, 36), 36)).toBeCloseTo(gain, 9);
      }),
    );
  });

  test('only what is in sight has a box; one that would be too narrow to see is still met', () => {
    const cues = [cueOf(), cueOf({ id: 2, at: 100_000 }), cueOf({ id: 3, at: 12_000, start: 2999, end: 3001 })];
    const boxes = boxesIn(cues, sight);
    expect(boxes.map((b) => b.cue.id)).toEqual([1, 3]);
    expect(boxes[1].right - boxes[1].left).toBe(6);
    expect(hit(boxes, new Set(), boxes[1].left + 3, 20, 36)).toMatchObject({ cue: { id: 3 }, handle: 'body' });
  });

  test('what a hand moves has another box, and all else the one that it had, as if asked for anew', () => {
    const sight = { from: 5000, scale: 0.01, width: 600, height: 40, rate: RATE };
    const moves = fc.array(fc.tuple(fc.nat(19), fc.integer({ min: -9000, max: 90_000 })), { maxLength: 30 });
    fc.assert(
      fc.property(moves, (list) => {
        let cues = Array.from({ length: 20 }, (_, i) => cueOf({ id: i + 1, at: 4000 * i }));
        let before = boxesIn(cues, sight);
        for (const [n, by] of list) {
          cues = cues.map((c, i) => (i === n ? { ...c, at: c.at + by } : c));
          const boxes = boxesIn(cues, sight);
          expect(boxes).toEqual(boxesIn(cues, { ...sight }));
          for (const box of before) if (box.cue !== cues[n] && cues.includes(box.cue)) expect(boxes).toContain(box);
          before = boxes;
        }
      }),
    );
  });

  test('corners fade, edges trim, the line of a selected cue is its gain, all else moves; what is locked is only taken hold of', () => {
    const cue = cueOf({ fadeIn: 0.05 });
    const box = boxOf(cue, sight);
    const at = (x: number, y: number, selected: number[] = [1], own: Cue = cue) =>
      hit([boxOf(own, sight)], new Set(selected), x, y, 36)?.handle;
    expect(at(box.fadeIn, 3)).toBe('fadeIn');
    expect(at(box.right - 6, 3)).toBe('fadeOut');
    expect(at(box.left + 1, 25)).toBe('start');
    expect(at(box.right + 4, 25)).toBe('end');
    expect(at((box.left + box.right) / 2, box.gain)).toBe('gain');
    expect(at((box.left + box.right) / 2, box.gain, [])).toBe('body');
    expect(at((box.left + box.right) / 2, 30)).toBe('body');
    expect(at(box.right + 6, 25)).toBeUndefined();
    expect(at(box.left + 1, 25, [1], { ...cue, locked: true })).toBe('body');
    // Of two that overlap the selected one is held, else the one that lies above.
    const two = boxesIn([cue, cueOf({ id: 2, at: 21_000 })], sight);
    const x = (two[1].left + two[0].right) / 2;
    expect([hit(two, new Set([1]), x, 30, 36)!.cue.id, hit(two, new Set(), x, 30, 36)!.cue.id]).toEqual([1, 2]);
  });

  test('a box drawn by hand has what it meets, of the tracks that it covers, whichever way it is drawn', () => {
    const cues = [cueOf(), cueOf({ id: 2, at: 60_000 }), cueOf({ id: 3, trackId: 2 })];
    expect(within(cues, new Set([1]), 24_900, 0, RATE)).toEqual([1]);
    expect(within(cues, new Set([1, 2]), 0, 90_000, RATE)).toEqual([1, 2, 3]);
    expect(within(cues, new Set([1]), 30_000, 40_000, RATE)).toEqual([]);
  });

  test('a dragged sample lands on the nearest mark within reach, else on a frame; a mark is never itself', () => {
    const cues = [cueOf(), cueOf({ id: 2, at: 60_000 })];
    const marks = marksOf(cues, new Set([1]), [500], RATE);
    expect([...marks]).toEqual([500, 58_000, 60_000, 65_000]);
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 70_000 }), fc.integer({ min: 0, max: 3000 }), (sample, reach) => {
        const near = [...marks].filter((m) => Math.abs(m - sample) <= reach).map((m) => Math.abs(m - sample));
        const found = nearestMark(marks, sample, reach);
        expect(found === undefined ? undefined : Math.abs(found - sample)).toBe(
          near.length > 0 ? Math.min(...near) : undefined,
        );
      }),
    );
    const frames = frameRate('24');
    expect(snapped(59_990, { marks, reach: 50, frames, rate: RATE })).toBe(60_000);
    expect(snapped(40_900, { marks, reach: 50, frames, rate: RATE })).toBe(40_000);
    expect(snapped(41_100, { marks, reach: 50, frames, rate: RATE })).toBe(42_000);
    expect(snapped(41_100.4, { marks, reach: 50, rate: RATE })).toBe(41_100);
  });
});

describe('what is drawn while the view moves', () => {
  const moves = fc.array(
    fc.record({ by: fc.integer({ min: -900, max: 900 }), zoom: fc.constantFrom(1, 1, 1, 1, 1.5, 0.7) }),
    { maxLength: 60 },
  );
  test('always covers the view, whatever was scrolled and zoomed', () => {
    fc.assert(
      fc.property(moves, fc.constantFrom(1, 1.6), (all, stretch) => {
        let view = { from: 48_000, scale: 0.002, width: 1000, height: 43, rate: RATE };
        let drawn = drawnFor(view, undefined, stretch);
        for (const { by, zoom } of all) {
          view = { ...view, from: Math.max(0, view.from + by / view.scale), scale: view.scale * zoom };
          drawn = drawnFor(view, drawn, stretch);
          const factor = view.scale / drawn.scale;
          expect(Math.max(factor, 1 / factor)).toBeLessThanOrEqual(stretch * 1.001);
          expect(placeOf(drawn, view.from)).toBeGreaterThanOrEqual(-1e-6);
          expect(placeOf(drawn, sampleAt(view, view.width))).toBeLessThanOrEqual(drawn.width + 1.001 / factor);
          expect(drawn.width).toBeLessThanOrEqual((stretch === 1 ? 1.5 : 2) * view.width);
          // Laid over the view, a sample lies where it lies in the view.
          const over = laidOver(view, drawn);
          const sample = sampleAt(view, 300);
          expect(Math.abs(placeOf(drawn, sample) * over.stretch + over.shift - 300)).toBeLessThan(0.51);
        }
      }),
    );
  });
  test('a steady scroll draws anew only when it has come through what lay ahead', () => {
    for (const step of [40, -40]) {
      let view = { from: 4_800_000, scale: 0.002, width: 1000, height: 43, rate: RATE };
      let drawn = drawnFor(view, undefined);
      let times = 0;
      for (let i = 0; i < 100; i++) {
        view = { ...view, from: view.from + step / view.scale };
        const next = drawnFor(view, drawn);
        if (next !== drawn) times++;
        drawn = next;
      }
      expect(times).toBeLessThanOrEqual(Math.ceil((100 * 40) / 500) + 1);
    }
  });
});
