import {
  againstClick,
  AROUND,
  nearestCrossing,
  SpectrogramColumn,
  spectrogramSize,
  waveColumns,
  type WaveColumns,
} from '@core/audio';
import { writeWav } from '@core/files';
import type { Loadable } from './loader';
import { openSound, type SoundReader } from './reader';
import { openFile } from '../files/roots';

/** A spectrogram of a part of a sound. */
export interface Spectrogram {
  from: number;
  to: number;
  columns: number;
  rows: number;
  /** Column after column, each from its lowest row up; see `SpectrogramColumn`. */
  values: Uint8Array;
}

/** Frames that are read at once for a waveform; of longer parts the contour is shown instead. */
const MOST = 6_000_000;
/** Seconds about an edge in which it may move to a zero crossing. */
const CROSSING = 0.02;
/** Columns after which a newer request is looked for. */
const TURN = 64;

/** Looks at sounds closely, in a worker: waveforms to the sample, spectrograms. */
export class Viewer {
  private open: { id: number; reader: Promise<SoundReader> } | undefined;
  private asked = { wave: 0, spectrum: 0 };

  private reader({ sound, root }: Loadable): Promise<SoundReader> {
    if (this.open?.id !== sound.id) {
      const reader = openFile(root, sound.path, sound.size).then((s) => openSound(s, sound.format));
      this.open = { id: sound.id, reader };
      // A file that is not there now may be back later.
      reader.catch(() => (this.open = undefined));
    }
    return this.open.reader;
  }

  /**
   * The waveform of a part of a sound; undefined when it is too long for that, or a newer one was asked for.
   * @throws Error with the reason in words for the user when it cannot be read
   */
  async wave(item: Loadable, from: number, to: number, columns: number): Promise<WaveColumns | undefined> {
    const mine = ++this.asked.wave;
    if (to - from > MOST || to <= from) return undefined;
    const planes = await (await this.reader(item)).read(from, to - from);
    if (mine !== this.asked.wave) return undefined;
    // Where samples are fewer than columns, each is one.
    return waveColumns(planes, from, Math.min(columns, planes[0].length));
  }

  /** The frame nearest to one at which the sound crosses zero; the frame itself where that is far away. */
  async crossing(item: Loadable, frame: number): Promise<number> {
    const { rate, frames } = item.sound.format;
    const near = Math.round(CROSSING * rate);
    const from = Math.max(0, frame - near);
    const planes = await (await this.reader(item)).read(from, Math.min(frames, frame + near) - from);
    return from + nearestCrossing(planes, frame - from);
  }

  /** A short excerpt around an instant against a click, as a WAV file; see `againstClick`. */
  async against(item: Loadable, frame: number): Promise<Uint8Array<ArrayBuffer>> {
    const { rate, frames } = item.sound.format;
    const half = Math.round(AROUND * rate);
    const from = Math.max(0, frame - half);
    const planes = await (await this.reader(item)).read(from, Math.min(frames, frame + half) - from);
    // An anchor near the beginning has silence before it.
    const clicked = againstClick(planes, frame - from, rate);
    return writeWav(clicked, { rate, bits: 24 }) as Uint8Array<ArrayBuffer>;
  }

  /** The spectrogram of a part of a sound, its channels taken together; undefined when a newer one was asked for. */
  async spectrogram(
    item: Loadable,
    from: number,
    to: number,
    columns: number,
    rows: number,
  ): Promise<Spectrogram | undefined> {
    const mine = ++this.asked.spectrum;
    if (to <= from) return undefined;
    const { rate, frames } = item.sound.format;
    const reader = await this.reader(item);
    const column = new SpectrogramColumn(spectrogramSize(to - from, columns), rows, rate);
    const { size } = column;
    const values = new Uint8Array(columns * rows);
    const mono = new Float32Array(size);
    const near = to - from <= MOST;
    const base = Math.max(0, from - size);
    const whole = near ? await reader.read(base, Math.min(frames, to + size) - base) : undefined;
    for (let x = 0; x < columns; x++) {
      if (x % TURN === 0) await new Promise<void>((done) => setTimeout(done));
      if (mine !== this.asked.spectrum) return undefined;
      const start = Math.round(from + ((x + 0.5) * (to - from)) / columns - size / 2);
      const first = Math.max(0, start);
      const planes =
        whole?.map((p) => p.subarray(first - base, start + size - base)) ??
        (await reader.read(first, Math.min(frames, start + size) - first));
      mono.fill(0);
      for (const plane of planes)
        for (let i = 0; i < plane.length; i++) mono[first - start + i] += plane[i] / planes.length;
      column.of(mono, values, x * rows);
    }
    return { from, to, columns, rows, values };
  }
}
