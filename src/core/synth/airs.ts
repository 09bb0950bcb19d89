import type { Family } from './family';
import { silence, smooth } from './family';
import { Biquad, Drift, Pink } from './filters';

/** Wind: noise whose strength and colour drift with the gusts; thin things in it whistle. Settings: force, gusts, whistle (Hz), rustle. */
const wind: Family = (take, s) => {
  const { random, rate, seconds } = take;
  const gust = new Drift(random, s.gusts ?? 0.35, rate);
  const flutter = new Drift(random, 3.1, rate);
  const strength = silence(take).map(() => Math.max(0.06, 0.5 + 0.42 * gust.step() + 0.1 * flutter.step()));
  const dry = [0, 1].map(() => {
    const pink = new Pink(random);
    const body = new Biquad('band', 300, 0.5, rate);
    const tone = new Biquad('band', s.whistle ?? 900, 14, rate);
    const stems = new Biquad('band', 4300, 0.6, rate);
    const own = new Drift(random, 0.8, rate);
    const out = silence(take);
    for (let i = 0; i < out.length; i++) {
      const t = i / rate;
      const g = strength[i] * (1 + 0.15 * own.step());
      if (i % 64 === 0) {
        body.tune(140 + 620 * g * g, 0.5);
        if (s.whistle) tone.tune(s.whistle * (0.72 + 0.5 * g), 10 + 18 * g);
      }
      const x = pink.step();
      let y = body.step(x) * g * g * 1.5;
      if (s.whistle) y += tone.step(x) * g ** 3 * 2.6;
      // Stems touch one another in bursts, more so in a gust.
      if (s.rustle) y += stems.step(random.next() < 0.05 + 0.5 * g * g ? random.noise() : 0) * g * g * s.rustle * 1.4;
      out[i] = y * (s.force ?? 0.8) * smooth(t, 0, 0.3) * (1 - smooth(t, seconds - 0.5, seconds));
    }
    return out;
  });
  return { dry, events: [0] };
};

/** Something quick going by: a band of noise that opens and shuts. Settings: pitch, width, peak (0..1 of the length). */
const whoosh: Family = (take, s) => {
  const { random, rate, seconds } = take;
  const out = silence(take);
  const band = new Biquad('band', 400, 1.2, rate);
  const low = new Biquad('low', 220, 0.8, rate);
  const peak = (s.peak ?? 0.5) * seconds;
  for (let i = 0; i < out.length; i++) {
    const t = i / rate;
    const near = t < peak ? smooth(t, 0.02, peak) ** 2 : (1 - smooth(t, peak, seconds - 0.03)) ** 2;
    if (i % 32 === 0) band.tune((s.pitch ?? 700) * (0.4 + 1.4 * near), s.width ?? 1.2);
    const x = random.noise();
    out[i] = (band.step(x) * 1.2 + low.step(x) * 0.7) * near;
  }
  return { dry: [out], events: [peak] };
};

/** Feathers: beats of a large wing, each a soft double rush. Settings: count, pace, size. */
const wings: Family = (take, s) => {
  const { random, rate, seconds } = take;
  const out = silence(take);
  const events: number[] = [];
  let at = 0.1;
  for (let n = 0; n < (s.count ?? 8) && at < seconds - 0.3; n++) {
    const size = (s.size ?? 1) * random.vary(0.15);
    const fade = 1 - (0.6 * n) / (s.count ?? 8);
    for (const [delay, gain, colour] of [
      [0, 1, 520],
      [0.13 * size, 0.45, 900],
    ] as const) {
      const band = new Biquad('band', (colour / size) * random.vary(0.15), 0.7, rate);
      const low = new Biquad('low', 160, 1, rate);
      const from = Math.round((at + delay) * rate);
      for (let i = 0; i < 0.16 * size * rate && from + i < out.length; i++) {
        const t = i / (0.16 * size * rate);
        const e = smooth(t, 0, 0.25) * (1 - smooth(t, 0.25, 1));
        const x = random.noise() * (random.next() < 0.4 ? 1.4 : 0.5);
        out[from + i] += (band.step(x) + low.step(x) * 1.3) * e * gain * fade;
      }
    }
    events.push(at);
    at += (s.pace ?? 0.36) * random.vary(0.1) * (1 - 0.02 * n);
  }
  return { dry: [out], events };
};

interface Note {
  /** Hz at the start and at the end. */
  from: number;
  to: number;
  seconds: number;
  /** Roughness 0..1: a second voice of the syrinx beating against the first. */
  rough?: number;
  harmonics?: number;
}

