import { Random } from '@core/synth';

/** A vocal tract as resonances: frequency and width in Hz. */
type Tract = readonly [hz: number, width: number][];

const RATE = 48000;
const tracts: Record<'oo' | 'ah' | 'ee' | 'sh' | 's' | 'k' | 't', Tract> = {
  oo: [
    [310, 60],
    [870, 90],
    [2240, 140],
  ],
  ah: [
    [730, 80],
    [1090, 90],
    [2440, 140],
  ],
  ee: [
    [270, 60],
    [2290, 110],
    [3010, 160],
  ],
  sh: [
    [2400, 700],
    [3800, 1200],
  ],
  s: [
    [6200, 1800],
    [8200, 2400],
  ],
  k: [
    [1100, 220],
    [2000, 400],
  ],
  t: [
    [3800, 900],
    [5200, 1500],
  ],
};

interface Sung {
  seconds: number;
  tract: keyof typeof tracts;
  /** Beats of the glottis or of the lips a second over time, from 0 to 1 of the length; none for breath alone. */
  pulses?: (at: number) => number;
  /** Share of breath in it. */
  breath: number;
  /** Loudness over time in seconds, 0 to 1. */
  level: (seconds: number) => number;
  /** How unevenly the pulses come. */
  rough?: number;
  /** How far the resonances have moved at the end, as a factor. */
  glide?: number;
}

/** Somebody makes a sound with the voice: pulses and breath through a moving vocal tract, recorded in a room with a little noise. */
export function sing(
  { seconds, tract, pulses, breath, level, rough = 0.01, glide = 1 }: Sung,
  seed: number,
): Float32Array {
  const random = new Random(seed);
  const size = random.between(0.88, 1.15);
  const margin = 0.25;
  const frames = Math.round((seconds + 2 * margin) * RATE);
  const source = new Float32Array(frames);
  let next = 0;
  let soft = 0;
  for (let i = 0; i < frames; i++) {
    const at = i / RATE - margin;
    if (at < 0 || at > seconds) continue;
    let x = breath * random.between(-1, 1);
    if (pulses) {
      if (at >= next) {
        x += 18;
        next = at + (1 / (pulses(at / seconds) * size)) * (1 + rough * random.between(-1, 1));
      }
      soft += 0.25 * (x - soft);
      x = 0.6 * soft + 0.4 * x * breath;
    }
    source[i] = x * level(at);
  }
  const out = new Float32Array(frames);
  for (const [hz, width] of tracts[tract]) {
    let [y1, y2] = [0, 0];
    for (let i = 0; i < frames; i++) {
      const moved = hz * size * (1 + (glide - 1) * (i / frames));
      const r = Math.exp((-Math.PI * width) / RATE);
      const y = (1 - r) * source[i] + 2 * r * Math.cos((2 * Math.PI * moved) / RATE) * y1 - r * r * y2;
      [y2, y1] = [y1, y];
      out[i] += y;
    }
  }
  const top = out.reduce((most, s) => Math.max(most, Math.abs(s)), 0);
  return out.map((s) => (0.4 * s) / top + 0.0004 * random.between(-1, 1));
}

const swell = (length: number) => (t: number) => Math.sin((Math.PI * Math.max(0, t)) / length) ** 0.7;
const struck = (decay: number) => (t: number) => Math.exp(-t / decay);
const beats = (every: number, decay: number) => (t: number) => Math.exp(-(t % every) / decay);

/** Imitations by what they imitate: the names of the right sounds, and how somebody would do one. */
export const imitations: Record<string, { right: RegExp; sung: Sung }> = {
  'a creak, in fry': {
    right: /creak|hinge|fence post|under load|rope stretch/i,
    sung: {
      seconds: 1.8,
      tract: 'ah',
      pulses: (x) => 38 + 30 * x,
      breath: 0.05,
      rough: 0.35,
      level: swell(1.8),
      glide: 1.2,
    },
  },
  'a knock, with the tongue': {
    right: /clack|knock|hit|thump|latch|boot step/i,
    sung: { seconds: 0.5, tract: 'k', breath: 1, level: struck(0.035) },
  },
  'a ratchet, tktktk': {
    right: /ratchet|crank|winch/i,
    sung: { seconds: 2.2, tract: 'k', breath: 1, level: beats(0.16, 0.018) },
  },
  'a splash, pshh': {
    right: /splash|slap|into water|oar dip/i,
    sung: { seconds: 1.6, tract: 'sh', breath: 1, level: struck(0.35) },
  },
  'rain, on and on': {
    right: /rain|wind|reeds|shore|bed|water lap|tide/i,
    sung: { seconds: 4.5, tract: 'sh', breath: 1, level: (t) => Math.min(1, t * 8) },
  },
  'a horn, oo': {
    right: /horn|drone/i,
    sung: { seconds: 3, tract: 'oo', pulses: () => 115, breath: 0.01, level: (t) => Math.min(1, t * 9, (3 - t) * 6) },
  },
  'a motor, dugudugu': {
    right: /motor/i,
    sung: { seconds: 4, tract: 'oo', pulses: () => 95, breath: 0.15, rough: 0.04, level: beats(0.125, 0.05) },
  },
};

/** Somebody says a few syllables: voice and hiss in turns, with the pauses of speech. */
export function spoken(seed: number): Float32Array {
  const random = new Random(seed);
  const between = (low: number, high: number) => low + (high - low) * random.next();
  const trim = (x: Float32Array) => x.subarray(Math.round(0.25 * RATE), x.length - Math.round(0.25 * RATE));
  const parts: Float32Array[] = [];
  const consonants = ['s', 'k', 'sh', 't'] as const;
  const vowels = ['ah', 'ee', 'oo'] as const;
  for (let i = 0; i < 6; i++) {
    const [soft, loud] = [between(0.06, 0.1), between(0.12, 0.2)];
    const hiss = sing({ seconds: soft, tract: consonants[(seed + i) % 4], breath: 1, level: swell(soft) }, seed + i);
    const pitch = between(100, 135);
    const vowel = sing(
      { seconds: loud, tract: vowels[(seed + i) % 3], pulses: () => pitch, breath: 0.03, level: swell(loud) },
      seed + 50 + i,
    );
    parts.push(
      trim(hiss).map((x) => 0.25 * x),
      trim(vowel),
      new Float32Array(Math.round(between(0.02, 0.09) * RATE)),
    );
  }
  const out = new Float32Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}
