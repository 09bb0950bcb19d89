import { merged } from '@core/elsewhere';
import type { FieldValue } from '@core/library';
import type { TeamChanges, TeamSound } from '@core/schemas';
import { Library } from '@services/team/library';
import { People, TeamRefused } from '@services/team/people';
import fc from 'fast-check';
import { teamSound as sound } from '../helpers/team';

// A team: who is of it, what two people make of the same sound, and what one is told who was away.

describe('what comes together', () => {
  const value = fc.option(
    fc.oneof(fc.constantFrom('a', 'b', 'c'), fc.nat(2), fc.subarray(['x', 'y', 'z'], { minLength: 1 })),
    { nil: undefined },
  );
  const values = fc
    .record({ name: value, tags: value, note: value })
    .map((r) => Object.fromEntries(Object.entries(r).filter(([, v]) => v !== undefined)) as Record<string, FieldValue>);

  test('edits of different fields are both kept, nobody’s work is replaced, and lists are joined by their members', () => {
    fc.assert(
      fc.property(values, values, values, (was, theirs, mine) => {
        const { values: now, conflicts } = merged(1, was, theirs, mine);
        for (const key of ['name', 'tags', 'note']) {
          const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
          const conflict = conflicts.find((c) => c.key === key);
          if (same(was[key], mine[key])) expect([now[key], conflict]).toEqual([theirs[key], undefined]);
          else if (same(was[key], theirs[key])) expect([now[key], conflict]).toEqual([mine[key], undefined]);
          if (conflict) expect(now[key]).toEqual(theirs[key]);
        }
        // Made again upon what came of it, it changes nothing any more.
        if (conflicts.length === 0) expect(merged(1, now, now, now).values).toEqual(now);
      }),
    );
    const lists = merged(1, { tags: ['x', 'y'] }, { tags: ['y', 'z'] }, { tags: ['x', 'y', 'w'] });
    expect(lists).toEqual({ values: { tags: ['y', 'z', 'w'] }, conflicts: [] });
  });

  test('a catch-up tells each change once, as it is now, and nothing that is known', () => {
    const library = new Library({ id: 1, name: 'Yard', allowed: 1e9 });
    const step = fc.oneof(
      fc.record({ do: fc.constant('add' as const), n: fc.nat(9) }),
      fc.record({ do: fc.constant('edit' as const), n: fc.nat(20), to: fc.constantFrom('p', 'q') }),
      fc.record({ do: fc.constant('remove' as const), n: fc.nat(20) }),
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 40 }), fc.array(fc.nat(40)), (steps, looks) => {
        const own = new Library(library.facts);
        const known = new Map<number, string>();
        let at = 0;
        const look = () => {
          for (let more = true; more;) {
            const changes: TeamChanges = own.changes(at);
            for (const row of changes.changed) known.set(row.id, JSON.stringify(row));
            for (const id of changes.gone) known.delete(id);
            [at, more] = [changes.revision, changes.more];
          }
          expect(own.changes(at)).toEqual({ revision: at, more: false, changed: [], gone: [] });
        };
        steps.forEach((s, i) => {
          const entry =
            s.do === 'add'
              ? own.adding([sound(`${i}-${s.n}`, `${s.n}`)], 'me', i).entry
              : s.do === 'edit'
                ? own.editing([{ id: s.n, was: {}, is: { note: s.to } }], 'me', i).entry
                : own.removing([s.n], 'me', i);
          if (entry) own.take(entry);
          if (looks.includes(i)) look();
        });
        look();
        expect(known.size).toBe(own.sounds);
        for (const [id, row] of known) expect(JSON.stringify(own.row(id))).toBe(row);
        const files = new Set([...known.values()].map((r) => (JSON.parse(r) as TeamSound).file));
        expect(own.used).toBe(files.size);
      }),
      { numRuns: 150 },
    );
  });
});

describe('people', () => {
  test('each wrong password costs a longer wait, also one that is right then; names are one without case and space', async () => {
    let now = 0;
    const people = new People(undefined, () => now);
    await people.join(people.first(), 'Maren Holt', 'kelp and copper');
    expect((await people.enter('maren  holt', 'kelp and copper')).owner).toBe(true);
    for (let i = 0; i < 5; i++)
      await expect(people.enter('Maren Holt', `wrong ${i}`)).rejects.toMatchObject({ status: 401 });
    await expect(people.enter('MAREN HOLT', 'kelp and copper')).rejects.toMatchObject({ status: 429, wait: 1 });
    now += 1000;
    await expect(people.enter('Maren Holt', 'wrong')).rejects.toMatchObject({ status: 401 });
    await expect(people.enter('Maren Holt', 'kelp and copper')).rejects.toMatchObject({ status: 429, wait: 2 });
    now += 2000;
    await people.enter('Maren Holt', 'kelp and copper');
    await expect(people.enter('nobody', 'kelp and copper')).rejects.toThrow('Name or password is wrong.');
  });

  test('an invitation is good once and for a while; nobody gives what is not theirs; what is kept opens nothing', async () => {
    let now = 0;
    const people = new People(undefined, () => now);
    const first = people.first();
    const [a, b] = await Promise.allSettled([
      people.join(first, 'Maren', 'kelp and copper'),
      people.join(first, 'Ivo', 'tar and oakum'),
    ]);
    expect([a.status, b.status].sort()).toEqual(['fulfilled', 'rejected']);
    const [maren] = people.whole.people;
    people.own(maren, 'library', 1);
    const invited = people.invite(maren, [{ of: 'library', id: 1, right: 'fetch' }], false);
    const ivo = await people.join(invited, 'Ivo Brandt', 'tar and oakum');
    expect(people.rightOf(ivo, 'library', 1)).toBe('fetch');
    expect(() => people.invite(ivo, [{ of: 'library', id: 1, right: 'hear' }], false)).toThrow(TeamRefused);
    expect(() => people.invite(ivo, [], true)).toThrow(TeamRefused);
    expect(() => people.grant('library', 1, maren.name, 'hear')).toThrow('Somebody has to administer it');
    const old = people.invite(maren, [], false);
    now += 15 * 86_400_000;
    await expect(people.join(old, 'Late', 'too late for it')).rejects.toMatchObject({ status: 410 });
    const token = people.open(ivo);
    const kept = JSON.stringify(people.whole);
    for (const secret of [token, invited, 'tar and oakum']) expect(kept).not.toContain(secret);
    expect(people.by(token)).toBe(ivo);
    await people.change(ivo, 'tar and oakum', 'pitch and resin');
    expect(people.by(token)).toBeUndefined();
  });
});