/** A throat: harmonics of a gliding tone, shaped by a formant. */
function sing(out: Float32Array, at: number, note: Note, gain: number, rate: number, noise: () => number): void {
  const length = Math.round(note.seconds * rate);
  const from = Math.round(at * rate);
  const formant = new Biquad('band', note.from * 1.8 + 500, 1.1, rate);
  let phase = 0;
  let beat = 0;
  for (let i = 0; i < length && from + i < out.length; i++) {
    const x = i / length;
    const f = note.from * (note.to / note.from) ** x * (1 + 0.012 * Math.sin(x * 90));
    phase += f / rate;
    beat += (f * 0.137) / rate;
    let y = 0;
    for (let h = 1; h <= (note.harmonics ?? 3); h++) y += Math.sin(2 * Math.PI * phase * h) / h ** 1.3;
    const rough = note.rough ?? 0;
    y *= 1 - rough * 0.6 * (1 + Math.sin(2 * Math.PI * beat));
    y += noise() * rough * 0.8;
    const e = smooth(x, 0, 0.12) * (1 - smooth(x, 0.6, 1));
    out[from + i] += (formant.step(y) + y * 0.25) * e * gain;
  }
}

/** Calls of birds. Settings: kind (0 heron, 1 song, 2 wader, 3 gull), count, pace, pitch. */
const bird: Family = (take, s) => {
  const { random, rate, seconds } = take;
  const out = silence(take);
  const events: number[] = [];
  const pitch = (s.pitch ?? 1) * random.vary(0.06);
  const kind = s.kind ?? 1;
  const phrase: () => Note[] = () =>
    [
      () => [{ from: 410 * pitch, to: 300 * pitch, seconds: random.between(0.28, 0.5), rough: 0.9, harmonics: 9 }],
      () =>
        Array.from({ length: 3 + Math.floor(random.next() * 5) }, () => {
          const f = random.between(2300, 5200) * pitch;
          return { from: f, to: f * random.between(0.6, 1.7), seconds: random.between(0.05, 0.16), harmonics: 2 };
        }),
      () =>
        [0, 1].map((i) => ({
          from: (1150 + i * 280) * pitch,
          to: (1900 + i * 250) * pitch,
          seconds: 0.24,
          harmonics: 3,
        })),
      () => [{ from: 1250 * pitch, to: 820 * pitch, seconds: random.between(0.3, 0.5), rough: 0.35, harmonics: 6 }],
    ][kind]();
  let at = 0.15;
  for (let n = 0; n < (s.count ?? 3) && at < seconds - 0.5; n++) {
    events.push(at);
    for (const note of phrase()) {
      sing(out, at, note, random.between(0.5, 0.8), rate, () => random.noise());
      at += note.seconds * random.between(1, 1.25);
    }
    at += (s.pace ?? 0.9) * random.vary(0.4);
  }
  return { dry: [out], events };
};

/** A foghorn: a reed blown by compressed air, slow to speak, sagging as it ends. Settings: pitch, count, pace, hold. */
const foghorn: Family = (take, s) => {
  const { random, rate, seconds } = take;
  const out = silence(take);
  const events: number[] = [];
  let at = s.start ?? 0.2;
  for (let n = 0; n < (s.count ?? 1) && at < seconds - 1; n++) {
    const hold = Math.min((s.hold ?? 2.4) * random.vary(0.08), seconds - at - 0.3);
    const base = (s.pitch ?? 92) * random.vary(0.02);
    const horn = [new Biquad('band', base * 3.1, 2, rate), new Biquad('band', base * 6.7, 3, rate)];
    const air = new Biquad('band', 1300, 0.6, rate);
    const tremble = new Drift(random, 9, rate);
    let phase = 0;
    const from = Math.round(at * rate);
    for (let i = 0; i < (hold + 0.25) * rate && from + i < out.length; i++) {
      const t = i / rate;
      const e = smooth(t, 0, 0.22) * (1 - smooth(t, hold - 0.15, hold + 0.22));
      const sag = 0.93 + 0.07 * smooth(t, 0, 0.3) - 0.12 * smooth(t, hold - 0.25, hold + 0.25);
      phase += (base * sag * (1 + 0.006 * tremble.step())) / rate;
      const saw = Math.tanh(3 * Math.sin(2 * Math.PI * phase) + 1.2 * Math.sin(4 * Math.PI * phase));
      out[from + i] +=
        e * (saw * 0.28 + horn[0].step(saw) * 0.8 + horn[1].step(saw) * 0.35 + air.step(random.noise()) * 0.08);
    }
    events.push(at);
    at += (s.pace ?? 12) * random.vary(0.1);
  }
  return { dry: [out], events };
};

