import { exp, pow, sinTurns } from './exact';
import type { Family, Take } from './family';
import { silence, smooth } from './family';
import { Biquad, Drift, Pink } from './filters';

/**
 * One bubble after van den Doel (Physically based models for liquid sounds, 2005): a sine at 3/radius Hz that is damped by
 * its size and rises as the bubble nears the surface.
 * @param radius metres
 */
export function bubble(out: Float32Array, at: number, radius: number, gain: number, rise: number, rate: number): void {
  const frequency = 3 / radius;
  const damping = 0.13 / radius + 0.0072 / (radius * Math.sqrt(radius));
  const from = Math.round(at * rate);
  const length = Math.min(out.length - from, Math.round((6 / damping) * rate));
  let phase = 0;
  for (let i = 0; i < length; i++) {
    const t = i / rate;
    phase += (frequency * (1 + rise * damping * 0.4 * t)) / rate;
    out[from + i] += gain * exp(-damping * t) * sinTurns(phase) * Math.min(1, t * frequency);
  }
}

/** Showers of bubbles between two times, thick where `density` (0..1) says so. */
export function shower(
  out: Float32Array,
  take: Take,
  from: number,
  to: number,
  perSecond: number,
  large: number,
  density: (t: number) => number,
): void {
  const { random, rate } = take;
  for (let t = from; t < to; t += random.wait(perSecond)) {
    const d = density(t);
    if (random.next() > d) continue;
    const radius = large * pow(random.between(0.12, 1), 1.8) + 0.0004;
    bubble(out, t, radius, 0.5 * d * Math.sqrt(radius / large) * random.next(), random.between(0, 0.12), rate);
  }
}

/** A wave that slaps a hull: a burst of broken water, a hollow push, and bubbles after. Settings: count, pace, force. */
const slap: Family = (take, s) => {
  const { random, rate, seconds } = take;
  const out = silence(take);
  const events: number[] = [];
  let at = s.start ?? 0.15;
  for (let n = 0; n < (s.count ?? 1) && at < seconds - 0.5; n++) {
    const force = (s.force ?? 0.7) * random.between(0.7, 1);
    const spray = new Biquad('band', random.between(900, 1700), 0.6, rate);
    const push = new Biquad('low', random.between(130, 220), 1.4, rate);
    const from = Math.round(at * rate);
    const tail = random.between(0.18, 0.4);
    for (let i = 0; i < 1.2 * rate && from + i < out.length; i++) {
      const t = i / rate;
      const burst = smooth(t, 0, 0.008) * Math.exp(-t / tail);
      const x = random.noise();
      out[from + i] +=
        force *
        (1 - smooth(t, 0.7, 1.2)) *
        (spray.step(x) * burst * 1.1 + push.step(x) * smooth(t, 0, 0.02) * Math.exp(-t / 0.13) * 2.4);
    }
    shower(out, take, at, Math.min(seconds - 0.1, at + 1.1), 160, 0.006, (t) => force * Math.exp(-(t - at) / 0.35));
    events.push(at);
    at += (s.pace ?? 2.2) * random.vary(s.sway ?? 0.35);
  }
  return { dry: [out], events };
};

/** Something heavy into water: the smack, the cavity closing with a deep gulp, drops falling back. Settings: force, depth. */
const splash: Family = (take, s) => {
  const { rate, seconds } = take;
  const out = slap(take, { start: 0.1, force: s.force ?? 0.9 }).dry[0];
  const depth = s.depth ?? 0.5;
  bubble(out, 0.1 + 0.12 * depth, 0.012 + 0.02 * depth, 0.9, 0.2, rate);
  shower(out, take, 0.25, seconds - 0.1, 240, 0.005, (t) => Math.exp(-(t - 0.25) / (0.35 + depth * 0.6)));
  shower(out, take, 0.5, seconds - 0.1, 60, 0.0018, (t) => Math.exp(-(t - 0.5) / 1.1));
  return { dry: [out], events: [0.1] };
};

/** Bubbles and gurgles. Settings: density (a second), size (millimetres). */
const gurgle: Family = (take, s) => {
  const out = silence(take);
  const surge = new Drift(take.random, s.surge ?? 2, 1000);
  const curve = Array.from({ length: Math.ceil(take.seconds * 1000) }, () => 0.5 + 0.5 * surge.step());
  const end = take.seconds - 0.15;
  shower(out, take, 0.08, end, s.density ?? 70, (s.size ?? 7) / 1000, (t) => {
    return (curve[Math.floor(t * 1000)] ?? 0) * smooth(t, 0.05, 0.4) * (1 - smooth(t, end - 0.4, end));
  });
  return { dry: [out], events: [0.08] };
};

