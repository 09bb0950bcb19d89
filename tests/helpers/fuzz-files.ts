import { mp3Extent, memorySource, oggHeads, oggRuns, pictureSize, scanOgg } from '@core/files';
import { decodeText, readDelimited } from '@core/library';
import { frameRate, readDawproject, readEdl, readOtio } from '@core/scene';
import { checkedFile, mended, recordFault, validators } from '@core/schemas';
import { loosened, parseQuery } from '@core/search';
import type { Random } from '@core/synth';
import { zipSync } from 'fflate';
import { checkWorkbook } from '@platform/labelling/workbook';
import { linesOf } from '@platform/labelling/lines';
import { cpuClock } from './cpu';
import { examples } from './records';

/** What is fed with damaged input beside the readers of sound files: a seed, and what takes it. */
export interface Target {
  name: string;
  seed: Uint8Array;
  take: (bytes: Uint8Array) => unknown;
}

const bytesOf = (text: string) => new TextEncoder().encode(text);
const json = (value: unknown) => bytesOf(JSON.stringify(value, null, 1));

/** A page of an Ogg stream; its checksum is left at zero, as most damage is to it anyway. */
function oggPage(serial: number, granule: number, flags: number, body: Uint8Array): Uint8Array {
  const segments = Math.floor(body.length / 255) + 1;
  const page = new Uint8Array(27 + segments + body.length);
  page.set(bytesOf('OggS'));
  page[5] = flags;
  const view = new DataView(page.buffer);
  view.setBigUint64(6, BigInt(granule), true);
  view.setUint32(14, serial, true);
  page[26] = segments;
  page.fill(255, 27, 27 + segments - 1);
  page[27 + segments - 1] = body.length % 255;
  page.set(body, 27 + segments);
  return page;
}
const joined = (...parts: Uint8Array[]) => Uint8Array.from(parts.flatMap((p) => [...p]));

const sheet =
  '<worksheet><dimension ref="A1:C3"/><sheetData><row r="1"><c r="A1"/><c r="C1"/></row></sheetData></worksheet>';
const timeline = {
  OTIO_SCHEMA: 'Timeline.1',
  name: 'Ferry',
  tracks: {
    OTIO_SCHEMA: 'Stack.1',
    children: [
      {
        OTIO_SCHEMA: 'Track.1',
        name: 'A',
        kind: 'Audio',
        children: [
          {
            OTIO_SCHEMA: 'Clip.2',
            name: 'step',
            source_range: { start_time: { value: 0, rate: 24 }, duration: { value: 4, rate: 24 } },
          },
        ],
      },
    ],
  },
};
const edl =
  'TITLE: Ferry\nFCM: NON-DROP FRAME\n001  STEP     A     C        00:00:00:00 00:00:01:00 01:00:08:00 01:00:09:00\n* FROM CLIP NAME: step.wav\n';
const project =
  '<Project><Structure><Track id="a" name="A"/></Structure><Arrangement><Lanes timeUnit="seconds"><Lanes track="a"><Clips><Clip time="1" duration="2" playStart="0"><Audio><File path="a.wav"/></Audio></Clip></Clips></Lanes></Lanes><Markers><Marker time="1" name="m"/></Markers></Arrangement></Project>';
const file = (validator: Parameters<typeof checkedFile>[1]) => (bytes: Uint8Array) =>
  checkedFile(decodeText(bytes), validator, 'x.json');

