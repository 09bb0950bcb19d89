import { applyChange, EditConflict, mergeList, outdated, settled, takenBack, type Change } from '@core/library';
import fc from 'fast-check';

const list = fc.uniqueArray(fc.integer({ min: 0, max: 30 }), { maxLength: 12 });
const change = (before: object, after: object): Change => ({
  table: 'sounds',
  id: 5,
  before: before as never,
  after: after as never,
});

describe('lists change by members', () => {
  test('where nobody else did anything, the outcome is what was asked for, in its order', () => {
    fc.assert(fc.property(list, list, (before, after) => expect(mergeList(before, after, before)).toEqual(after)));
  });

  test('what either of two adds is there, what either takes out is not, and nothing stands twice', () => {
    fc.assert(
      fc.property(list, list, list, (before, mine, theirs) => {
        const merged = mergeList(before, mine, theirs) as number[];
        const want = new Set([...mine, ...theirs].filter((m) => !before.includes(m)));
        for (const m of before) if (mine.includes(m) && theirs.includes(m)) want.add(m);
        expect(new Set(merged)).toEqual(want);
        expect(merged).toHaveLength(want.size);
      }),
    );
  });

  test('what I added keeps its order, and so does what others added', () => {
    fc.assert(
      fc.property(list, list, list, (before, mine, theirs) => {
        const merged = mergeList(before, mine, theirs) as number[];
        const added = mine.filter((m) => !before.includes(m));
        expect(merged.filter((m) => added.includes(m))).toEqual(added);
      }),
    );
  });

  test('members that are objects are told by their id: two tracks changed by two hands are both changed', () => {
    const track = (id: number, gain: number) => ({ id, gain });
    const merged = mergeList([track(1, 0), track(2, 0)], [track(1, 6), track(2, 0)], [track(1, 0), track(2, -3)]);
    expect(merged).toEqual([track(1, 6), track(2, -3)]);
  });

  test('two hands that each add a tag both succeed, and each takes back its own alone', () => {
    const row = { id: 5, fields: { tags: [1] } };
    const mine = settled(row, change({ 'fields.tags': [1] }, { 'fields.tags': [1, 2] }))!;
    const one = applyChange(row, mine)!;
    // Thought out before the other was carried out.
    const theirs = settled(one, change({ 'fields.tags': [1] }, { 'fields.tags': [1, 3] }))!;
    const both = applyChange(one, theirs)!;
    expect(new Set(both.fields.tags)).toEqual(new Set([1, 2, 3]));
    const without = applyChange(both, takenBack(both, mine).change!)!;
    expect(without.fields.tags).toEqual([1, 3]);
    const again = takenBack(without, { ...mine, before: mine.after, after: mine.before });
    expect(new Set((applyChange(without, again.change!)!.fields as { tags: number[] }).tags)).toEqual(
      new Set([1, 2, 3]),
    );
  });
});

