import { pow, sinTurns } from '../exact';
import { silence, smooth } from '../family';
import { Drift, Pink } from '../filters';
import { above, driven, echoes, held, Oscillator, placed, shuffled, struck, Sweepable } from '../generators';
import { blow, body, materials, ring } from '../modal';
import { place } from '../room';
import { bubble, shower } from '../waters';
import { even, length, ratio, type Patch } from './patch';

/** Ratios of the modes of a struck bar that is free at both ends, and of a bell whose partials were tuned. */
const BAR = [1, 2.757, 5.404, 8.933, 13.344];
const BELL = [0.5, 1, 1.2, 1.5, 2, 2.67, 3, 4];
const SCALE = [0, 2, 4, 7, 9, 12, 14, 16];

const chime: Patch = {
  name: 'Chime',
  what: 'Bars and small bells, struck one after another.',
  catId: 'MUSCChim',
  keywords: ['bell', 'bar', 'ring', 'magic'],
  values: [
    length(2, 6),
    ratio('pitch', 'Lowest at', 'Hz', 500, 1700),
    even('strokes', 'Strokes', '', 1, 6),
    ratio('gap', 'One every', 'ms', 70, 450),
    even('sway', 'Uneven by', '%', 0, 50),
    even('bell', 'Bell, not bar', '%', 0, 100),
    ratio('ring', 'Rings for', 's', 1.2, 5, 1),
    ratio('touch', 'Touched for', 'ms', 0.4, 4, 1),
    even('beating', 'Beats', 'a second', 0, 5, 1),
    even('wide', 'Wide', '%', 0, 90),
    even('air', 'Room', '%', 0, 60),
  ],
  make: (take, v) => {
    const { rate, random, seconds } = take;
    const planes = [silence(take), silence(take)];
    const notes = shuffled(SCALE, random).slice(0, Math.round(v.strokes));
    const events: number[] = [];
    let at = 0.005;
    for (const note of notes) {
      if (at > seconds - 0.2) break;
      events.push(at);
      // What rings begins with its stroke.
      const own = silence({ ...take, seconds: seconds - at });
      const drive = new Float32Array(own.length);
      blow(drive, 0, random.between(0.6, 1), v.touch / 1000, rate, random);
      const bell = v.bell / 100;
      const material = {
        ratios: BAR.map((r, i) => r * (1 - bell) + BELL[i + 1] * bell),
        ...{ decay: v.ring, damping: 0.5 + 0.3 * bell },
      };
      const modes = body(material, above(v.pitch, note), random, 0.002).flatMap((m) =>
        v.beating > 0 ? [m, { ...m, frequency: m.frequency + v.beating, gain: m.gain * 0.6 }] : [m],
      );
      ring(own, drive, modes, rate);
      const turns = (random.noise() * (v.wide / 100) + 1) / 8;
      const from = Math.round(at * rate);
      [sinTurns(turns + 0.25), sinTurns(turns)].forEach((gain, side) => {
        const plane = planes[side];
        for (let i = 0; i < own.length && from + i < plane.length; i++) plane[from + i] += own[i] * gain;
      });
      at += (v.gap / 1000) * random.vary(v.sway / 100);
    }
    echoes(planes, 0.113, v.air / 200, rate);
    for (const plane of planes) for (let i = 0; i < plane.length; i++) plane[i] *= held(i / rate, seconds, 0, 0.25);
    return { dry: planes, events };
  },
};