/** Every kind of file, text and record that comes in beside sounds. */
export const targets: readonly Target[] = [
  {
    name: 'recipes',
    seed: json({
      format: 'cormorant-recipes',
      version: 1,
      recipes: [{ name: 'x', steps: [{ kind: 'case', on: true, to: 'notes', form: 'upper' }] }],
    }),
    take: file(validators.recipeFile),
  },
  {
    name: 'stamps',
    seed: json({ format: 'cormorant-stamps', version: 1, stamps: [{ name: 'Yard', values: { library: 'Y' } }] }),
    take: file(validators.stampFile),
  },
  {
    name: 'pulls',
    seed: json({
      format: 'cormorant-pull',
      version: 1,
      name: 'Reel',
      sounds: [{ root: 'a', path: 'b.wav', note: 'n' }],
    }),
    take: file(validators.pullFile),
  },
  {
    name: 'keys',
    seed: json({ format: 'cormorant-keys', version: 1, keys: { Undo: ['Ctrl+z'] } }),
    take: file(validators.keyFile),
  },
  {
    name: 'records',
    seed: json(examples.sounds),
    take: (bytes) => {
      const record = JSON.parse(decodeText(bytes)) as object;
      const fault = recordFault('sounds', record);
      const good = fault && typeof record === 'object' && record !== null ? mended('sounds', record) : undefined;
      if (good && recordFault('sounds', good)) throw new TypeError('what was mended is not good');
    },
  },
  {
    name: 'lines of a backup',
    seed: bytesOf(
      Object.entries(examples)
        .map(([table, record]) => JSON.stringify({ table, record }))
        .join('\n'),
    ),
    take: (bytes) => linesOf(new Blob([bytes as Uint8Array<ArrayBuffer>]).stream(), 1e6, () => undefined),
  },
  {
    name: 'sheets',
    seed: bytesOf('File name;Description\r\n"a ""b"".wav";wet, "near"\r\nb.wav;\t=1+1\r\n'),
    take: readDelimited,
  },
  { name: 'workbooks', seed: zipSync({ 'xl/worksheets/sheet1.xml': bytesOf(sheet) }), take: checkWorkbook },
  { name: 'timelines', seed: json(timeline), take: (bytes) => readOtio(decodeText(bytes)) },
  { name: 'edit lists', seed: bytesOf(edl), take: (bytes) => readEdl(decodeText(bytes), frameRate('24')) },
  { name: 'projects', seed: bytesOf(project), take: (bytes) => readDawproject(decodeText(bytes), 'x') },
  {
    name: 'Ogg pages',
    seed: joined(
      oggPage(7, 0, 2, new Uint8Array(30)),
      oggPage(7, 0, 0, new Uint8Array(300)),
      oggPage(7, 900, 4, new Uint8Array(600)),
    ),
    take: (bytes) => {
      const scan = scanOgg(bytes);
      for (const run of oggRuns(bytes, scan, oggHeads(scan)))
        if (run.bytes.length > 2 * bytes.length) throw new TypeError('a part is longer than the whole');
    },
  },
  {
    name: 'MP3 heads',
    seed: joined(
      Uint8Array.of(0xff, 0xfb, 0x90, 0),
      new Uint8Array(32),
      bytesOf('Xing'),
      Uint8Array.of(0, 0, 0, 15, 0, 0, 0, 45),
      new Uint8Array(400),
    ),
    take: (bytes) => mp3Extent(memorySource(bytes)),
  },
  {
    name: 'pictures',
    seed: joined(
      Uint8Array.of(0xff, 0xd8, 0xff, 0xe0, 0, 4, 1, 1, 0xff, 0xc0, 0, 17, 8, 1, 0, 1, 0),
      new Uint8Array(40),
    ),
    take: pictureSize,
  },
  {
    name: 'queries',
    seed: bytesOf('creak (wood OR timber) -door "pier plank" creak* length:<2s tempo:90..120 file:~47b'),
    take: (bytes) => loosened(parseQuery(decodeText(bytes)).query),
  },
];

/** What is said of a fault that nobody thought of. */
const thoughtless =
  /undefined|null \(|Cannot read|is not a function|is not iterable|Invalid array|call stack|out of bounds|NaN/i;

/** Damages a seed in some places, as `damaged` does to files, with what breaks texts among it. */
export function spoilt(seed: Uint8Array, random: Random): Uint8Array {
  let bytes = seed.slice();
  const tokens = [
    'null',
    '{',
    '}',
    '[',
    ']',
    '"',
    '-1',
    '9007199254740993',
    '1e999',
    '__proto__',
    '(',
    ')',
    ':',
    '<',
    '\0',
    '\r',
    '💥',
    'XFD1048576',
    ';',
  ];
  for (let n = 1 + Math.floor(random.next() * 4); n > 0 && bytes.length > 0; n--) {
    const at = Math.floor(random.next() * bytes.length);
    const kind = Math.floor(random.next() * 5);
    if (kind === 0) bytes[at] = Math.floor(random.next() * 256);
    else if (kind === 1) bytes = bytes.slice(0, at);
    else if (kind === 2) bytes = joined(bytes.slice(0, at), bytesOf(random.pick(tokens)), bytes.slice(at));
    else if (kind === 3) bytes = joined(bytes.slice(0, at), bytes.slice(at, at + 40), bytes.slice(at));
    else bytes = joined(bytes.slice(0, at), bytes.slice(at + Math.floor(random.next() * 30)));
  }
  return bytes;
}

/** Feeds a target. @throws Error when it fails in a way that says nothing to anybody, or does not come to an end soon */
export async function feed({ take, name }: Target, bytes: Uint8Array): Promise<'taken' | 'refused'> {
  const taken = cpuClock();
  try {
    await take(bytes);
    return 'taken';
  } catch (error) {
    const { message } = error as Error;
    if (
      !(error instanceof Error) ||
      error instanceof RangeError ||
      error instanceof TypeError ||
      thoughtless.test(message)
    )
      throw new Error(`${name}: ${String(error)}`, { cause: error });
    return 'refused';
  } finally {
    if (taken() > 2000) throw new Error(`${name}: took ${Math.round(taken())} ms`);
  }
}
