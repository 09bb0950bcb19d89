import { BLOCK, renderMix, type Material } from '@core/engine';
import { writeWav } from '@core/files';
import type { Cue, Scene } from './scene';
import { lengthOfScene, mixOf, timeReference } from './scene';

/** A finished mix. */
export interface Mixdown {
  /** A broadcast WAV file, 24 bit, with the scene's start as TimeReference. */
  wav: Uint8Array;
  /** Samples above full scale, which had to be clipped. */
  clipped: number;
  /** Highest magnitude before clipping. */
  peak: number;
}

/**
 * Renders a scene to a stereo broadcast WAV through the same engine that plays it.
 * @param materials by sound id, complete
 * @param progress called with 0..1 now and then
 */
export function mixdown(
  scene: Scene,
  cues: readonly Cue[],
  materials: ReadonlyMap<number, Material>,
  date: Date,
  progress: (share: number) => void = () => undefined,
): Mixdown {
  const length = lengthOfScene(scene, cues);
  const planes = [new Float32Array(length), new Float32Array(length)];
  const mix = mixOf(scene, cues);
  const span = BLOCK * 512;
  for (let at = 0; at < length; at += span) {
    const part = Math.min(span, length - at);
    renderMix(
      mix,
      materials,
      scene.sampleRate,
      at,
      planes.map((p) => p.subarray(at, at + part)),
      part,
    );
    progress((at + part) / length);
  }
  let clipped = 0;
  let peak = 0;
  for (const plane of planes) {
    for (let i = 0; i < plane.length; i++) {
      const magnitude = Math.abs(plane[i]);
      if (magnitude > 1) clipped++;
      if (magnitude > peak) peak = magnitude;
    }
  }
  const [day, clock] = date.toISOString().split('T');
  const wav = writeWav(
    planes,
    { rate: scene.sampleRate, bits: 24 },
    {
      bext: {
        Description: scene.name,
        Originator: 'Cormorant',
        OriginationDate: day,
        OriginationTime: clock.slice(0, 8),
        TimeReference: timeReference(scene),
        CodingHistory: `A=PCM,F=${scene.sampleRate},W=24,M=stereo\r\n`,
      },
      ixml: { PROJECT: scene.name, SPEED: { TIMECODE_RATE: scene.fps, FILE_SAMPLE_RATE: String(scene.sampleRate) } },
    },
  );
  return { wav, clipped, peak };
}