const impact: Patch = {
  name: 'Impact',
  what: 'A blow of something large: knock, body, depth, and what comes loose.',
  catId: 'DSGNImpt',
  keywords: ['hit', 'boom', 'slam', 'trailer'],
  values: [
    length(1.2, 4),
    ratio('pitch', 'Body at', 'Hz', 45, 130),
    even('drop', 'Sinks by', 'semitones', 2, 18),
    ratio('fall', 'Dies away within', 's', 0.5, 2.4, 1),
    even('knock', 'Knock', '%', 20, 90),
    ratio('touch', 'Touched for', 'ms', 1, 9, 1),
    even('metal', 'Metal, not wood', '%', 0, 100),
    even('ringing', 'Ringing', '%', 5, 60),
    even('loose', 'Comes loose', 'pieces', 0, 18),
    even('drive', 'Driven by', 'times', 0, 5, 1),
    ratio('size', 'Room of', 'm', 5, 40),
    even('room', 'Room', '%', 5, 50),
  ],
  make: (take, v) => {
    const { rate, random, seconds } = take;
    const out = silence(take);
    const at = 0.01;
    const drive = silence(take);
    blow(drive, at, 1, v.touch / 1000, rate, random);
    const metal = v.metal / 100;
    for (const [material, share] of [
      [materials.plank, 1 - metal],
      [materials.sheet, metal],
    ] as const)
      ring(out, drive, body(material, v.pitch * 2.3, random), rate, (share * v.ringing) / 60);
    const deep = new Oscillator(rate);
    const air = new Sweepable(rate);
    air.tune(900 + 1800 * metal, 0.7);
    for (let i = Math.round(at * rate); i < out.length; i++) {
      const t = i / rate - at;
      const e = struck(t, 0.004, v.fall);
      const y = deep.sine(above(v.pitch, v.drop * struck(t, 0, 0.35))) * 1.4;
      air.step(random.noise());
      const knock = (air.band * struck(t, 0.001, 0.09) * v.knock) / 55;
      out[i] += driven(y * e + knock, v.drive);
    }
    for (let n = 0; n < Math.round(v.loose); n++) {
      const grain = silence({ ...take, seconds: 0.12 });
      const hit = silence({ ...take, seconds: 0.12 });
      blow(hit, 0.001, random.between(0.1, 0.5), 0.001, rate, random);
      ring(grain, hit, body(metal > 0.5 ? materials.link : materials.timber, random.between(400, 1600), random), rate);
      const from = Math.round((at + 0.08 + 0.7 * random.next() * random.next()) * rate);
      for (let i = 0; i < grain.length && from + i < out.length; i++) out[from + i] += grain[i] * 0.35;
    }
    const room = { decay: 0.4 + v.size / 14, size: v.size, wet: v.room / 100, dull: 0.5 };
    const dry = place(out, room, 0, rate, random);
    for (const plane of dry)
      for (let i = 0; i < plane.length; i++) plane[i] *= held(i / rate, seconds, 0, Math.min(0.4, seconds / 3));
    return { dry, events: [at] };
  },
};

