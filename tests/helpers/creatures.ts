import { Random } from '@core/synth';

// Voices by pulses through formants, blows by modes: made otherwise than the sounds of the demo. Each take has its own pitch, length,
// loudness and colour, as a second try by the same throat or hand has.

const RATE = 48_000;
export const kinds = ['growl', 'scream', 'call', 'word', 'purr', 'bark', 'bar', 'box', 'plate', 'pebbles'] as const;
type Kind = (typeof kinds)[number];

/** A two-pole resonance, in place. */
function resonate(x: Float32Array, hz: (t: number) => number, width: number): Float32Array {
  const out = new Float32Array(x.length);
  const r = Math.exp((-Math.PI * width) / RATE);
  let [a, b] = [0, 0];
  for (let i = 0; i < x.length; i++) {
    const y = (1 - r) * x[i] + 2 * r * Math.cos((2 * Math.PI * hz(i / x.length)) / RATE) * a - r * r * b;
    [a, b] = [y, a];
    out[i] = y;
  }
  return out;
}

interface Throat {
  seconds: number;
  /** Hz over the course, 0 to 1. */
  pitch: (t: number) => number;
  formants: readonly ((t: number) => number)[];
  /** How unsteady each pulse is, and how much breath there is, 0 to 1. */
  rough: number;
  breath: number;
  level: (t: number) => number;
}

function throat({ seconds, pitch, formants, rough, breath, level }: Throat, random: Random): Float32Array {
  const frames = Math.round(seconds * RATE);
  const source = new Float32Array(frames);
  let phase = 0;
  let strength = 1;
  for (let i = 0; i < frames; i++) {
    phase += pitch(i / frames) / RATE;
    if (phase >= 1) {
      phase -= 1 + (random.next() - 0.5) * rough * 0.6;
      strength = 1 - rough * random.next();
      source[i] += strength;
    }
    source[i] += (random.next() - 0.5) * breath * 0.2;
  }
  const parts = formants.map((hz, n) => resonate(source, hz, 80 + 60 * n));
  return source.map((_, i) => level(i / frames) * parts.reduce((sum, p, n) => sum + p[i] / (1 + n / 2), 0));
}

function struck(
  modes: readonly (readonly [hz: number, seconds: number])[],
  seconds: number,
  soft: number,
  random: Random,
) {
  const out = new Float32Array(Math.round(seconds * RATE));
  for (const [hz, decay] of modes) {
    const [own, phase] = [hz * (0.99 + 0.02 * random.next()), 6 * random.next()];
    const loud = 0.5 + 0.5 * random.next();
    for (let i = 0; i < out.length; i++)
      out[i] +=
        loud *
        Math.exp((-6.9 * i) / RATE / decay) *
        Math.sin((2 * Math.PI * own * i) / RATE + phase) *
        Math.min(1, i / soft);
  }
  return out;
}

const bump = (t: number) => Math.sin(Math.PI * Math.min(1, Math.max(0, t)));

/** A take of a kind, mono, 48 kHz, its peak at 0.5 or so. */
export function made(kind: Kind, take: number): Float32Array {
  const random = new Random(100 * kinds.indexOf(kind) + take + 1);
  const vary = (value: number, by = 0.12) => value * (1 + by * (2 * random.next() - 1));
  const base = vary(1);
  const fixed = (...hz: number[]) => hz.map((f) => () => f * base);
  const sounds: Record<Kind, () => Float32Array> = {
    growl: () =>
      throat(
        {
          seconds: vary(1.6),
          pitch: (t) => 70 * base * (1 + 0.2 * bump(t)),
          formants: fixed(400, 1000, 2200),
          rough: 0.9,
          breath: 0.6,
          level: bump,
        },
        random,
      ),
    scream: () =>
      throat(
        {
          seconds: vary(1.1),
          pitch: (t) => 900 * base * (0.8 + 0.4 * bump(t)),
          formants: fixed(1100, 2400, 3600),
          rough: 0.25,
          breath: 0.5,
          level: (t) => bump(t) ** 0.4,
        },
        random,
      ),
    call: () =>
      throat(
        {
          seconds: vary(0.7),
          pitch: (t) => 300 * base * (1 + 0.8 * t),
          formants: fixed(600, 1300, 2500),
          rough: 0.05,
          breath: 0.1,
          level: bump,
        },
        random,
      ),
    word: () =>
      throat(
        {
          seconds: vary(0.9),
          pitch: (t) => 140 * base * (1.1 - 0.2 * t),
          formants: [(t) => 300 + 500 * bump(2 * t - 0.4), (t) => 2200 - 1000 * bump(2 * t - 0.8), () => 2700],
          rough: 0.05,
          breath: 0.15,
          level: (t) => bump(2 * t) + 0.7 * bump(2 * t - 1),
        },
        random,
      ),
    purr: () =>
      throat(
        {
          seconds: vary(2.2),
          pitch: () => 26 * base,
          formants: fixed(220, 600, 1500),
          rough: 0.3,
          breath: 0.8,
          level: (t) => 0.6 + 0.4 * bump(3 * (t % 0.34)),
        },
        random,
      ),
    bark: () =>
      throat(
        {
          seconds: vary(0.28),
          pitch: (t) => 420 * base * (1 - 0.5 * t),
          formants: fixed(700, 1500, 2800),
          rough: 0.5,
          breath: 0.7,
          level: (t) => Math.exp(-4 * t),
        },
        random,
      ),
    bar: () =>
      struck(
        [523, 1440, 2822, 4660].map((hz, n) => [hz * base, vary(1.8) / (1 + n)] as const),
        2,
        20,
        random,
      ),
    box: () =>
      struck(
        [95, 140, 210, 330, 480].map((hz) => [hz * base, vary(0.18)] as const),
        0.6,
        60,
        random,
      ),
    plate: () =>
      struck(
        Array.from({ length: 24 }, (_, n) => [(300 + 210 * n * 1.13) * base, vary(0.7)] as const),
        1.5,
        10,
        random,
      ),
    pebbles: () => {
      const out = new Float32Array(Math.round(vary(1.2) * RATE));
      for (let hit = 0; hit < 22; hit++) {
        const one = struck(
          [
            [vary(2600, 0.3), 0.03],
            [vary(4100, 0.3), 0.02],
          ],
          0.08,
          5,
          random,
        );
        const at = Math.floor(random.next() * (out.length - one.length));
        one.forEach((x, i) => (out[at + i] += x * (0.3 + 0.7 * random.next())));
      }
      return out;
    },
  };
  const samples = sounds[kind]();
  const top = samples.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
  const gain = vary(0.5, 0.3) / top;
  return samples.map((x) => x * gain);
}
