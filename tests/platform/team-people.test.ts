import 'fake-indexeddb/auto';
import { Team } from '@platform/elsewhere/team';
import { Follower } from '@platform/team/follower';
import fc from 'fast-check';
import { likeABrowser } from '../helpers/browser';
import { begun, endTeams, PASSWORD, quiet } from '../helpers/team-desk';

// Several people at one desk: what one of them changed is never sent in the name of another.

beforeAll(likeABrowser);
afterAll(endTeams);

const paths = ['a.wav', 'b.wav', 'c.wav'] as const;

/** Idris at his desk, and Wren, who sits down at it as well. */
async function desk() {
  const of = await begun();
  for (const path of paths) await of.add(path);
  const door = await of.team.door();
  const wren = new Team(door.base);
  await wren.join(await of.owner.invite([{ of: 'library', id: of.library.id, right: 'add' }], false), 'Wren', PASSWORD);
  const follower = new Follower(of.store, of.desk.catalogue);
  const people = { Idris: of.mine, Wren: wren };
  type Person = keyof typeof people;
  const follow = (person: Person, ids?: number[]) => follower.follow(people[person], 7, ids, quiet, person);
  const waiting = async () => (await of.store.roots.get(7))!.team!.waiting;
  /** Who sent a sound last, by its id there. */
  const sentBy = new Map<number, Person>();
  for (const [person, team] of Object.entries(people) as [Person, Team][]) {
    const send = team.edit.bind(team);
    team.edit = (library, edits) => {
      for (const { id } of edits) sentBy.set(id, person);
      return send(library, edits);
    };
  }
  return { ...of, follow, waiting, sentBy };
}

test('what waits when somebody else signs in is theirs to send, or is taken on in so many words', async () => {
  const { follow, edit, waiting, there, store, desk: own } = await desk();
  await follow('Idris');
  const a = await edit('a.wav', { 'fields.notes': 'of Idris' });
  // He could not send it before Wren came.
  expect(await follow('Wren')).toMatchObject({ sent: 0 });
  expect(await waiting()).toEqual([{ person: 'Idris', sounds: [a] }]);
  const b = await edit('b.wav', { 'fields.notes': 'of Wren' });
  expect(await follow('Wren', [a, b])).toMatchObject({ sent: 1 });
  expect([(await there('a.wav')).fields.notes, (await there('b.wav')).fields.notes]).toEqual([undefined, 'of Wren']);
  // It is kept with the library here, over a restart as well.
  expect(
    await new Follower(store, own.catalogue)
      .follow(new Team('http://127.0.0.1:1/team/'), 7, [], quiet, 'Wren')
      .catch(() => 'away'),
  ).toBe('away');
  expect(await follow('Idris')).toMatchObject({ sent: 1 });
  expect((await there('a.wav')).fields.notes).toBe('of Idris');
  expect(await waiting()).toBeUndefined();
  // Or the one who is there sends it as their own.
  const c = await edit('c.wav', { 'fields.notes': 'taken on' });
  await follow('Wren');
  expect(await waiting()).toEqual([{ person: 'Idris', sounds: [c] }]);
  const root = (await store.roots.get(7))!;
  await own.put('Send as mine', [
    { table: 'roots', id: 7, before: { 'team.waiting': root.team!.waiting }, after: { 'team.waiting': undefined } },
  ]);
  expect(await follow('Wren', [c])).toMatchObject({ sent: 1 });
  expect((await there('c.wav')).fields.notes).toBe('taken on');
});

test('whoever comes and goes, each change is sent once, by whoever made it', async () => {
  const step = fc.record({ person: fc.constantFrom('Idris' as const, 'Wren' as const), sound: fc.nat(2) });
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 3, maxLength: 8 }), async (steps) => {
      const { follow, here, edit, there, waiting, sentBy } = await desk();
      await follow('Idris');
      const by = new Map<string, { person: string; note: string }>();
      let now = 'Idris';
      for (const [n, { person, sound }] of steps.entries()) {
        if (person !== now) await follow(person);
        now = person;
        const path = paths[sound];
        const held = (await waiting()) ?? [];
        const { id } = await here(path);
        // What waits for somebody else is theirs, whoever goes on with it.
        const whose = held.find((w) => w.sounds.includes(id))?.person ?? person;
        await edit(path, { 'fields.notes': `${n}` });
        by.set(path, { person: whose, note: `${n}` });
      }
      await follow('Wren');
      await follow('Idris');
      await follow('Wren');
      for (const [path, { person, note }] of by) {
        const { id, fields } = await there(path);
        expect([fields.notes, sentBy.get(id)]).toEqual([note, person]);
      }
      expect(await waiting()).toBeUndefined();
    }),
    { numRuns: 6 },
  );
});
