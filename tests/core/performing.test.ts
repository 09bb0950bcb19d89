import { fullShape } from '@core/audio';
import { applyChange, invert, type Change, type Edit } from '@core/library';
import {
  cuesOfTake,
  Dealer,
  drawnTo,
  emptyPad,
  endsWithKey,
  hardnessOf,
  letGo,
  nextTake,
  placeTakes,
  reactionOf,
  removeTake,
  spanOf,
  strokeGain,
  struckCue,
  type Cue,
  type Scene,
  type Take,
} from '@core/scene';
import { Random } from '@core/synth';
import fc from 'fast-check';
import { soundOf } from '../helpers/catalogue';

// Strokes on pads, the cues that they become, and the passes in which they were played.

const RATE = 48_000;
const where = { id: 1, sceneId: 5, trackId: 2, gain: 0, at: 1000 };

describe('a pad', () => {
  const pools = fc.uniqueArray(fc.tuple(fc.integer({ min: 1, max: 60 }), fc.option(fc.integer({ min: 0, max: 100 }))), {
    minLength: 1,
    maxLength: 20,
    selector: ([id]) => id,
  });
  const poolOf = (rows: [number, number | null][]) =>
    rows.map(([id, force]) => soundOf(id, force === null ? {} : { force }));

  test('plays none of its sounds again before all of them were, and none twice running', () => {
    fc.assert(
      fc.property(pools, fc.integer(), (rows, seed) => {
        const pool = poolOf(rows);
        const random = new Random(seed);
        const dealer = new Dealer(() => random.next());
        const dealt = Array.from({ length: 4 * pool.length }, () => dealer.next(pool)!.id);
        expect(new Set(dealt.slice(0, pool.length)).size).toBe(pool.length);
        if (pool.length > 1) expect(dealt.some((id, i) => id === dealt[i - 1])).toBe(false);
        const uses = pool.map((s) => dealt.filter((id) => id === s.id).length);
        expect(Math.max(...uses) - Math.min(...uses)).toBeLessThanOrEqual(2);
      }),
    );
  });

  test('answers a harder stroke with a harder hit, and a set that nobody could measure with any of it', () => {
    const pool = Array.from({ length: 12 }, (_, i) => soundOf(i + 1, { force: 8 * i }));
    const dealer = new Dealer(() => 0.5);
    const forces = (hardness: number) =>
      Array.from({ length: 8 }, () => dealer.next(pool, hardness)!.fields.force as number);
    expect(Math.max(...forces(0))).toBeLessThan(Math.min(...forces(1)));
    expect(dealer.next([soundOf(99)], 0.3)?.id).toBe(99);
    expect(dealer.next([], 0.3)).toBeUndefined();
  });

  test.each([
    [1, 0, -12],
    [127, 1, 0],
    [64, 0.5, -6],
    [0, 0, -12],
  ])('velocity %d is a hardness of %d and %d dB', (velocity, hardness, dB) => {
    expect(hardnessOf(velocity)).toBeCloseTo(hardness, 5);
    expect(strokeGain(emptyPad(0), hardnessOf(velocity))).toBeCloseTo(dB, 5);
  });
});

describe('a stroke', () => {
  test('has its anchor where the hand was, and ends so long behind it as the key was held', () => {
    const shapes = fc.record({
      direction: fc.constantFrom('forward' as const, 'backward' as const),
      speed: fc.constantFrom(0.5, 1, 2),
    });
    const held = fc.double({ min: 0, max: 3, noNaN: true });
    fc.assert(
      fc.property(shapes, held, fc.integer({ min: 0, max: 95_000 }), (shape, seconds, anchor) => {
        const plain = soundOf(7, {}, 96_000);
        const sound = { ...plain, marks: { ...plain.marks, anchor, shape: fullShape(shape) } };
        const cue = struckCue(sound, where);
        const done = letGo(cue, seconds);
        expect([done.at, done.anchor]).toEqual([1000, anchor]);
        const [before, after] = [spanOf(cue, RATE), spanOf(done, RATE)];
        expect(after.start).toBeCloseTo(before.start, 0);
        const until = 1000 + (seconds + 0.08) * RATE;
        expect(Math.abs(after.end - Math.min(before.end, until))).toBeLessThan(3);
        expect(done.fadeOut > 0).toBe(after.end < before.end || cue.fadeOut > 0);
      }),
    );
  });

  test('ends with the key where the sound lasts, where all do, or never', () => {
    const [short, long] = [soundOf(1, {}, RATE), soundOf(2, {}, 3 * RATE)];
    const answers = (['lasting', 'all', 'none'] as const).map((ends) =>
      [short, long].map((s) => endsWithKey({ ...emptyPad(0), ends }, s)),
    );
    expect(answers).toEqual([
      [false, true],
      [true, true],
      [false, false],
    ]);
  });

  test('is drawn to the nearest mark within reach, by as much as was asked for; locked ones stay', () => {
    const at = [0, 1000, 5000].map((a, i): Cue => ({ ...struckCue(soundOf(1), where), id: i, at: a }));
    expect(drawnTo(at, [100, 1080, 9000], 0.5, 200).map((c) => [c.id, c.at])).toEqual([
      [0, 50],
      [1, 1040],
    ]);
    expect(drawnTo([{ ...at[0], locked: true }], [100], 1, 200)).toEqual([]);
    expect(drawnTo(at, [], 1, 200)).toEqual([]);
  });
});

