import { takeOf } from '@core/naming';
import {
  changeOf,
  applyChange,
  findMoves,
  matchByPath,
  reread,
  RootComparison,
  type KnownFile,
  type ListedFile,
  type Sound,
} from '@core/library';
import fc from 'fast-check';
import { soundOf } from '../helpers/catalogue';

const followed = (id: number, path: string, size = 100, over: Partial<KnownFile> = {}): KnownFile => ({
  id,
  path,
  size,
  modified: 1e12,
  quickHash: `t${size}`,
  missing: false,
  ...over,
});
const listed = (path: string, size = 100, modified = 1e12): ListedFile => ({ path, size, modified });

describe('comparing a root with what is known of it', () => {
  test('tells new, changed, back and gone apart', () => {
    const c = new RootComparison([
      followed(1, 'same.wav'),
      followed(2, 'longer.wav'),
      followed(3, 'later.wav'),
      followed(4, 'back.wav', 100, { missing: true }),
      followed(5, 'gone.wav'),
      followed(6, 'still gone.wav', 100, { missing: true }),
    ]);
    const found = c.take([
      listed('same.wav', 100, 1e12 + 1500),
      listed('longer.wav', 140),
      listed('later.wav', 100, 1e12 + 60_000),
      listed('back.wav'),
      listed('new.wav'),
    ]);
    expect(found.added.map((f) => f.path)).toEqual(['new.wav']);
    expect(found.changed.map((c2) => c2.sound.id)).toEqual([2, 3]);
    expect(found.back.map((s) => s.id)).toEqual([4]);
    expect(c.unseen().map((s) => s.id)).toEqual([5, 6]);
  });

  test('a second look at an unchanged root finds nothing, in whatever parts it is listed', () => {
    const path = fc.stringMatching(/^[a-z]{1,6}(\/[a-z]{1,6}){0,3}\.wav$/);
    fc.assert(
      fc.property(fc.uniqueArray(path, { maxLength: 40 }), fc.integer({ min: 1, max: 9 }), (paths, step) => {
        const c = new RootComparison(paths.map((p, i) => followed(i, p)));
        for (let i = 0; i < paths.length; i += step)
          expect(c.take(paths.slice(i, i + step).map((p) => listed(p)))).toEqual({ added: [], changed: [], back: [] });
        expect(c.unseen()).toEqual([]);
      }),
    );
  });
});

describe('files that moved', () => {
  const file = (path: string, size = 100) => ({ ...listed(path, size), quickHash: `t${size}` });

  test('are recognised by size, head and tail; the same name goes first', () => {
    const moves = findMoves(
      [file('x/b.wav'), file('x/a.wav'), file('x/c.wav', 7)],
      [followed(1, 'a.wav'), followed(2, 'b.wav'), followed(3, 'd.wav', 9)],
    );
    expect([...moves].map(([path, s]) => [path, s.id])).toEqual([
      ['x/b.wav', 2],
      ['x/a.wav', 1],
    ]);
  });

  test('one sound moves to one place only, and one without a quickHash to none', () => {
    const moves = findMoves(
      [file('x.wav'), file('y.wav')],
      [followed(1, 'a.wav'), followed(2, 'b.wav', 100, { quickHash: undefined })],
    );
    expect([...moves.values()].map((s) => s.id)).toEqual([1]);
  });
});

