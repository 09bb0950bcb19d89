import { writeWav } from '@core/files';
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
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
