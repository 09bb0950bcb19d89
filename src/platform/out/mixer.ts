import { CHUNK, Material, type MaterialSpan } from '@core/engine';
import {
  channelsOf,
  lengthOfScene,
  Mixdown,
  movingOf,
  type Moved,
  planOf,
  type Cue,
  type LineEffect,
  type MixCoder,
  type MixForm,
  type Lines,
  type MixLevels,
  type Scene,
  type Stem,
} from '@core/scene';
import { aroundSamples, FlacStream } from '@core/files';
import { downloadZip } from 'client-zip';
import { materialId, type Loadable } from '../audio/loader';
import { openSound, type SoundReader } from '../audio/reader';
import { loadablePlan } from '../audio/scene-items';
import { stretched, StretchedIds } from '../audio/stretch';
import { openFile } from '../files/roots';
import { projectArchive, type ProjectAnswer } from './projects';
import { scenesArchive, type ScenesAnswer } from './scene-archive';
import { workbookOf } from '../labelling/workbook';

/** What there is to say of what was mixed. */
export interface MixReport {
  /** Samples above full scale. */
  clipped: number;
  /** Highest magnitude. */
  peak: number;
  /** Sounds that could not be read, with the reason. */
  missing: { name: string; reason: string }[];
}

/** A finished mix on its way back to the window. */
export interface MixAnswer extends MixReport {
  /** A WAV file, or a FLAC file where that was asked for. */
  file: Blob;
  frames: number;
  levels: MixLevels;
}

/** How loud a mix is. */
export interface MeasureAnswer extends MixReport {
  levels: MixLevels;
  /** Short-term loudness every 0.1 s, LUFS. */
  course: Float32Array;
  /** The same of each bus, by its id. */
  buses: Map<number, { levels: MixLevels; course: Float32Array }>;
}

/** A sound that was rendered. */
export interface OneShotAnswer extends MixReport {
  audio: Blob;
  frames: number;
}

const ONE_SHOT = { channels: 2, bits: 24 } as const;

/** The stems of a mix, in one archive. */
export interface StemsAnswer extends MixReport {
  zip: Blob;
}

/** A sound of a mix, of which as much is held as the window needs. */
class Fed {
  readonly material: Material;
  private readonly chunks = new Set<number>();

  constructor(private readonly reader: SoundReader) {
    const { rate, frames, channels } = reader.format;
    this.material = new Material(rate, frames, channels);
  }

  /** Holds some spans, and lets go of all else. @throws Error in words for the user */
  async hold(spans: readonly MaterialSpan[]): Promise<void> {
    const last = Math.ceil(this.material.frames / CHUNK);
    const wanted = new Set<number>();
    for (const { start, end } of spans)
      for (let c = Math.floor(Math.max(0, start) / CHUNK); c * CHUNK < end && c < last; c++) wanted.add(c);
    const free = [...this.chunks].filter((c) => !wanted.has(c));
    this.material.drop(free);
    for (const c of free) this.chunks.delete(c);
    for (const c of [...wanted].sort((a, b) => a - b)) {
      if (this.chunks.has(c)) continue;
      this.material.put(c, await this.reader.read(c * CHUNK, CHUNK));
      this.chunks.add(c);
    }
  }
}

/** Renders mixes, in a worker. */
export class Mixer {
  /**
   * Mixes a scene, window by window; of its sounds no more is held than a window needs.
   * @param progress 0..1
   * @param length the sample before which it ends; that of the scene, when absent; @param from the one with which it begins
   * @param form how it is written; as stereo WAV of 24 bit at the scene's rate, when absent
   */
  async mix(
    scene: Scene,
    lines: Lines,
    cues: Cue[],
    sounds: Loadable[],
    progress: (share: number) => void,
    date = new Date(),
    length = lengthOfScene(scene, cues),
    form?: MixForm,
    from?: number,
  ): Promise<MixAnswer> {
    const parts: BlobPart[] = [];
    // A blob of its own may go to the disk; the parts of one that is not made yet stay in memory.
    const keep = (part: Uint8Array) => void parts.push(new Blob([part as Uint8Array<ArrayBuffer>]));
    const bits = form?.bits === 16 ? 16 : 24;
    const flac = form?.flac
      ? await FlacStream.open(channelsOf(form), { rate: form.rate ?? scene.sampleRate, bits })
      : undefined;
    const how = { form, from, coder: flac };
    const { mixdown, missing } = await this.render(scene, lines, cues, sounds, progress, length, keep, how);
    const { head, tail } = flac ? flac.finish(mixdown.comments(date)) : mixdown.around(date);
    const { clipped, peak } = mixdown;
    const all = [head as Uint8Array<ArrayBuffer>, ...parts, tail as Uint8Array<ArrayBuffer>];
    const file = new Blob(all, { type: flac ? 'audio/flac' : 'audio/wav' });
    return { file, frames: mixdown.frames, levels: mixdown.levels(), clipped, peak, missing };
  }

  /**
   * Renders a part of a scene as a sound of its own: until it has died away, as a WAV file of 24 bit without labels.
   * @param progress 0..1
   * @param span samples; what rings on behind its end is part of it, up to `rings` of them
   */
  async oneShot(
    scene: Scene & Moved,
    lines: Lines,
    cues: Cue[],
    sounds: Loadable[],
    progress: (share: number) => void,
    { from, to, rings }: { from: number; to: number; rings: number },
  ): Promise<OneShotAnswer> {
    const parts: Blob[] = [];
    const keep = (part: Uint8Array) => void parts.push(new Blob([part as Uint8Array<ArrayBuffer>]));
    const plan = planOf(lines.tracks, cues, lines.effects, scene.main);
    const length = Mixdown.endOf(plan, scene.sampleRate, to, rings);
    const { mixdown, missing } = await this.render(scene, lines, cues, sounds, progress, length, keep, { from });
    const frames = Math.max(to - from, mixdown.heard);
    const size = frames * ONE_SHOT.channels * (ONE_SHOT.bits / 8);
    const as = { rate: scene.sampleRate, bits: ONE_SHOT.bits };
    const { head, tail } = aroundSamples(ONE_SHOT.channels, as, size, {});
    const samples = new Blob(parts).slice(0, size);
    const audio = new Blob([head as Uint8Array<ArrayBuffer>, samples, tail as Uint8Array<ArrayBuffer>]);
    const { clipped, peak } = mixdown;
    return { audio, frames, clipped, peak, missing };
  }