describe('reconnecting by path', () => {
  test('folders that agree come before names alone', () => {
    const missing = [followed(1, 'Boats/Deck/hit.wav'), followed(2, 'Cars/hit.wav'), followed(3, 'odd.wav', 55)];
    const files = [listed('New/Boats/Deck/hit.wav'), listed('New/Cars/hit.wav'), listed('Elsewhere/ODD.wav', 55)];
    const found = matchByPath(missing, files);
    expect(Object.fromEntries(found.map((f) => [f.soundId, [f.to.path, f.by]]))).toEqual({
      1: ['New/Boats/Deck/hit.wav', 'path'],
      2: ['New/Cars/hit.wav', 'path'],
      3: ['Elsewhere/ODD.wav', 'path'],
    });
  });

  test('another size is another file, and what fits twice is left alone', () => {
    expect(matchByPath([followed(1, 'a.wav')], [listed('a.wav', 101)])).toEqual([]);
    expect(matchByPath([followed(1, 'x/a.wav')], [listed('p/a.wav'), listed('q/a.wav')])).toEqual([]);
    expect(matchByPath([], [listed('a.wav')])).toEqual([]);
  });

  test('a root that moved as a whole is found whole', () => {
    const path = fc.stringMatching(/^[a-z]{1,4}(\/[a-z]{1,4}){0,2}\.wav$/);
    fc.assert(
      fc.property(fc.uniqueArray(path, { maxLength: 30 }), (paths) => {
        const found = matchByPath(
          paths.map((p, i) => followed(i, p)),
          paths.map((p) => listed(p)),
        );
        expect(found).toHaveLength(paths.length);
        for (const f of found) expect(f.to.path).toBe(f.from);
      }),
    );
  });
});

describe('reading a file again', () => {
  const old: Sound = {
    ...soundOf(1, {
      fxName: 'Old name',
      description: 'typed by hand',
      author: 'A',
      loudness: -20,
      stars: 4,
      rate: 48000,
      keywords: ['a'],
    }),
    from: {
      fxName: 'file INFO.INAM',
      description: 'typed',
      author: 'file bext.Originator',
      loudness: 'measured',
      stars: 'typed',
      rate: 'measured',
      keywords: 'suggested',
    },
    quickHash: 'old',
  };
  const fresh: Omit<Sound, 'id'> = {
    ...soundOf(1, { fxName: 'New name', description: 'from the file', rate: 96000, keywords: ['b'], library: 'Tests' }),
    from: {
      fxName: 'file INFO.INAM',
      description: 'file INFO.ICMT',
      rate: 'measured',
      keywords: 'file INFO.IKEY',
      library: 'folder',
    },
    quickHash: 'new',
  };

  test('takes over what the file says now, keeps what people made', () => {
    const next = applyChange<Sound>(old, changeOf('sounds', old, reread(old, fresh))!)!;
    expect(next.fields).toMatchObject({
      fxName: 'New name',
      description: 'typed by hand',
      stars: 4,
      rate: 96000,
      keywords: ['a'],
      loudness: -20,
    });
    expect(next.fields.author).toBeUndefined();
    expect(next.from.description).toBe('typed');
    expect(next.quickHash).toBe('new');
  });

  test('the same file again changes nothing', () => {
    const once = applyChange<Sound>(old, changeOf('sounds', old, reread(old, fresh))!)!;
    expect(changeOf('sounds', once, reread(once, fresh))).toBeUndefined();
  });
});

test.each([
  ['Timber/postKnock-03.wav', 'timber/postknock', '03'],
  ['bootStep_A.wav', '/bootstep', 'A'],
  ['creak take 2.wav', '/creak', '2'],
  ['creak_tk12.wav', '/creak', '12'],
  ['gust (4).wav', '/gust', '4'],
  ['hit07.wav', '/hit', '07'],
  ['plank drop HARD 3.wav', '/plank drop hard', '3'],
  ['rain_48k.wav', '/rain_48k', undefined],
  ['rain 24bit.wav', '/rain 24bit', undefined],
  ['winch slow.wav', '/winch slow', undefined],
  ['take 5.wav', '/take', '5'],
  ['MFR-0231 sedge bed.wav', '/mfr-0231 sedge bed', undefined],
  ['2026.wav', '/2026', undefined],
])('the take of %s', (path, group, take) => {
  expect(takeOf(path)).toEqual(take === undefined ? { group } : { group, take });
});

test('the take of a UCS name stands in its FXName', () => {
  const of = (n: string) => takeOf(`BOATMech_Winch Pawl ${n}_TWA_TIDE.wav`, `Winch Pawl ${n}`);
  expect(of('03')).toEqual({ group: '/boatmech_winch pawl_twa_tide', take: '03' });
  expect(of('04').group).toBe(of('03').group);
});
