import { FactsCollector } from '@core/audio';
import { suggestAnchor, type AnchorKind } from '@core/suggest';
import { Random } from '@core/synth';
import { noise, sine } from './signals';

const rate = 48_000;
const random = new Random(11);
const between = (low: number, high: number) => low + (high - low) * random.next();

interface Made {
  samples: Float32Array;
  /** Seconds. */
  anchor: number;
}
/** Noise or a tone under an envelope of seconds, over a floor. */
function shaped(seconds: number, envelope: (t: number) => number, seed: number): Float32Array {
  const n = Math.round(seconds * rate);
  const body = seed % 2 === 0 ? noise(n, 0.9, seed) : sine(between(80, 3000), rate, n, 0.9);
  const floor = noise(n, 10 ** (-between(62, 80) / 20), seed + 1);
  return body.map((x, i) => x * envelope(i / rate) + floor[i]);
}
const strike = (t: number, at: number, decay: number) => (t < at ? 0 : Math.exp(-(t - at) / decay));

/** Ways of making a sound of each kind, with the instant that an editor would line up. */
const makers: Record<Exclude<AnchorKind, 'silence'>, (seed: number) => Made> = {
  hit: (seed) => {
    const [anchor, decay] = [between(0.01, 0.4), between(0.01, 0.5)];
    return { samples: shaped(anchor + decay * 7 + 0.1, (t) => strike(t, anchor, decay), seed), anchor };
  },
  run: (seed) => {
    const [anchor, step, count] = [between(0.05, 0.4), between(0.12, 0.45), 5 + Math.floor(between(0, 12))];
    const each = Array.from({ length: count }, (_, i) => ({
      at: anchor + i * step * between(0.9, 1.1),
      level: between(0.6, 1),
    }));
    const samples = shaped(
      anchor + count * step + 0.3,
      (t) => each.reduce((sum, h) => sum + h.level * strike(t, h.at, 0.03), 0),
      seed,
    );
    return { samples, anchor };
  },
  swell: (seed) => {
    const seconds = between(1.2, 9);
    const anchor = seconds * between(0.3, 0.7);
    const width = seconds * between(0.1, 0.2);
    return { samples: shaped(seconds, (t) => Math.exp(-(((t - anchor) / width) ** 2) / 2), seed), anchor };
  },
  rise: (seed) => {
    const anchor = between(1, 6);
    const growth = between(3, 6);
    const tail = between(0.002, 0.03);
    return {
      samples: shaped(
        anchor + 0.3,
        (t) => (t < anchor ? Math.exp((growth * (t - anchor)) / anchor) : Math.exp(-(t - anchor) / tail)),
        seed,
      ),
      anchor,
    };
  },
  bed: (seed) => {
    const wave = between(0.2, 0.9);
    return { samples: shaped(between(5, 20), (t) => 0.7 + 0.25 * Math.sin(t * wave * 6), seed), anchor: 0 };
  },
};
/** How near a suggestion has to be, in seconds, and how many have to be so. */
export const reach: Record<Exclude<AnchorKind, 'silence'>, [within: number, share: number]> = {
  hit: [0.003, 0.97],
  run: [0.012, 0.9],
  swell: [0.06, 0.9],
  rise: [0.02, 0.9],
  bed: [0.06, 0.97],
};

/** Sounds of each kind. */
export const EACH = 60;

/** How far off suggestions for so many sounds of a kind are that lie farther from the truth than they may, in words. */
export async function farOff(kind: keyof typeof reach, each = EACH): Promise<string[]> {
  const far: string[] = [];
  for (let seed = 1; seed <= each; seed++) {
    const { samples, anchor } = makers[kind](seed * 2 + (seed % 2));
    const collector = await FactsCollector.start(samples.length, rate, 1);
    collector.push([samples]);
    const { energy, facts } = collector.done();
    const found = suggestAnchor(energy, rate, facts.onsets);
    const off = found.frame / rate - anchor;
    if (Math.abs(off) > reach[kind][0]) far.push(`${found.kind}, ${Math.round(off * 1000)} ms`);
  }
  return far;
}
