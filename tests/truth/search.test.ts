import 'fake-indexeddb/auto';
import { readableName } from '@core/naming';
import { Catalogue } from '@platform/catalogue/catalogue';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { emptyStore, likeABrowser } from '../helpers/browser';
import { soundOf } from '../helpers/catalogue';
import { madeUpLibrary } from '../helpers/queries';

const { sounds, wanted } = madeUpLibrary(readFileSync(join(__dirname, 'queries/library.txt'), 'utf8'));
const FIRST = 5;
let catalogue: Catalogue;
const missed: string[] = [];
const empty: string[] = [];

beforeAll(async () => {
  likeABrowser();
  await emptyStore();
  catalogue = new Catalogue();
  await catalogue.open();
  const changes = sounds.map(({ path }, i) => {
    const [file, ...folders] = path.split('/').reverse();
    const fields = { fxName: readableName(path), file, folder: folders.reverse().join('/') };
    const sound = soundOf(FIRST + i, fields);
    return { table: 'sounds' as const, id: sound.id, after: { ...sound, path } };
  });
  await catalogue.apply({ label: 'Take in', at: 1, undoable: false, changes });
  for (const { query, of } of wanted) {
    const ids = [...(await catalogue.ids({ text: `${query} ` }))];
    if (ids.length === 0) empty.push(query);
    else if (!ids.slice(0, 10).some((id) => sounds[id - FIRST].of === of))
      missed.push(
        `${query}: ${ids
          .slice(0, 3)
          .map((id) => sounds[id - FIRST].path)
          .join(' | ')}`,
      );
  }
});
afterAll(() => catalogue.close());

test('the library has 1,500 different names, and 200 questions are asked', () => {
  expect(new Set(sounds.map((s) => s.path)).size).toBeGreaterThanOrEqual(1500);
  expect(wanted.length).toBeGreaterThanOrEqual(200);
});

test('nine of ten find something that fits among the first ten, and none finds nothing', () => {
  if (process.env.SHOW_MISSED) console.log([...empty, ...missed].join('\n'));
  expect(empty).toEqual([]);
  expect(1 - missed.length / wanted.length).toBeGreaterThanOrEqual(0.9);
});
