import { kaiser } from '@core/audio';
import { Oversampling } from './filters';

// Twice the rate and back: what is bent or multiplied in between makes no aliases that are heard.

/** How steep their windows fall (Kaiser). */
const BETA = 9.5;

/** Every second tap of a half-band filter: the others are nothing, but for the middle one, which is a half. */
function halfBand(delay: number): Float64Array {
  const taps = Float64Array.from({ length: delay + 1 }, (_, j) => {
    const t = 2 * j - delay;
    const window = kaiser(t / (delay + 1), BETA);
    return (Math.sin((Math.PI * t) / 2) / (Math.PI * t)) * window;
  });
  const sum = taps.reduce((all, v) => all + v, 0);
  return taps.map((v) => v / (2 * sum));
}

/**
 * Twice the rate and back, once or several times.
 * @param delays of the half-band filters, by stage, each in samples of the higher rate; odd
 * @param further samples of the highest rate by which all of it is held back beyond that
 */
export const oversampling = (delays: readonly number[], further = 0): Oversampling =>
  new Oversampling(delays.map(halfBand), further);
