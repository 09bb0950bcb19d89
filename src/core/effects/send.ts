import type { Effect } from './effect';
import { copyBlock } from './node';
import { choice, even } from './spec';

/** Lets some of what passes flow into a bus beside; the line that carries it out is that of the graph. */
export const send: Effect = {
  kind: 'send',
  name: 'Send',
  about: 'Lets some of what comes through flow into a bus as well, such as one with a place in it.',
  source: 'A factor of 10^(dB / 20).',
  sends: true,
  params: [
    even('gain', 'Level', 'dB', [-60, 12, -12], 'How much of it flows there.'),
    choice('from', 'Taken', ['here', 'after gain and place'], 'after gain and place', 'Where in the line it is taken.'),
  ],
  make: () => ({
    latency: 0,
    tail: 0,
    reset: () => undefined,
    process: (inputs, out, _, count) => copyBlock(inputs[0], out, count),
  }),
};
