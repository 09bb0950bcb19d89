import { Param } from '@core/effects';
import {
  curveAt,
  curvesOf,
  heightOf,
  linesOf,
  mainTrack,
  movedPoint,
  raised,
  recorded,
  thinned,
  valueAtHeight,
  withPoint,
  type Track,
} from '@core/scene';
import fc from 'fast-check';

// Values that run along the timeline, drawn and recorded.

const track: Track = { id: 3, sceneId: 1, order: 0, name: 'Deck', gain: -3, mute: false, solo: false };
const effect = { id: 9, sceneId: 1, lineId: 3, order: 0, kind: 'filter', on: true, values: { freq: 400 } };
const all = curvesOf(track, [effect]);
const points = fc
  .uniqueArray(
    fc.record({ at: fc.integer({ min: 0, max: 3000 }), value: fc.double({ min: -40, max: 12, noNaN: true }) }),
    { maxLength: 12, selector: (p) => p.at },
  )
  .map((list) => list.sort((a, b) => a.at - b.at));

test('offers gain, place and all values of effects that run; choices jump, and are not among them', () => {
  expect(all.slice(0, 2).map((c) => [c.name, c.still])).toEqual([
    ['Gain', -3],
    ['Place', 0],
  ]);
  const names = all.slice(2).map((c) => c.name);
  expect(names.length).toBeGreaterThan(0);
  expect(names.every((n) => n.startsWith('Filter: '))).toBe(true);
  expect(all.find((c) => c.key === 'freq')).toMatchObject({ table: 'effects', id: 9, still: 400, points: [] });
  expect(all.some((c) => c.key === 'kind')).toBe(false);
});

test('of the main line too, which may be turned up further; what it plays is what is drawn', () => {
  const ramp = [
    { at: 0, value: 0 },
    { at: 480, value: -20 },
  ];
  const main = { gain: -1, points: { gain: ramp } };
  const onMain = { ...effect, lineId: 0 };
  const [gain, place, ...others] = curvesOf(mainTrack(1, main), [effect, onMain]);
  expect(gain).toMatchObject({ table: 'main', id: 0, still: -1, points: ramp, spec: { most: 24 } });
  expect(place).toMatchObject({ table: 'main', still: 0, points: [] });
  expect(others.every((c) => c.table === 'effects' && c.id === 9)).toBe(true);
  const heard = linesOf({ tracks: [], effects: [] }, main).get(0)!;
  expect(heard.points).toEqual({ gain: ramp });
});

test.each(all.map((c) => [c.name, c.spec] as const))(
  '%s: a height of the lane and its value are inverse',
  (_, spec) => {
    for (let h = 0; h <= 1; h += 0.05) expect(heightOf(spec, valueAtHeight(spec, h))).toBeCloseTo(h, 6);
    expect([valueAtHeight(spec, -1), valueAtHeight(spec, 2)].map((v) => Number(v.toFixed(6)))).toEqual([
      spec.least,
      spec.most,
    ]);
  },
);

test('a curve is what the engine plays of its points', () => {
  fc.assert(
    fc.property(points, (list) => {
      const param = new Param(-3, 48_000);
      param.follow(list);
      const moves = param.read(1000, 100);
      for (let i = 0; i < 100; i++)
        expect(curveAt(list, 1000 + i, -3)).toBeCloseTo(moves ? param.line[i] : param.value, 9);
    }),
  );
});

test('points are set, moved between their neighbours, raised within bounds; their order stays', () => {
  const inOrder = (list: readonly { at: number }[]) => list.every((p, i) => i === 0 || p.at > list[i - 1].at);
  const anywhere = fc.record({
    at: fc.integer({ min: 0, max: 4000 }),
    value: fc.double({ min: -60, max: 12, noNaN: true }),
  });
  fc.assert(
    fc.property(points, anywhere, fc.nat(11), (list, to, which) => {
      const more = withPoint(list, to);
      expect(inOrder(more)).toBe(true);
      // 0 and -0 are one.
      expect(curveAt(more, to.at, 0) + 0).toBe(to.value + 0);
      if (list.length === 0) return;
      const index = which % list.length;
      // Where neighbours lie on adjoining samples there is nowhere to go.
      const moved = movedPoint(list, index, to);
      expect(moved[index].value + 0).toBe(to.value + 0);
      expect(moved.filter((_, i) => i !== index)).toEqual(list.filter((_, i) => i !== index));
      expect(inOrder(moved)).toBe(true);
      const up = raised(list, 20, all[0].spec);
      expect(Math.max(...up.map((p) => p.value))).toBeLessThanOrEqual(12);
    }),
  );
});

test('thinned, no point of old is farther from the curve than was allowed, and straight lines keep their ends alone', () => {
  fc.assert(
    fc.property(points, fc.double({ min: 0.01, max: 5, noNaN: true }), (list, tolerance) => {
      const less = thinned(list, tolerance);
      for (const p of list) expect(Math.abs(curveAt(less, p.at, 0) - p.value)).toBeLessThanOrEqual(tolerance + 1e-9);
    }),
  );
  const straight = Array.from({ length: 500 }, (_, i) => ({ at: 10 * i, value: -12 + i / 50 }));
  expect(thinned(straight, 0.01)).toEqual([straight[0], straight[499]]);
});

test('what a hand did stands where it did it, until it let go; before and behind that is what was', () => {
  fc.assert(
    fc.property(points, points, fc.integer({ min: 0, max: 500 }), (old, done, later) => {
      if (done.length === 0) return expect(recorded(old, -3, done, 9, 100)).toBe(old);
      const until = done[done.length - 1].at + later;
      const made = recorded(old, -3, done, until, 100);
      expect(made.every((p, i) => i === 0 || p.at > made[i - 1].at)).toBe(true);
      for (const p of done) expect(curveAt(made, p.at, 0)).toBeCloseTo(p.value, 9);
      expect(curveAt(made, until, 0)).toBeCloseTo(done[done.length - 1].value, 9);
      for (const at of [0, done[0].at - 2, until + 101, until + 700])
        if (at >= 0 && (at < done[0].at - 1 || at > until + 100))
          expect(curveAt(made, at, 0)).toBeCloseTo(curveAt(old, at, -3), 9);
    }),
  );
});
