// Writing's lines of the benchmarks: labels into files by the server's own writer, beside a plain copy of the same files.
import {
  copyFileSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  readSync,
  rmSync,
  statSync,
  writeFileSync,
  closeSync,
  fsyncSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { planLabels, quickHashOf, writeWav, type ByteSource, type Piece } from '@core/files';
import type { WriteRequest } from '@core/schemas';
import { rootFor } from '../src/server/roots';
import { FileWriter } from '../src/server/writing';

type Line = (what: string, measured: string, reach: string) => void;
const FILES = Number(process.env.BENCH_FILES ?? 60);
const FRAMES = 1_750_000;

function opened(path: string): { source: ByteSource; close: () => void } {
  const file = openSync(path, 'r');
  const { size } = statSync(path);
  const read = (offset: number, length: number) => {
    const bytes = new Uint8Array(Math.max(0, Math.min(length, size - offset)));
    readSync(file, bytes, 0, bytes.length, offset);
    return Promise.resolve(bytes);
  };
  return { source: { name: path, size, read }, close: () => closeSync(file) };
}

/** What has to be written for a file to have labels; anew by a filler in front of all. */
async function requestFor(folder: string, name: string, round: number, anew: boolean): Promise<WriteRequest> {
  const path = join(folder, name);
  const { source, close } = opened(path);
  const places = new Map([
    ['bext.Description', `A gate swings in the wind, round ${round}`],
    ['iXML.ASWG.fxName', `Gate swing ${round}`],
    ['INFO.INAM', `Gate swing ${round}`],
  ]);
  const plan = (await planLabels(source, { places }, { rate: 48_000, frames: FRAMES }))!;
  const hash = await quickHashOf(source);
  close();
  const { size, mtimeMs } = statSync(path);
  const asked = (p: Piece) => ('bytes' in p ? { base64: Buffer.from(p.bytes).toString('base64') } : p);
  const filler = Buffer.from('JUNK\u0004\0\0\0\0\0\0\0', 'latin1');
  const pieces = anew
    ? [{ from: 0, length: 12 }, { base64: filler.toString('base64') }, { from: 12, length: size - 12 }]
    : plan.splice.pieces.map(asked);
  const audio = anew ? { ...plan.audio, after: plan.audio.before + filler.length } : plan.audio;
  return { path: name, size, modified: mtimeMs, hash, pieces, audio };
}

/** Labels into files of 10 MB whose audio comes first, in place and anew, beside copying them. */
export async function writing(line: Line): Promise<void> {
  const top = mkdtempSync(join(tmpdir(), 'cormorant-bench-'));
  try {
    const folder = join(top, 'sounds');
    mkdirSync(folder);
    mkdirSync(join(top, 'copies'));
    const one = writeWav(
      [0, 1].map((c) => Float32Array.from({ length: FRAMES }, (_, i) => Math.sin(i * (c + 1) * 0.01) / 2)),
      { rate: 48_000, bits: 24 },
    );
    const names = Array.from({ length: FILES }, (_, i) => `sound ${i}.wav`);
    // On the disk, as files that were recorded are: what is flushed with a label is not the making of the file.
    const recorded = () => names.forEach((name) => writeFileSync(join(folder, name), one, { flush: true }));
    const writer = new FileWriter(join(top, 'notes'));
    const root = { ...rootFor(folder), writes: true };
    const copied = () => {
      const from = performance.now();
      for (const name of names) {
        const to = join(top, 'copies', name);
        copyFileSync(join(folder, name), to);
        const file = openSync(to, 'r+');
        fsyncSync(file);
        closeSync(file);
      }
      return performance.now() - from;
    };
    const written = async (round: number, anew: boolean) => {
      const from = performance.now();
      // As many at once as the page asks for.
      let next = 0;
      const work = async () => {
        for (let i = next++; i < names.length; i = next++)
          await writer.write(root, await requestFor(folder, names[i], round, anew));
      };
      await Promise.all([work(), work(), work()]);
      return performance.now() - from;
    };
    // Of three rounds the middle one: a disk that is busy with what came before would tell of that.
    const rounds: { copy: number; first: number; again: number; anew: number }[] = [];
    for (let round = 0; round < 3; round++) {
      recorded();
      rounds.push({
        copy: copied(),
        first: await written(1, false),
        again: await written(2, false),
        anew: await written(3, true),
      });
    }
    const middle = (of: keyof (typeof rounds)[0]) => rounds.map((r) => r[of]).sort((a, b) => a - b)[1];
    const copy = middle('copy');
    const times = (ms: number) =>
      `${(ms / copy).toFixed(2)} times a copy (${(ms / FILES).toFixed(0)} to ${(copy / FILES).toFixed(0)} ms a file)`;
    line(
      `Labels into ${FILES} WAV files of 10 MB, audio first, audio checked before and after`,
      times(middle('first')),
      '1.5 times a plain copy',
    );
    line('The same a second time, other labels', times(middle('again')), '1.5 times a plain copy');
    line('The same where all of it has to be written anew', times(middle('anew')), '');
  } finally {
    rmSync(top, { recursive: true, force: true });
  }
}