describe('an edit as it is carried out', () => {
  test('keeps what really stood there, so that taking it back brings that back', () => {
    const row = { id: 5, fields: { fxName: 'theirs' } };
    const real = settled(row, change({ 'fields.fxName': 'stale' }, { 'fields.fxName': 'mine' }))!;
    expect(real.before).toEqual({ 'fields.fxName': 'theirs' });
    const next = applyChange(row, real)!;
    expect(applyChange(next, takenBack(next, real).change!)).toEqual(row);
  });

  test('is refused where it must match and something else stands there', () => {
    const row = { id: 5, fields: { fxName: 'theirs' } };
    expect(() => settled(row, change({ 'fields.fxName': 'stale' }, { 'fields.fxName': 'mine' }), true)).toThrow(
      EditConflict,
    );
    expect(() => settled(undefined, change({ a: 1 }, { a: 2 }), true)).toThrow(EditConflict);
    expect(settled(row, change({ 'fields.fxName': 'theirs' }, { 'fields.fxName': 'mine' }), true)).toBeDefined();
  });

  test('makes a record that is there already into what it wants, and can be taken back to what it was', () => {
    const row = { id: 5, name: 'old', soundIds: [1] };
    const real = settled(row, { table: 'pulls', id: 5, after: { id: 5, name: 'new', soundIds: [1] } })!;
    expect(real).toEqual({ table: 'pulls', id: 5, before: { name: 'old' }, after: { name: 'new' } });
  });

  test('takes back what still stands, and leaves what others have changed since', () => {
    const made = change({ 'fields.fxName': 'a', 'fields.notes': 'x' }, { 'fields.fxName': 'b', 'fields.notes': 'y' });
    const { change: back, kept, exact } = takenBack({ id: 5, fields: { fxName: 'b', notes: 'theirs' } }, made);
    expect([back!.after, kept, exact]).toEqual([{ 'fields.fxName': 'a' }, true, false]);
  });

  test('done, taken back and done again is done, whatever it was', () => {
    const value = fc.oneof(fc.constant(undefined), fc.string(), fc.integer(), list);
    const patch = fc.dictionary(fc.constantFrom('a', 'b', 'c.d', 'c.e'), value, { minKeys: 1 });
    fc.assert(
      fc.property(patch, patch, (first, second) => {
        const row = applyChange<object>({ id: 5 }, change({}, first))!;
        const real = settled(row, change(first, second));
        if (!real) return;
        const done = applyChange(row, real)!;
        const back = takenBack(done, real);
        expect([back.kept, back.exact]).toEqual([false, true]);
        const undone = applyChange(done, back.change!)!;
        for (const [path, before] of Object.entries(real.before!)) expect(valueOf(undone, path)).toEqual(before);
        const again = takenBack(undone, { ...real, before: real.after, after: real.before });
        expect(applyChange(undone, again.change!)).toEqual(done);
      }),
    );
  });

  test.each(['tags.0', '__proto__.polluted', 'constructor.prototype.polluted', 'fields.__proto__'])(
    'a path such as %s is refused',
    (path) => {
      const row = { id: 5, tags: [1], fields: {} };
      expect(() => applyChange(row, change({ [path]: 1 }, { [path]: 2 }))).toThrow();
      expect(({} as Record<string, unknown>).polluted).toBeUndefined();
    },
  );
});
const valueOf = (row: object, path: string): unknown =>
  path.split('.').reduce<unknown>((at, key) => (at as Record<string, unknown> | undefined)?.[key], row);

describe('backups that go', () => {
  const HOUR = 3_600_000;
  const hourly = (count: number, bytes = 1) =>
    Array.from({ length: count }, (_, i) => ({ at: 1_000_000 * HOUR + i * HOUR, bytes }));

  test('of a year of them a few of each age stay, the newest always', () => {
    const all = hourly(24 * 365);
    const gone = new Set(outdated(all, Infinity));
    const stay = all.filter((b) => !gone.has(b)).map((b) => (all[all.length - 1].at - b.at) / HOUR);
    expect(stay[stay.length - 1]).toBe(0);
    expect(stay.length).toBeLessThanOrEqual(17);
    expect(Math.max(...stay)).toBeGreaterThan(24 * 21);
    expect(stay.filter((hours) => hours < 24 * 8).length).toBeGreaterThan(8);
  });

  test('writing one an hour and letting go each time keeps the same ages as letting go at once', () => {
    let kept: { at: number; bytes: number }[] = [];
    for (const next of hourly(24 * 40)) {
      const all = [...kept, next];
      const gone = new Set(outdated(all, Infinity));
      kept = all.filter((b) => !gone.has(b));
    }
    const days = kept.map((b) => Math.floor((kept[kept.length - 1].at - b.at) / (24 * HOUR)));
    expect(days.filter((d) => d >= 1 && d < 7).length).toBeGreaterThanOrEqual(5);
    expect(Math.max(...days)).toBeGreaterThanOrEqual(21);
  });

  test('where they are large the oldest go first, and two stay whatever they weigh', () => {
    const all = hourly(10, 100);
    const gone = outdated(all, 250);
    expect(all.filter((b) => !gone.includes(b))).toEqual(all.slice(-2));
  });
});