test('reaction is the middle of the answers and their spread; what came too soon or too late is none', () => {
  const answers = [180, 190, 200, 205, 210, 215, 220, 230, 240];
  expect(reactionOf([...answers, 20, 2000])).toEqual({ median: 210, spread: 1.4826 * 10, count: 9 });
  expect(reactionOf(answers.slice(2))).toBeUndefined();
  // The spread of a normal distribution is its standard deviation.
  const random = new Random(4);
  const normal = () => Math.sqrt(-2 * Math.log(1 - random.next())) * Math.cos(2 * Math.PI * random.next());
  expect(reactionOf(Array.from({ length: 5000 }, () => 300 + 25 * normal()))!.spread).toBeCloseTo(25, -0.3);
});

describe('takes', () => {
  type State = { scene: Scene; cues: Cue[] };
  const cueOf = (id: number, take: number): Cue => ({
    ...struckCue(soundOf(3), { ...where, id, take, at: 500 * id }),
    trackId: 1 + (id % 3),
  });
  const start = (sizes: number[]): State => {
    const takes: Take[] = sizes.map((_, i) => ({ id: i + 1, name: `Take ${i + 1}`, at: i }));
    let id = 0;
    const cues = sizes.flatMap((n, i) => Array.from({ length: n }, () => cueOf(++id, i + 1)));
    return { scene: { id: 5, name: 'Ferry', fps: '24', startFrame: 0, sampleRate: RATE, length: 9, takes }, cues };
  };
  const after = ({ scene, cues }: State, changes: readonly Change[]): State => {
    const rows = new Map<number, object>(cues.map((c) => [c.id, c]));
    let row: object = scene;
    for (const change of changes) {
      if (change.table === 'scenes') row = applyChange(row, change)!;
      else {
        const made = applyChange(rows.get(change.id), change);
        if (made) rows.set(change.id, made);
        else rows.delete(change.id);
      }
    }
    return { scene: row as Scene, cues: ([...rows.values()] as Cue[]).sort((a, b) => a.id - b.id) };
  };
  const back = (changes: Change[]) => invert({ label: '', at: 0, changes, undoable: true } as Edit).changes;

  test('aside and back again, alone and undone: no cue is lost, and none is altered', () => {
    const sizes = fc.array(fc.integer({ min: 0, max: 4 }), { minLength: 1, maxLength: 4 });
    fc.assert(
      fc.property(sizes, fc.array(fc.tuple(fc.nat(3), fc.boolean()), { maxLength: 12 }), (n, moves) => {
        const first = start(n);
        let state = first;
        for (const [which, isIn] of moves) {
          const wanted = new Map([[(which % n.length) + 1, isIn]]);
          const changes = placeTakes(state.scene, state.cues, wanted, [1, 2, 3]);
          const next = after(state, changes);
          expect(after(next, back(changes))).toEqual(state);
          state = next;
          const all = state.scene.takes!.flatMap((t) => cuesOfTake(t, state.cues)).sort((a, b) => a.id - b.id);
          expect(all).toEqual(first.cues);
        }
        const whole = new Map(state.scene.takes!.map((t) => [t.id, true]));
        expect(after(state, placeTakes(state.scene, state.cues, whole, [1, 2, 3]))).toEqual(first);
      }),
    );
  });

  test('one whose track is gone meanwhile comes back on the first', () => {
    const first = start([3]);
    const aside = after(first, placeTakes(first.scene, first.cues, new Map([[1, false]]), [1, 2, 3]));
    const again = after(aside, placeTakes(aside.scene, aside.cues, new Map([[1, true]]), [2]));
    expect(again.cues.map((c) => c.trackId)).toEqual([2, 2, 2]);
  });

  test('thrown away, with its cues or those that wait beside; the next one has another number', () => {
    const first = start([2, 3]);
    const gone = after(first, removeTake(first.scene, first.cues, 1));
    expect([gone.cues.length, gone.scene.takes!.map((t) => t.id)]).toEqual([3, [2]]);
    const aside = after(first, placeTakes(first.scene, first.cues, new Map([[1, false]]), [1]));
    const less = after(aside, removeTake(aside.scene, aside.cues, 1));
    expect(less).toEqual(gone);
    expect(nextTake(gone.scene, 7)).toEqual({ id: 3, name: 'Take 3', at: 7 });
    expect(nextTake({}, 7)).toEqual({ id: 1, name: 'Take 1', at: 7 });
  });
});