const engine: Patch = {
  name: 'Engine',
  what: 'Cylinders that fire in turn, with exhaust, whine and what rattles.',
  catId: 'MOTRComb',
  keywords: ['motor', 'machine', 'vehicle', 'combustion'],
  values: [
    length(3, 9),
    ratio('speed', 'Runs at', 'a minute', 700, 3200),
    ratio('end', 'Ends at', 'times', 0.6, 1.8, 2),
    even('cylinders', 'Cylinders', '', 1, 8),
    even('uneven', 'Uneven by', '%', 2, 25),
    ratio('exhaust', 'Exhaust at', 'Hz', 70, 260),
    ratio('bark', 'Bark at', 'Hz', 400, 1100),
    even('barking', 'Bark', '%', 20, 80),
    ratio('whine', 'Whines above by', 'times', 9, 40),
    even('whining', 'Whine', '%', 0, 30),
    even('rattle', 'Rattle', '%', 0, 45),
    even('load', 'Load', '%', 10, 100),
  ],
  make: (take, v) => {
    const { rate, random, seconds } = take;
    const out = silence(take);
    const cylinders = Math.round(v.cylinders);
    const strength = Array.from({ length: cylinders }, () => random.vary(v.uneven / 100));
    const [pipe, bark, rattle] = [new Sweepable(rate), new Sweepable(rate), new Sweepable(rate)];
    pipe.tune(v.exhaust, 2.2);
    bark.tune(v.bark, 1.6);
    rattle.tune(3100, 1.5);
    const hunt = new Drift(random, 1.1, rate);
    const whine = new Oscillator(rate);
    const load = v.load / 100;
    let phase = 0;
    let n = 0;
    let energy = 0;
    for (let i = 0; i < out.length; i++) {
      const x = i / out.length;
      const turns = (v.speed / 60) * pow(v.end, smooth(x, 0.15, 0.85)) * (1 + 0.015 * hunt.step());
      // Four strokes: each cylinder fires at every other turn.
      phase += (turns * cylinders) / 2 / rate;
      if (phase >= 1) {
        phase -= 1;
        n = (n + 1) % cylinders;
        energy = strength[n] * random.vary(v.uneven / 200);
      }
      energy *= 1 - (18 + 22 * (1 - load)) / rate;
      const noise = random.noise();
      pipe.step(energy * energy);
      bark.step(noise * energy * energy);
      rattle.step(noise * (phase < 0.12 ? 1 : 0.15));
      const y = pipe.band * 5 + (bark.band * 1.6 * v.barking * (0.4 + 0.6 * load)) / 100;
      const more = (rattle.band * 0.22 * v.rattle) / 100 + (whine.sine(turns * v.whine) * 0.2 * v.whining) / 100;
      out[i] = driven(y + more, load * 2) * held(i / rate, seconds, 0.12, 0.3);
    }
    const dry = place(out, { decay: 0.3, size: 4, wet: 0.12, dull: 0.6 }, 0, rate, random);
    return { dry, events: [0] };
  },
};

const bubbles: Patch = {
  name: 'Bubble',
  what: 'Bubbles that form, rise and burst, few or many.',
  catId: 'WATRBubl',
  keywords: ['water', 'liquid', 'gurgle', 'boiling'],
  values: [
    length(1, 5),
    ratio('size', 'Largest of', 'mm', 2.5, 9, 1),
    ratio('density', 'Bubbles', 'a second', 5, 40),
    even('rise', 'Rise by', '%', 5, 40),
    ratio('surge', 'Surges', 'a second', 0.5, 4, 1),
    even('surging', 'Surging', '%', 0, 90),
    even('drops', 'Drops', 'a second', 0, 5),
    even('deep', 'Deep ones', 'a second', 0, 3),
    even('wide', 'Wide', '%', 0, 90),
    even('under', 'Under water', '%', 0, 60),
  ],
  make: (take, v) => {
    const { rate, random, seconds } = take;
    const surge = new Drift(random, v.surge, 200);
    const curve = Array.from(
      { length: Math.ceil(seconds * 200) + 1 },
      () => 1 - (v.surging / 100) * (0.5 + 0.5 * surge.step()),
    );
    const end = seconds - 0.12;
    const density = (t: number) => curve[Math.floor(t * 200)] * smooth(t, 0, 0.08) * (1 - smooth(t, end - 0.25, end));
    const wide = v.wide / 100;
    const dry = [0, 1].map(() => silence(take));
    const events = [0.01];
    for (let n = 0; n < 3; n++) {
      const own = silence(take);
      if (n === 0) bubble(own, 0.01, (v.size * 0.6) / 1000, 0.6, v.rise / 100, rate);
      shower(own, take, 0.02, end, v.density / 3, v.size / 1000, density);
      for (const [many, large] of [
        [v.drops / 3, 0.0016],
        [v.deep / 3, 0.016],
      ])
        if (many > 0)
          for (let t = random.wait(many); t < end; t += random.wait(many))
            bubble(own, t, large * random.between(0.7, 1.3), 0.5 * random.next(), v.rise / 100, rate);
      placed(own, () => (n - 1) * wide).forEach((p, side) => p.forEach((y, i) => (dry[side][i] += y)));
    }
    for (const plane of dry) {
      const lid = new Sweepable(rate);
      lid.tune(9000 * pow(0.12, v.under / 100), 0.7);
      for (let i = 0; i < plane.length; i++) {
        lid.step(plane[i]);
        plane[i] = lid.low * held(i / rate, seconds, 0, 0.05);
      }
    }
    return { dry, events };
  },
};

