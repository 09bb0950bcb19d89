import { writeWav } from '@core/files';
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { sine } from './signals';

/** The name that tries every quoting mistake at once. */
export const oddName = `Möwe 'n' "gull" & <i>co<i> 100% #2? 😀.wav`;

/**
 * A folder as it comes from somebody's disk: files made by sox where it is installed (by our own writer elsewhere), in
 * depths and rates that differ, among them three that are no sounds at all.
 */
export function foreignFolder(): { folder: string; sounds: number } {
  const top = mkdtempSync(join(tmpdir(), 'cormorant-foreign-'));
  const folder = join(top, 'Field tapes');
  mkdirSync(join(folder, 'Gulls & co'), { recursive: true });
  const sox = existsSync('/usr/bin/sox');
  const make = (path: string, rate: number, bits: 8 | 16 | 24 | 32, float = false) => {
    const file = join(folder, path);
    if (sox) {
      const coding = [
        '-b',
        String(bits),
        '-e',
        float ? 'floating-point' : bits === 8 ? 'unsigned-integer' : 'signed-integer',
      ];
      execFileSync('sox', [
        '-D',
        '-n',
        '-r',
        String(rate),
        '-c',
        '2',
        ...coding,
        file,
        'synth',
        '1.5',
        'sine',
        '440',
        'gain',
        '-9',
      ]);
    } else writeFileSync(file, writeWav([sine(440, rate, rate * 1.5)], { rate, bits: bits === 8 ? 16 : bits, float }));
  };
  make('eight bit.wav', 22050, 8);
  make('cd.wav', 44100, 16);
  make('float.wav', 48000, 32, true);
  make('high rate.wav', 96000, 24);
  make(`Gulls & co/${oddName}`, 48000, 24);
  const whole = writeWav([sine(440, 48000, 48000)], { rate: 48000, bits: 24 }, { bext: { Description: 'cut' } });
  writeFileSync(join(folder, 'cut off.wav'), whole.subarray(0, 60_000));
  writeFileSync(join(folder, 'cut in the head.wav'), whole.subarray(0, 200));
  writeFileSync(join(folder, 'empty.wav'), '');
  writeFileSync(join(folder, 'notes.wav'), 'These are notes about the gulls, not the gulls.');
  writeFileSync(join(folder, 'readme.txt'), 'left alone');
  return { folder, sounds: 6 };
}

/**
 * A folder of ninety files that are damaged, odd or called something else, of every kind that we read.
 * @returns the folder, and how many of its files intake looks at
 */
export function oddFolder(): { folder: string; looked: number } {
  const folder = join(mkdtempSync(join(tmpdir(), 'cormorant-odd-')), 'Odd');
  mkdirSync(folder);
  let looked = 0;
  const put = (name: string, bytes: Uint8Array | string) => {
    writeFileSync(join(folder, name), bytes);
    if (/\.(wav|aif|flac|ogg|opus|mp3|m4a)$/.test(name)) looked++;
  };
  const rate = 48_000;
  const good = writeWav(
    [sine(440, rate, 9600)],
    { rate, bits: 16 },
    { bext: { Description: 'gate' }, info: { INAM: 'Gate' } },
  );
  const turned = (seed: number, from: number) =>
    good.map((b, i) => (i >= from && (i * 7 + seed) % 97 === 0 ? b ^ 0x55 : b));
  for (let i = 0; i < 12; i++) put(`cut ${i}.wav`, good.subarray(0, Math.floor((good.length * i) / 12)));
  for (let i = 0; i < 12; i++) put(`turned ${i}.wav`, turned(i, i % 2 ? 0 : 700));
  const liars = ['bext', 'fmt ', 'LIST', 'data'];
  for (const [i, id] of liars.entries())
    for (const [k, size] of [0, 1, 0x7fffffff, 0xffffffff].entries()) {
      const bytes = good.slice();
      const at = bytes.findIndex((_, n) => String.fromCharCode(...bytes.subarray(n, n + 4)) === id);
      if (at > 0) new DataView(bytes.buffer).setUint32(at + 4, size, true);
      put(`liar ${i}${k}.wav`, bytes);
    }
  const others = {
    html: '<!doctype html><script>alert(1)</script>',
    xml: '<?xml version="1.0"?><a/>',
    text: 'not a sound, but words about one',
    zip: 'PK\u0003\u0004rest',
    pdf: '%PDF-1.7',
    nothing: '',
    zeros: '\0'.repeat(5000),
  };
  const endings = ['wav', 'mp3', 'ogg', 'flac', 'm4a'];
  for (const [kind, content] of Object.entries(others)) for (const ending of endings) put(`${kind}.${ending}`, content);
  const coders: [string, string, string[]][] = [
    ['oggenc', 'ogg', ['-Q', '-o']],
    ['opusenc', 'opus', ['--quiet']],
    ['lame', 'mp3', ['--quiet']],
    ['flac', 'flac', ['-s', '-f', '-o']],
  ];
  const from = join(folder, 'good.wav');
  put('good.wav', good);
  for (const [program, ending, args] of coders) {
    if (!existsSync(`/usr/bin/${program}`)) continue;
    const to = join(folder, `coded.${ending}`);
    const ends = args.includes('-o') ? [...args, to, from] : [...args, from, to];
    execFileSync(program, ends, { stdio: 'ignore' });
    looked++;
    const bytes = readFileSync(to);
    put(`coded cut.${ending}`, bytes.subarray(0, bytes.length >> 1));
    put(`coded called.wav.${ending === 'mp3' ? 'ogg' : 'mp3'}`.replace('.wav', ` ${ending}`), bytes);
  }
  put('.hidden', 'left alone');
  put('notes.txt', 'left alone');
  return { folder, looked };
}
