import 'fake-indexeddb/auto';
import type { Sound } from '@core/library';
import { searchLexicon } from '@platform/finding/lexicon';
import { Catalogue } from '@platform/catalogue/catalogue';
import { emptyStore, likeABrowser } from '../helpers/browser';
import { soundOf } from '../helpers/catalogue';

// Words as people type them, against sounds that nobody has given a category.

const names = [
  'Wooden door closes',
  'Collie in the yard',
  'Waves on shingle',
  'Rope stretch',
  'Tin lid falls',
  'Lorry idles',
  'Footfall, gravel',
  'AMB_frst_dstnt',
  'latchclick oakgate',
];
let catalogue: Catalogue;

beforeAll(async () => {
  likeABrowser();
  await emptyStore();
  catalogue = new Catalogue();
  await catalogue.open();
  const sounds: Sound[] = names.map((fxName, i) => soundOf(5 + i, { fxName, file: `${fxName}.wav` }));
  const changes = sounds.map((s) => ({ table: 'sounds' as const, id: s.id, after: { ...s } }));
  await catalogue.apply({ label: 'Take in', at: 1, undoable: false, changes });
});
afterAll(() => catalogue.close());

const found = async (text: string) => [...(await catalogue.ids({ text }))].map((id) => names[id - 5]);

test.each<[string, string[]]>([
  ['Tür ', ['Wooden door closes']],
  ['porte ', ['Wooden door closes']],
  ['puerta ', ['Wooden door closes']],
  ['ドア ', ['Wooden door closes']],
  ['dog ', ['Collie in the yard']],
  ['truck ', ['Lorry idles']],
  ['footsteps ', ['Footfall, gravel']],
  ['ambience ', ['AMB_frst_dstnt']],
  ['distant ', ['AMB_frst_dstnt']],
  ['forest ambience distant ', ['AMB_frst_dstnt']],
  ['wave ', ['Waves on shingle']],
  ['wav ', []],
  ['name:wav ', []],
  ['latch click ', ['latchclick oakgate']],
  ['gate ', ['latchclick oakgate']],
  // None has all of the words.
  ['metal lid drop ', ['Tin lid falls']],
  ['heavy wooden door ', ['Wooden door closes']],
  ['heavy AND wooden AND door ', []],
])('%s', async (text, expected) => expect(await found(text)).toEqual(expected));

test('an answer says which word its sounds lack, and how far it may reach is for whoever asks', async () => {
  const lacks = [{ kind: 'without', word: 'heavy', at: 0, count: 1 }];
  expect((await catalogue.first({ text: 'heavy wooden door ' }))?.bands).toEqual(lacks);
  expect((await catalogue.first({ text: 'wooden door ' }))?.bands).toEqual([]);
  expect(await catalogue.first({ text: 'heavy wooden door ', reach: 'meant' })).toMatchObject({ count: 0 });
  expect((await catalogue.first({ text: 'truck ' }))?.bands).toMatchObject([{ kind: 'meant' }]);
  expect(await catalogue.first({ text: 'truck ', reach: 'words' })).toMatchObject({ count: 0, bands: [] });
});

test('looking inside of such results looks inside of what was listed', async () => {
  const inside = [{ text: 'heavy wooden door ' }];
  expect([...(await catalogue.ids({ text: 'closes ', inside }))]).toEqual([5]);
  expect([...(await catalogue.ids({ text: 'rope ', inside }))]).toEqual([]);
});

test.each<[string, string[] | undefined]>([
  ['latchclick', ['latch', 'click']],
  ['oakgate', ['oak', 'gate']],
  ['carpet', undefined],
  ['started', undefined],
  ['footsteps', undefined],
  ['mfr0231', undefined],
  ['quxzzle', undefined],
])('%s is made of %s', (word, parts) => expect(searchLexicon().parts!(word)).toEqual(parts));