/** A single-cylinder boat motor: each stroke a thump, a bark from the exhaust, a tick of the valves. Settings: rpm, load. */
const motor: Family = (take, s) => {
  const { random, rate, seconds } = take;
  const out = silence(take);
  const thump = new Biquad('low', 110, 2.5, rate);
  const bark = new Biquad('band', 360, 1.6, rate);
  const tick = new Biquad('band', 2900, 2, rate);
  const hunt = new Drift(random, 0.9, rate);
  let phase = 0;
  let energy = 0;
  for (let i = 0; i < out.length; i++) {
    const t = i / rate;
    phase += ((s.rpm ?? 520) / 120) * (1 + 0.05 * hunt.step()) * smooth(t, 0, s.startUp ?? 0.01) * (1 / rate);
    if (phase >= 1) {
      phase -= 1;
      energy = random.between(0.8, 1);
    }
    energy *= 1 - 26 / rate;
    const x = random.noise() * energy;
    const y = thump.step(energy * energy * 1.6) + bark.step(x) * (s.load ?? 0.8) + tick.step(x) * 0.25;
    out[i] = y * smooth(t, 0, 0.2) * (1 - smooth(t, seconds - 0.4, seconds));
  }
  return { dry: [out], events: [0.02] };
};

/** A wick catching: the strike, the soft rush, the flame settling. Settings: force. */
const ignite: Family = (take, s) => {
  const { random, rate, seconds } = take;
  const out = silence(take);
  const rasp = new Biquad('band', 4200, 0.8, rate);
  const rush = new Biquad('low', 700, 0.7, rate);
  const flame = new Drift(random, 13, rate);
  const catches = 0.28;
  for (let i = 0; i < out.length; i++) {
    const t = i / rate;
    const strike = smooth(t, 0.08, 0.1) * (1 - smooth(t, 0.2, 0.3)) * (random.next() < 0.3 ? 1.5 : 0.3);
    const flare = smooth(t, catches, catches + 0.06) * Math.exp(-Math.max(0, t - catches) / 0.35);
    const burn = 0.12 * smooth(t, catches, 0.6) * (1 - smooth(t, seconds - 0.5, seconds)) * (1 + 0.6 * flame.step());
    const x = random.noise();
    out[i] = (rasp.step(x) * strike * 0.7 + rush.step(x) * (flare * 1.6 + burn)) * (s.force ?? 0.8);
  }
  return { dry: [out], events: [0.08, catches] };
};

/** A drone that swells or a riser that climbs. Settings: pitch, climb (octaves), rough. */
const drone: Family = (take, s) => {
  const { random, rate, seconds } = take;
  const dry = [0, 1].map(() => {
    const out = silence(take);
    const voices = [1, 1.498, 2.003, 3.01, 4.98].map((ratio, i) => ({
      ratio: ratio * random.vary(0.004),
      gain: 1 / (1 + i * 0.7),
      drift: new Drift(random, 0.25 + i * 0.1, rate),
      phase: random.next(),
    }));
    const air = new Biquad('band', 900, 0.8, rate);
    for (let i = 0; i < out.length; i++) {
      const t = i / rate;
      const rise = 2 ** ((s.climb ?? 0) * (t / seconds) ** 2);
      let y = 0;
      for (const v of voices) {
        v.phase += ((s.pitch ?? 55) * v.ratio * rise) / rate;
        y += Math.sin(2 * Math.PI * v.phase) * v.gain * (0.6 + 0.4 * v.drift.step());
      }
      if (i % 64 === 0) air.tune(500 * rise + 300, 0.9);
      y = Math.tanh(y * 0.6) * 0.5 + air.step(random.noise()) * (s.rough ?? 0.2);
      const swell = s.climb ? smooth(t, 0, seconds * 0.97) ** 1.5 * (1 - smooth(t, seconds - 0.05, seconds)) : 1;
      out[i] = y * swell * smooth(t, 0, 0.5) * (1 - smooth(t, seconds - (s.climb ? 0.03 : 1), seconds));
    }
    return out;
  });
  return { dry, events: [s.climb ? seconds - 0.05 : 0] };
};

/** A short signal of two tones. Settings: pitch, interval. */
const blip: Family = (take, s) => {
  const { rate } = take;
  const out = silence(take);
  const pitch = (s.pitch ?? 880) * take.random.vary(0.02);
  [pitch, pitch * (s.interval ?? 1.5)].forEach((f, n) => {
    const from = Math.round((0.02 + n * 0.09) * rate);
    for (let i = 0; i < 0.16 * rate && from + i < out.length; i++) {
      const e = smooth(i / rate, 0, 0.003) * Math.exp(-i / (0.035 * rate));
      out[from + i] +=
        0.6 * e * Math.sin((2 * Math.PI * f * i) / rate + 1.5 * e * Math.sin((6 * Math.PI * f * i) / rate));
    }
  });
  return { dry: [out], events: [0.02, 0.11] };
};

/** Wind, creatures of the air, horns, motors, and sounds made of nothing but tone. */
export const airs = { wind, whoosh, wings, bird, foghorn, motor, ignite, drone, blip } satisfies Record<string, Family>;