/** Formants of open, round and narrow mouths, Hz, for a throat of a man's size. */
const MOUTHS = [
  [700, 1150, 2500],
  [420, 800, 2350],
  [300, 2100, 2800],
];

const creature: Patch = {
  name: 'Creature',
  what: 'A throat of any size that calls, growls or moans.',
  catId: 'CREABeast',
  keywords: ['monster', 'growl', 'roar', 'voice'],
  values: [
    length(0.8, 3),
    ratio('pitch', 'Voice at', 'Hz', 55, 190),
    even('calls', 'Calls', '', 1, 3),
    even('rise', 'Rises by', 'semitones', 0, 12),
    even('sink', 'Sinks by', 'semitones', 0, 14),
    ratio('throat', 'Throat larger', 'times', 0.7, 2, 2),
    even('from', 'Mouth begins', '%', 0, 100),
    even('to', 'Mouth ends', '%', 0, 100),
    even('growl', 'Growling', '%', 20, 95),
    ratio('pace', 'Growls', 'a second', 16, 48),
    even('breath', 'Breath', '%', 10, 60),
    even('drive', 'Driven by', 'times', 0.5, 5, 1),
  ],
  make: (take, v) => {
    const { rate, random, seconds } = take;
    const out = silence(take);
    const calls = Math.round(v.calls);
    const each = (seconds - 0.02) / calls;
    const events: number[] = [];
    for (let n = 0; n < calls; n++) {
      const from = 0.01 + n * each;
      events.push(from);
      const long = each * random.between(0.75, 0.95);
      const voice = new Oscillator(rate);
      const shiver = new Drift(random, 9, rate);
      const [growl, pink] = [new Drift(random, v.pace, rate), new Pink(random)];
      const formants = MOUTHS[0].map(() => new Sweepable(rate));
      const first = Math.round(from * rate);
      for (let i = first; i < out.length && i < first + long * rate; i++) {
        const x = (i - first) / (long * rate);
        const f =
          above(v.pitch, v.rise * smooth(x, 0, 0.4) - (v.rise + v.sink) * smooth(x, 0.4, 1)) *
          (1 + 0.03 * shiver.step());
        if (i % 32 === 0) {
          const mouth = ((v.from + (v.to - v.from) * x) / 100) * (MOUTHS.length - 1);
          const k = Math.min(MOUTHS.length - 2, Math.floor(mouth));
          formants.forEach((formant, m) => {
            const at = MOUTHS[k][m] + (MOUTHS[k + 1][m] - MOUTHS[k][m]) * (mouth - k);
            formant.tune(at / v.throat, 5);
          });
        }
        const rough = 1 - (v.growl / 100) * (0.5 + 0.5 * growl.step());
        const source = voice.saw(f) * rough + (pink.step() * 2.5 * v.breath) / 100;
        let y = 0;
        formants.forEach((formant, m) => {
          formant.step(source);
          y += formant.band / (1 + 0.6 * m);
        });
        out[i] += driven(y * 1.2, v.drive) * held(i / rate - from, long, long * 0.12, long * 0.35);
      }
    }
    const sway = random.between(-0.15, 0.15);
    const dry = place(out, { decay: 0.5, size: 7, wet: 0.12, dull: 0.5 }, sway, rate, random);
    for (const plane of dry) for (let i = 0; i < plane.length; i++) plane[i] *= held(i / rate, seconds, 0, 0.03);
    return { dry, events };
  },
};

/** What is struck, fired, blown and alive. */
export const bodies = { chime, impact, engine, bubbles, creature } satisfies Record<string, Patch>;
