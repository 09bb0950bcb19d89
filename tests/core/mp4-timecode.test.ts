import { memorySource, mp4Timecode } from '@core/files';
import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { run, scratch, testWith } from '../helpers/programs';

// Start timecodes of films: QuickTime File Format, "Timecode Media".

const bytes = (...numbers: number[]) => Uint8Array.from(numbers);
const word = (n: number) => bytes(n >>> 24, (n >> 16) & 255, (n >> 8) & 255, n & 255);
const text = (t: string) => Uint8Array.from(t, (c) => c.charCodeAt(0));
const joined = (...parts: Uint8Array[]) => Uint8Array.from(parts.flatMap((p) => [...p]));
const box = (type: string, ...parts: Uint8Array[]) => {
  const inner = joined(...parts);
  return joined(word(inner.length + 8), text(type), inner);
};
/** A film with nothing in it but a timecode track. @param offset of its sample: behind the movie box */
function film(frame: number, nominal: number, drop: boolean, wide = false): Uint8Array {
  const entry = box(
    'tmcd',
    ...[new Uint8Array(6), bytes(0, 1), word(0), word(drop ? 1 : 0), word(30_000), word(1001), bytes(nominal, 0)],
  );
  const make = (at: number) => {
    const offsets = wide ? box('co64', word(0), word(1), word(0), word(at)) : box('stco', word(0), word(1), word(at));
    const table = box('stbl', box('stsd', word(0), word(1), entry), offsets);
    const other = box(
      'trak',
      box('mdia', box('minf', box('stbl', box('stsd', word(0), word(1), box('avc1', new Uint8Array(78)))))),
    );
    return joined(box('ftyp', text('qt  ')), box('moov', other, box('trak', box('mdia', box('minf', table)))));
  };
  const head = make(0).length;
  return joined(make(head + 8), box('mdat', word(frame)));
}
const read = (data: Uint8Array) => mp4Timecode(memorySource(data));

test('the frame, what a second counts and whether numbers are dropped are read, whichever track it is', async () => {
  for (const wide of [false, true]) {
    expect(await read(film(107_892, 30, true, wide))).toEqual({ frame: 107_892, nominal: 30, drop: true });
    expect(await read(film(86_405, 24, false, wide))).toEqual({ frame: 86_405, nominal: 24, drop: false });
  }
  expect(await read(box('ftyp', text('qt  ')))).toBeUndefined();
  expect(await read(new Uint8Array(0))).toBeUndefined();
});

test('a film that is damaged anywhere, or cut off, has another timecode or none, and holds nobody up', async () => {
  const whole = film(107_892, 30, true);
  await fc.assert(
    fc.asyncProperty(fc.nat(whole.length - 1), fc.nat(255), fc.nat(whole.length), async (at, value, length) => {
      const broken = whole.slice();
      broken[at] = value;
      for (const data of [broken, broken.subarray(0, length)]) {
        const found = await read(data);
        expect(found === undefined || Number.isInteger(found.frame)).toBe(true);
      }
    }),
    { numRuns: 500 },
  );
});

testWith('ffmpeg')('what another program wrote is read as it was told', async () => {
  const folder = scratch();
  for (const [code, rate, frame, nominal, drop] of [
    ['10:20:30:05', '25', 930_755, 25, false],
    ['01:00:00;00', '30000/1001', 107_892, 30, true],
  ] as const) {
    const path = join(folder, `${nominal}.mov`);
    run('ffmpeg', '-v', 'error', '-y', '-f', 'lavfi', '-i', `color=s=64x64:r=${rate}:d=0.2`, '-timecode', code, path);
    expect(await read(new Uint8Array(readFileSync(path)))).toEqual({ frame, nominal, drop });
  }
});
