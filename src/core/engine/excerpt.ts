import type { Material } from './material';
import { passOf } from './path';
import { channelsOf, plainShape } from '@core/audio';
import { BLOCK } from '@core/effects';
import { Voice, type Audition } from './voice';

/**
 * What is heard of a sound when it is played once, whole and at once: the same voice that one listens to renders it.
 * @param material complete
 * @param rate Hz of what comes out
 * @param outs channels of what comes out; as many as the shape leaves when absent
 * @param progress called with 0..1 now and then
 * @returns one array per channel
 */
export function renderExcerpt(
  material: Material,
  audition: Omit<Audition, 'from' | 'loop'>,
  rate: number,
  outs?: number,
  progress: (share: number) => void = () => undefined,
): Float32Array[] {
  const shape = audition.shape ?? plainShape;
  const path = { ...audition.region, loop: false, direction: shape.direction };
  const from = shape.direction === 'backward' ? path.end - 1 : path.start;
  const voice = new Voice(material, { ...audition, from, loop: false }, rate);
  const length = Math.max(0, Math.ceil(passOf(path) / ((material.rate / rate) * shape.speed) - 1e-6));
  const count = outs ?? channelsOf(shape.channels, material.channels);
  const planes = Array.from({ length: count }, () => new Float32Array(length));
  for (let at = 0; at < length && !voice.done; at += BLOCK) {
    const part = Math.min(BLOCK, length - at);
    voice.render(
      planes.map((p) => p.subarray(at, at + part)),
      part,
    );
    if (at % (BLOCK * 2048) === 0) progress(at / length);
  }
  return planes;
}
