import type { Track } from './lines';
import { spanOf, timecodeAt, type Cue, type Scene } from './scene';
import { frameRate, sampleToFrame } from './timecode';

/** What a cue sheet says of a cue's sound. */
export interface CueSource {
  file: string;
  library: string;
  licence: string;
}

/** A row of a cue sheet. Times as timecode: of the frame in which it begins, of the first one without it, of its anchor. */
export interface CueRow extends CueSource {
  cue: Cue;
  begins: string;
  ends: string;
  anchor: string;
  /** Seconds. */
  lasts: number;
  track: string;
}

/** The cues of a scene that are heard, in the order in which they begin. @param sourceOf what is known of a cue's sound */
export function cueSheet(
  scene: Scene,
  tracks: readonly Track[],
  cues: readonly Cue[],
  sourceOf: (cue: Cue) => CueSource,
): CueRow[] {
  const rate = frameRate(scene.fps);
  const names = new Map(tracks.filter((t) => !t.mute).map((t) => [t.id, t.name]));
  const at = (sample: number) => timecodeAt(scene, Math.max(0, sampleToFrame(sample, rate, scene.sampleRate)));
  return cues
    .filter((c) => !c.mute && names.has(c.trackId))
    .map((cue) => ({ cue, ...spanOf(cue, scene.sampleRate) }))
    .sort((a, b) => a.start - b.start || a.cue.id - b.cue.id)
    .map(({ cue, start, end }) => ({
      ...sourceOf(cue),
      cue,
      begins: at(Math.ceil(start)),
      // The last sample lies in the frame before.
      ends: timecodeAt(scene, sampleToFrame(Math.ceil(end) - 1, rate, scene.sampleRate) + 1),
      anchor: at(cue.at),
      lasts: (end - Math.max(0, start)) / scene.sampleRate,
      track: names.get(cue.trackId)!,
    }));
}

/** A cue sheet as cells, its heads first. */
export function cueSheetCells(rows: readonly CueRow[]): string[][] {
  const heads = ['Cue', 'In', 'Out', 'Seconds', 'Anchor', 'Track', 'Sound', 'File', 'Library', 'Licence', 'Gain'];
  return [
    heads,
    ...rows.map((r, i) => [
      ...[String(i + 1), r.begins, r.ends, r.lasts.toFixed(3), r.anchor, r.track, r.cue.name],
      ...[r.file, r.library, r.licence, `${r.cue.gain.toFixed(1)} dB`],
    ]),
  ];
}
