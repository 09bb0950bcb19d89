import { encodeFlac, memorySource, planLabels, readAudioFile, spliced, writeAiff, writeWav } from '@core/files';
import { describe as described, flacLabelsOf, labelsToWrite, languageFields, wavLabelsOf } from '@core/library';
import { soundOf } from '../helpers/catalogue';
import { hit } from '../helpers/signals';

// Descriptions and keywords in further languages go along with the file, and come back as they were.

const rate = 8000;
const planes = [hit(rate, 0.2)];
const said = {
  'description@de': 'Eichentor fällt ins Schloß',
  'keywords@pt-BR': ['portão', 'madeira'],
  'description@ja': '扉',
};
const sound = { ...soundOf(1, said), marks: { anchor: -1 } };
const files: Record<string, () => Promise<Uint8Array>> = {
  WAV: () => Promise.resolve(writeWav(planes, { rate, bits: 16 })),
  AIFF: () => Promise.resolve(writeAiff(planes, { rate, bits: 16 })),
  FLAC: () => encodeFlac(planes, { rate, bits: 16 }),
};
const found = { rootId: 1, rootName: 'R', path: 'x.wav', size: 1, modified: 1, intakeId: 1, now: 1 };
const fieldsOf = async (bytes: Uint8Array) =>
  described(await readAudioFile(memorySource(bytes)), found, () => undefined).fields;
const inLanguages = (fields: object) => Object.fromEntries(Object.entries(fields).filter(([key]) => key.includes('@')));

test.each(Object.keys(files))('%s: written, read back, not written twice, and taken out again', async (kind) => {
  const old = memorySource(await files[kind]());
  const file = await readAudioFile(old);
  const { wanted, changes } = labelsToWrite(file, sound, new Map());
  expect(changes.map((c) => c.label)).toEqual(
    expect.arrayContaining(['Description (de)', 'Keywords (pt-BR)', 'Description (ja)']),
  );
  const known = { rate, frames: file.format.frames };
  const after = spliced((await planLabels(old, wanted, known))!.splice, old);
  const bytes = (await after.read(0, after.size)).slice();
  expect(inLanguages(await fieldsOf(bytes))).toEqual(said);
  const again = await readAudioFile(memorySource(bytes));
  expect(labelsToWrite(again, sound, new Map()).changes).toEqual([]);
  const none = {
    ...sound,
    fields: { ...sound.fields, ...Object.fromEntries(Object.keys(said).map((key) => [key, undefined as never])) },
  };
  const out = labelsToWrite(again, none, new Map());
  const gone = spliced((await planLabels(memorySource(bytes), out.wanted, known))!.splice, memorySource(bytes));
  expect(inLanguages(await fieldsOf((await gone.read(0, gone.size)).slice()))).toEqual({});
});

test('what is made anew has them, too; places that name no language of a field are nobody’s', async () => {
  expect(inLanguages(await fieldsOf(writeWav(planes, { rate, bits: 16 }, wavLabelsOf(sound, new Map()))))).toEqual(
    said,
  );
  expect(
    inLanguages(await fieldsOf(await encodeFlac(planes, { rate, bits: 16 }, flacLabelsOf(sound, new Map())))),
  ).toEqual(said);
  expect(
    languageFields([
      'iXML.USER.FXNAME-de',
      'iXML.USER.DESCRIPTION-',
      'ID3.TXXX.description@not a tag',
      'title@de',
      'description',
    ]),
  ).toEqual([]);
});