/** Single drops into still water. Settings: rate of drops, size. */
const drips: Family = (take, s) => {
  const { random, rate, seconds } = take;
  const out = silence(take);
  const events: number[] = [];
  for (let t = 0.12; t < seconds - 0.3; t += random.wait(s.density ?? 1.6) + 0.12) {
    const from = Math.round(t * rate);
    for (let i = 0; i < 0.004 * rate; i++) out[from + i] += random.noise() * 0.15 * Math.exp(-i / (0.001 * rate));
    bubble(
      out,
      t + random.between(0.012, 0.03),
      random.between(0.0012, 0.003) * (s.size ?? 1),
      random.between(0.3, 0.8),
      0.1,
      rate,
    );
    events.push(t);
  }
  return { dry: [out], events };
};

/** Two unlike channels of a bed, faded at both ends so that nothing clicks. */
function bed(take: Take, channel: (side: number) => (t: number) => number): Float32Array[] {
  return [0, 1].map((side) => {
    const out = silence(take);
    const sample = channel(side);
    for (let i = 0; i < out.length; i++) {
      const t = i / take.rate;
      out[i] = sample(t) * smooth(t, 0, 0.25) * (1 - smooth(t, take.seconds - 0.4, take.seconds));
    }
    return out;
  });
}

/** Open water against a bank or hull, for long beds. Settings: swell (waves a second), bright, force. */
const lap: Family = (take, s) => {
  const { random, rate } = take;
  const dry = bed(take, () => {
    const pink = new Pink(random);
    const swell = new Drift(random, s.swell ?? 0.5, rate);
    const chop = new Drift(random, 2.7, rate);
    const wash = new Biquad('band', 500 * (s.bright ?? 1), 0.5, rate);
    const foam = new Biquad('high', 3200, 0.7, rate);
    return () => {
      const wave = Math.max(0, 0.55 + 0.45 * swell.step()) * (0.75 + 0.25 * chop.step());
      const x = pink.step();
      return (wash.step(x) * 0.9 * wave + foam.step(x) * 0.5 * wave ** 3) * (s.force ?? 0.6);
    };
  });
  for (const channel of dry) {
    shower(channel, take, 0.3, take.seconds - 0.5, s.bubbles ?? 30, 0.007, () => 0.3 + 0.4 * random.next());
  }
  return { dry, events: [0] };
};

/** Rain as single drops over a hiss. Settings: density (drops a second), surface (0 leaves, 1 water, 2 iron roof). */
const rain: Family = (take, s) => {
  const { random, rate, seconds } = take;
  const surface = s.surface ?? 0;
  const dry = bed(take, () => {
    const pink = new Pink(random);
    const drift = new Drift(random, 0.4, rate);
    const hiss = new Biquad('band', [3400, 5200, 2500][surface], 0.4, rate);
    return () => hiss.step(pink.step()) * 0.16 * (1 + 0.35 * drift.step()) * Math.min(1.6, (s.density ?? 300) / 300);
  });
  for (const out of dry) {
    const ringing = [0.0009, 0.003, 0.009][surface];
    for (let t = 0.2; t < seconds - 0.4; t += random.wait(s.density ?? 300)) {
      const frequency = [random.between(900, 4200), random.between(2200, 6500), random.pick([840, 1310, 2250, 3120])][
        surface
      ];
      const gain = 0.28 * random.next() ** 3;
      const from = Math.round(t * rate);
      const length = Math.min(out.length - from, Math.round(ringing * 6 * rate));
      for (let i = 0; i < length; i++) {
        const e = Math.exp(-i / (ringing * rate));
        out[from + i] += gain * e * (surface === 0 ? random.noise() : Math.sin((2 * Math.PI * frequency * i) / rate));
      }
    }
  }
  return { dry, events: [0] };
};

/** A boot or hand drawn out of mud: suction, then the plop. Settings: count, pace, wet. */
const mud: Family = (take, s) => {
  const { random, rate, seconds } = take;
  const out = silence(take);
  const events: number[] = [];
  let at = 0.12;
  for (let n = 0; n < (s.count ?? 1) && at < seconds - 0.5; n++) {
    const length = random.between(0.22, 0.5);
    const band = new Biquad('band', 300, 2.2, rate);
    const from = Math.round(at * rate);
    for (let i = 0; i < length * rate && from + i < out.length; i++) {
      const x = i / (length * rate);
      if (i % 32 === 0) band.tune(220 + 1500 * x * x, 2.4);
      const crackle = random.next() < 0.02 + 0.1 * x ? random.noise() * 3 : random.noise() * 0.35;
      out[from + i] += band.step(crackle) * smooth(x, 0, 0.3) * 0.7;
    }
    bubble(out, at + length, random.between(0.006, 0.012), 0.8, 0.25, rate);
    shower(out, take, at, Math.min(at + length + 0.3, seconds - 0.1), 90 * (s.wet ?? 1), 0.005, () => 0.5);
    events.push(at);
    at += (s.pace ?? 1.1) * random.vary(0.2);
  }
  return { dry: [out], events };
};

/** Water, rain and mud. */
export const waters = { slap, splash, gurgle, drips, lap, rain, mud } satisfies Record<string, Family>;
