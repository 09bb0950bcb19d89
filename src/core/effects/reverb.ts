import type { Effect } from './effect';
import type { Block, Node } from './node';
import type { Param } from './param';
import { Place } from './place';
import { even, levelFrom, mix, NOTHING, octaves } from './spec';

class Reverb implements Node {
  readonly latency = 0;
  private readonly place: Place;

  constructor(
    private readonly rate: number,
    private readonly params: Readonly<Record<string, Param>>,
  ) {
    this.place = new Place(rate);
  }

  get tail(): number {
    const { decay, low, high, before } = this.params;
    const answer = { decay: decay.value, low: low.value, high: high.value, size: 1, before: before.value };
    return Place.tail(answer, this.rate);
  }

  reset(): void {
    this.place.reset();
  }

  process(inputs: readonly Block[], out: Block, at: number, count: number): void {
    const { params, place } = this;
    const { decay, low, high, size, before } = params;
    place.take(decay.value, low.value, high.value, size.value / 100, before.value);
    place.process(inputs[0], count);
    const early = params.early.fill(at, count);
    const late = params.late.fill(at, count);
    const wet = params.mix.fill(at, count);
    const isStill = early[0] === early[count - 1] && late[0] === late[count - 1];
    const [near, far] = [place.early, place.late];
    for (let c = 0; c < out.length; c++) {
      const [from, to, first, tail] = [inputs[0][c], out[c], near[c], far[c]];
      let [a, b] = [levelFrom(early[0]), levelFrom(late[0])];
      for (let i = 0; i < count; i++) {
        if (!isStill) {
          a = levelFrom(early[i]);
          b = levelFrom(late[i]);
        }
        const share = wet[i] / 100;
        to[i] = from[i] * (1 - share) + (first[i] * a + tail[i] * b) * share;
      }
    }
  }
}

/** Puts a sound into a place. */
export const reverb: Effect = {
  kind: 'reverb',
  name: 'Reverb',
  about: 'Puts a sound into a place: first reflections, then a tail that dies away as long as is asked for, by band.',
  source:
    'M. R. Schroeder, “Natural sounding artificial reverberation” (1961); J.-M. Jot and A. Chaigne, “Digital delay networks for designing artificial reverberators” (1991).',
  params: [
    octaves('decay', 'Decay', 's', [0.1, 20, 1.4], 'How long the tail takes to die away by 60 dB.'),
    octaves('low', 'Low decay', ':1', [0.25, 4, 1.1], 'How much longer it takes below 250 Hz.'),
    octaves('high', 'High decay', ':1', [0.1, 2, 0.5], 'How much longer it takes above 3 kHz.'),
    octaves('size', 'Size', '%', [10, 300, 100], 'How large the place is: 100 % for a hall of some twenty metres.'),
    even('before', 'Pre-delay', 'ms', [0, 250, 12], 'How long it is until the tail begins.'),
    even('early', 'Early', 'dB', [NOTHING, 6, -6], 'How loud the first reflections are.'),
    even('late', 'Late', 'dB', [NOTHING, 6, -6], 'How loud the tail is.'),
    mix(25),
  ],
  presets: [
    { name: 'Cabin', values: { decay: 0.35, size: 22, before: 0, high: 0.7, early: 0, late: -10 } },
    { name: 'Boat shed', values: { decay: 1.1, size: 90, before: 8, low: 0.8, high: 0.45, early: -3, late: -8 } },
    { name: 'Hall', values: { decay: 2.4, size: 130, before: 22, low: 1.2 } },
    { name: 'Estuary', values: { decay: 3.2, size: 300, before: 120, low: 0.6, high: 0.25, early: -18, late: -12 } },
  ],
  make: (rate, params) => new Reverb(rate, params),
};