  /**
   * Mixes a scene to see how loud it is, and how loud each bus is, and keeps nothing.
   * @param progress 0..1; @param from the sample with which it begins
   */
  async measure(
    scene: Scene,
    lines: Lines,
    cues: Cue[],
    sounds: Loadable[],
    progress: (share: number) => void,
    from = 0,
  ): Promise<MeasureAnswer> {
    const length = lengthOfScene(scene, cues);
    const beside = lines.tracks.filter((t) => t.bus).map((t) => t.id);
    const how = { beside, from };
    const { mixdown, missing } = await this.render(scene, lines, cues, sounds, progress, length, () => undefined, how);
    const { clipped, peak } = mixdown;
    const [levels, course, buses] = [mixdown.levels(), mixdown.course(), mixdown.measuredLines()];
    return { levels, course, buses, clipped, peak, missing };
  }

  private async render(
    scene: Scene & Moved,
    { tracks, effects }: Lines,
    cues: Cue[],
    sounds: Loadable[],
    progress: (share: number) => void,
    length: number,
    keep: (part: Uint8Array) => void,
    { form, from, coder, beside = [] }: { form?: MixForm; from?: number; coder?: MixCoder; beside?: number[] } = {},
  ): Promise<{ mixdown: Mixdown; missing: MixReport['missing'] }> {
    const whole = planOf(tracks, cues, effects, scene.main, movingOf(scene, cues));
    const { plan, items } = loadablePlan(whole, sounds, new StretchedIds());
    const materials = new Map<number, Material>();
    const fed = new Map<number, Fed>();
    const missing = new Map<number, MixAnswer['missing'][number]>();
    const mixdown = new Mixdown(scene, plan, length, materials, form, from, coder);
    mixdown.watch(beside);
    for (;;) {
      const needs = mixdown.needs;
      for (const [key, own] of fed) await own.hold(needs.filter((n) => n.material === key));
      for (const key of new Set(needs.map((n) => n.material))) {
        const item = items.get(key);
        if (!item || missing.has(key) || fed.has(key)) continue;
        try {
          const made = await this.open(item);
          await made.hold(needs.filter((n) => n.material === key));
          fed.set(materialId(item), made);
          materials.set(key, made.material);
        } catch (error) {
          missing.set(key, { name: item.sound.path, reason: (error as Error).message });
        }
      }
      const part = mixdown.next();
      if (!part) break;
      keep(part);
      progress(mixdown.share);
    }
    return { mixdown, missing: [...missing.values()] };
  }

  /**
   * Mixes the parts of a scene apart, one after another, each as long as the whole and from its first frame: laid on top of each other they
   * are the mix.
   * @param length samples
   * @param progress 0..1
   */
  async stems(
    scene: Scene,
    stems: Stem[],
    effects: LineEffect[],
    length: number,
    sounds: Loadable[],
    progress: (share: number) => void,
    date = new Date(),
    form?: MixForm,
  ): Promise<StemsAnswer> {
    const files: { name: string; input: Blob; lastModified: Date }[] = [];
    const report: MixReport = { clipped: 0, peak: 0, missing: [] };
    for (const [i, stem] of stems.entries()) {
      const told = (share: number) => progress((i + share) / stems.length);
      const { file, clipped, peak, missing } = await this.stem(scene, stem, effects, length, sounds, told, date, form);
      files.push({ name: `${stem.name}.${form?.flac ? 'flac' : 'wav'}`, input: file, lastModified: date });
      report.clipped += clipped;
      report.peak = Math.max(report.peak, peak);
      report.missing.push(...missing.filter((m) => !report.missing.some((r) => r.name === m.name)));
    }
    return { zip: await downloadZip(files).blob(), ...report };
  }

  /** One of them; see {@link stems}. */
  stem(
    scene: Scene,
    { name, tracks, cues, part }: Stem,
    effects: LineEffect[],
    length: number,
    sounds: Loadable[],
    progress: (share: number) => void,
    date = new Date(),
    form?: MixForm,
  ): Promise<MixAnswer> {
    const own = { ...scene, name: `${scene.name}, ${name}` };
    const lines = { tracks, effects };
    return this.mix(own, lines, cues, sounds, progress, date, part?.end ?? length, form, part?.start);
  }

  /** Scenes as one file of our own; see `scenesArchive`. */
  scenes(...of: Parameters<typeof scenesArchive>): Promise<ScenesAnswer> {
    return scenesArchive(...of);
  }

  /** A scene with its sounds, as an archive for other programs; see `projectArchive`. */
  project(...of: Parameters<typeof projectArchive>): Promise<ProjectAnswer> {
    return projectArchive(...of);
  }

  /** Cells as an XLSX workbook. @param sheet name of its one sheet */
  workbook(cells: readonly (readonly string[])[], sheet: string): Promise<Blob> {
    return workbookOf(cells, sheet);
  }

  private async open({ root, sound, stretched: how }: Loadable): Promise<Fed> {
    const reader = await openSound(await openFile(root, sound.path, sound.size), sound.format);
    return new Fed(stretched(reader, how?.stretch));
  }
}
