import { memorySource, readAudioFile, readIxml, readXmp, writeWav } from '@core/files';
import { Random } from '@core/synth';
import { checkWorkbook } from '@platform/labelling/workbook';
import { zipSync } from 'fflate';
import { cpuClock } from '../helpers/cpu';
import { damaged, id3, latin, seeds, survive } from '../helpers/fuzz';
import { feed, spoilt, targets } from '../helpers/fuzz-files';
import { sine } from '../helpers/signals';

test('20,000 damaged files: a value or a clear error each, soon, and without reading more than there is', async () => {
  const random = new Random(20261);
  const files = seeds();
  const kinds = { read: 0, refused: 0 };
  const slow: number[] = [];
  for (let n = 0; n < 20_000; n++) {
    const bytes = damaged(files, random);
    const { kind, ms, asked } = await survive(bytes).catch((error: Error) => {
      throw new Error(`case ${n}: ${error.message}`, { cause: error });
    });
    kinds[kind]++;
    if (ms > 50) slow.push(ms);
    // Windows overlap; yet a file of these sizes is never read more than some times over.
    expect(asked).toBeLessThan(40 * bytes.length + 200_000);
  }
  // A pause of the machine or of the collector may fall into any case; a case that is slow by itself falls there each time.
  expect(slow.length).toBeLessThan(100);
  expect(kinds.read).toBeGreaterThan(3000);
  expect(kinds.refused).toBeGreaterThan(3000);
}, 300_000);

test.each([
  [
    'entities that multiply',
    `<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa">${Array.from({ length: 20 }, (_, i) => `<!ENTITY b${i} "&a;&a;&a;&a;&a;&a;&a;&a;">`).join('')}]><BWFXML><NOTE>&b19;</NOTE></BWFXML>`,
  ],
  ['elements a hundred thousand deep', `<BWFXML>${'<a>'.repeat(100_000)}`],
  ['a megabyte of text', `<BWFXML><NOTE>${'x'.repeat(1_000_000)}</NOTE></BWFXML>`],
  ['entities by the ten thousand', `<BWFXML><NOTE>${'&amp;'.repeat(60_000)}</NOTE></BWFXML>`],
  ['nothing but brackets', '<'.repeat(100_000)],
])('XML with %s is refused in words, at once', (_, text) => {
  for (const read of [readIxml, readXmp]) {
    const labels = new Map<string, string>();
    const taken = cpuClock();
    expect(read(text, labels)).toMatch(/iXML|XMP/);
    expect(taken()).toBeLessThan(3000);
    expect([...labels.values()].join('').length).toBeLessThan(500_000);
  }
});

test('a picture of many megabytes costs nothing to pass by, and is found', async () => {
  const image = new Uint8Array(3_000_000).fill(9);
  const apic = new Uint8Array([
    0,
    ...Array.from('image/jpg\0', (c) => c.charCodeAt(0)),
    3,
    0,
    ...image.subarray(0, 10),
  ]);
  const content = new Uint8Array(apic.length + image.length);
  content.set(apic);
  content.set(image, apic.length);
  const tag = id3({ APIC: content, TIT2: latin('Behind the picture') });
  const bytes = writeWav([sine(440, 8000, 400)], { rate: 8000, bits: 16 }, { chunks: [{ id: 'id3 ', bytes: tag }] });
  let asked = 0;
  const source = memorySource(bytes);
  const file = await readAudioFile({ ...source, read: (o, n) => ((asked += n), source.read(o, n)) });
  expect(file.labels.get('ID3.TIT2')).toBe('Behind the picture');
  expect(file.artwork).toMatchObject({ mime: 'image/jpeg', length: image.length + 10 });
  expect(asked).toBeLessThan(120_000);
});

test.each(targets.map((t) => [t.name, t] as const))(
  'spoilt %s are taken or refused in words, 2,000 times',
  async (_, target) => {
    const random = new Random(77);
    expect(await feed(target, target.seed)).toBe('taken');
    const kinds = { taken: 0, refused: 0 };
    for (let n = 0; n < 2000; n++) kinds[await feed(target, spoilt(target.seed, random))]++;
    expect(kinds.taken).toBeGreaterThan(0);
  },
);

test('a workbook with one cell far out is refused before anything is made of it', async () => {
  const book = (xml: string) => zipSync({ 'xl/worksheets/sheet1.xml': new TextEncoder().encode(xml) });
  const cell = (ref: string) =>
    book(`<worksheet><sheetData><row><c r="A1"/><c r="${ref}"/></row></sheetData></worksheet>`);
  for (const ref of ['XFD1048576', 'A99999999', 'ZZZ1'.slice(0, 4), 'AAAA1'])
    await checkWorkbook(cell(ref)).then(
      () => expect(ref).toBe('AAAA1'),
      (error: Error) => expect(error.message).toMatch(/far outside|stands at/),
    );
  await expect(checkWorkbook(book('<worksheet><dimension ref="A1:XFD1048576"/></worksheet>'))).rejects.toThrow(
    /XFD1048576/,
  );
  await expect(checkWorkbook(book('<worksheet><row r="99999999"/></worksheet>'))).rejects.toThrow(/far outside/);
  await checkWorkbook(cell('Z5000'));
});
