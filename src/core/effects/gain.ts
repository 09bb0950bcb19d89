import { fromDb } from '@core/audio';
import type { Effect } from './effect';
import { copyBlock } from './node';

/** Makes louder or softer. */
export const gain: Effect = {
  kind: 'gain',
  wide: 'each',
  name: 'Gain',
  about: 'Makes what comes in louder or softer.',
  source: 'A factor of 10^(dB / 20).',
  params: [
    {
      ...{ key: 'gain', label: 'Gain', unit: 'dB', least: -60, most: 24, initial: 0, curve: 'even' },
      about: 'How much louder it gets.',
    },
  ],
  make: (_, { gain: level }) => ({
    latency: 0,
    tail: 0,
    reset: () => undefined,
    process(inputs, out, at, count) {
      copyBlock(inputs[0], out, count);
      const moves = level.read(at, count);
      if (!moves && level.value === 0) return;
      const factor = fromDb(level.value);
      for (let c = 0; c < out.length; c++) {
        const plane = out[c];
        for (let i = 0; i < count; i++) plane[i] *= moves ? fromDb(level.line[i]) : factor;
      }
    },
  }),
};
