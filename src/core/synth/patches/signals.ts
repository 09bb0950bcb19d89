import { pow, sinTurns } from '../exact';
import { silence } from '../family';
import { above, Crusher, driven, echoes, held, Oscillator, placed, struck, Sweepable } from '../generators';
import { even, length, ratio, type Patch } from './patch';

const blip: Patch = {
  name: 'Blip',
  what: 'One to three short tones, as an interface answers a touch.',
  catId: 'UIBeep',
  keywords: ['interface', 'beep', 'button', 'notification'],
  values: [
    length(0.25, 0.7),
    ratio('pitch', 'Starts at', 'Hz', 500, 2200),
    even('notes', 'Tones', '', 1, 3),
    even('step', 'Each higher by', 'semitones', -7, 12),
    ratio('gap', 'One every', 'ms', 60, 140),
    ratio('rise', 'Rises within', 'ms', 1, 12),
    ratio('fall', 'Dies away within', 'ms', 90, 320),
    even('bend', 'Bends by', 'semitones', -3, 5, 1),
    even('folds', 'Folded', 'times', 0, 1.2, 1),
    even('overtone', 'Overtone at', 'times', 2, 5),
    even('depth', 'Overtone depth', '%', 0, 60),
    even('echo', 'Echo', '%', 0, 25),
  ],
  make: (take, v) => {
    const { rate, random } = take;
    const out = silence(take);
    const events: number[] = [];
    for (let n = 0; n < Math.round(v.notes); n++) {
      const at = 0.004 + (n * v.gap) / 1000;
      if (at > take.seconds - 0.03) break;
      events.push(at);
      const pitch = above(v.pitch, n * v.step);
      const [tone, over] = [new Oscillator(rate), new Oscillator(rate, random.next())];
      for (let i = Math.round(at * rate); i < out.length; i++) {
        const t = i / rate - at;
        const e = struck(t, v.rise / 1000, v.fall / 1000);
        const f = above(pitch, v.bend * (1 - e));
        const bend = over.sine(f * Math.round(v.overtone)) * 0.14 * (v.depth / 100) * e;
        const x = tone.sine(f, bend) * (1 + v.folds);
        out[i] += (v.folds > 0 ? sinTurns(x / 4) : x) * e;
      }
    }
    const planes = placed(out, () => 0);
    echoes(planes, v.gap / 500, v.echo / 100, rate);
    return { dry: planes, events };
  },
};

const zap: Patch = {
  name: 'Zap',
  what: 'A tone that falls through octaves at once, as of a ray or a spark.',
  catId: 'LASRGun',
  keywords: ['laser', 'ray', 'blaster', 'science fiction'],
  values: [
    length(0.2, 0.9),
    ratio('pitch', 'Starts at', 'Hz', 2500, 9000),
    even('octaves', 'Falls by', 'octaves', 2.5, 5.5, 1),
    ratio('curve', 'Hurries', 'times', 0.6, 3, 1),
    even('shots', 'Shots', '', 1, 4),
    even('width', 'Pulse of', '%', 12, 50),
    even('noise', 'Noise', '%', 0, 45),
    ratio('ring', 'Rung at', 'Hz', 60, 900),
    even('rung', 'Ringing', '%', 0, 80),
    even('drive', 'Driven by', 'times', 0, 5, 1),
    even('tail', 'Echo', '%', 0, 35),
  ],
  make: (take, v) => {
    const { rate, seconds, random } = take;
    const out = silence(take);
    const shots = Math.max(1, Math.min(Math.round(v.shots), Math.floor(seconds / 0.12)));
    const each = seconds / shots;
    const events: number[] = [];
    for (let n = 0; n < shots; n++) {
      const from = n * each + 0.003;
      events.push(from);
      const [tone, ring] = [new Oscillator(rate), new Oscillator(rate)];
      const band = new Sweepable(rate);
      const [first, last] = [Math.round(from * rate), Math.min(out.length, Math.round((n + 1) * each * rate))];
      for (let i = first; i < last; i++) {
        const x = (i - first) / (last - first);
        const f = v.pitch * pow(2, -v.octaves * (1 - pow(1 - x, v.curve)));
        if (i % 16 === 0) band.tune(f * 1.5, 2);
        band.step(random.noise());
        const y = tone.pulse(f, v.width / 100) * (1 - v.noise / 100) + (band.band * 3 * v.noise) / 100;
        const rung = 1 - (v.rung / 100) * (0.5 - 0.5 * ring.sine(v.ring));
        out[i] += driven(y * rung, v.drive) * held((i - first) / rate, each, 0.001, each * 0.75);
      }
    }
    const planes = placed(out, (i) => 0.3 * sinTurns(i / out.length));
    echoes(planes, 0.07, v.tail / 100, rate);
    return { dry: planes, events };
  },
};

const alarm: Patch = {
  name: 'Alarm',
  what: 'Two tones in turn, or one that goes up and down, loud enough to be obeyed.',
  catId: 'ALRMElec',
  keywords: ['siren', 'warning', 'alert', 'buzzer'],
  values: [
    length(1.5, 6),
    ratio('pitch', 'Low tone', 'Hz', 380, 1100),
    even('interval', 'High tone higher by', 'semitones', 2, 12),
    ratio('pace', 'Turns', 'a second', 1, 6, 1),
    even('glide', 'Glides', '%', 0, 100),
    even('pause', 'Silent between', '%', 0, 45),
    even('width', 'Pulse of', '%', 15, 50),
    ratio('horn', 'Horn at', 'Hz', 900, 2600),
    even('resonance', 'Horn rings', 'times', 1, 6, 1),
    even('drive', 'Driven by', 'times', 0, 4, 1),
    even('second', 'Second voice off by', 'cents', 0, 30),
  ],
  make: (take, v) => {
    const { rate, seconds } = take;
    const out = silence(take);
    const voices = [new Oscillator(rate), new Oscillator(rate, 0.3)];
    const horn = new Sweepable(rate);
    horn.tune(v.horn, v.resonance);
    const glide = v.glide / 100;
    const events: number[] = [];
    for (let n = 0; n / v.pace < seconds - 0.02; n++) events.push(n / v.pace + 0.002);
    for (let i = 0; i < out.length; i++) {
      const turn = (i / rate) * v.pace;
      const x = turn - Math.floor(turn);
      const stepped = x < 0.5 ? 0 : 1;
      const at = stepped * (1 - glide) + glide * (0.5 - 0.5 * sinTurns(x + 0.25));
      const f = above(v.pitch, v.interval * at);
      const y = voices[0].pulse(f, v.width / 100) + voices[1].pulse(above(f, v.second / 100), v.width / 100);
      horn.step(y * 0.5);
      const open = held(x / v.pace, (1 - v.pause / 100) / v.pace, 0.006, 0.012);
      const gate = v.pause > 0 ? open : 1;
      out[i] = driven(horn.band + y * 0.12, v.drive) * gate * held(i / rate, seconds, 0.004, 0.03);
    }
    return { dry: placed(out, () => 0), events };
  },
};

const glitch: Patch = {
  name: 'Glitch',
  what: 'Scraps of tone and noise that stutter, as of data gone wrong.',
  catId: 'DSGNGlth',
  keywords: ['data', 'digital', 'error', 'stutter'],
  values: [
    length(0.4, 2.5),
    ratio('pace', 'Scraps', 'a second', 14, 45),
    even('repeat', 'Each again', 'times', 0, 4),
    ratio('low', 'Tones from', 'Hz', 80, 500),
    ratio('high', 'Tones to', 'Hz', 2500, 9000),
    even('noise', 'Noise', '%', 15, 65),
    even('gaps', 'Gaps', '%', 15, 55),
    ratio('clock', 'Clock', 'Hz', 3000, 20000),
    even('bits', 'Steps of', 'bit', 3, 8),
    even('jump', 'Jumps sideways', '%', 0, 100),
    even('dive', 'Tones dive by', 'octaves', -2, 2, 1),
  ],
  make: (take, v) => {
    const { rate, random } = take;
    const out = silence(take);
    const sides = new Float32Array(out.length);
    const events: number[] = [];
    const crusher = new Crusher(rate);
    let i = Math.round(0.003 * rate);
    while (i < out.length) {
      const size = Math.max(Math.round(0.006 * rate), Math.round((rate / v.pace) * random.between(0.5, 1.5)));
      const isGap = events.length > 0 && random.next() < v.gaps / 100;
      const isNoise = random.next() < v.noise / 100;
      const f = v.low * pow(v.high / v.low, random.next());
      const side = (random.noise() * v.jump) / 100;
      const again = 1 + Math.floor(random.next() * (Math.round(v.repeat) + 1));
      if (!isGap) events.push(i / rate);
      for (let n = 0; n < again && i < out.length; n++) {
        const tone = new Oscillator(rate);
        const short = Math.max(Math.round(0.004 * rate), Math.floor(size / again));
        for (let k = 0; k < short && i < out.length; k++, i++) {
          const x = isNoise ? random.noise() : tone.pulse(f * pow(2, (-v.dive * k) / short), 0.5);
          sides[i] = side;
          out[i] = isGap ? 0 : crusher.step(x * held(k / rate, short / rate, 0.001, 0.001), v.clock, v.bits);
        }
      }
    }
    for (let k = 0; k < out.length; k++) out[k] *= held(k / rate, take.seconds, 0.002, 0.01);
    return { dry: placed(out, (k) => sides[k]), events };
  },
};

/** What machines say: tones of interfaces, rays, alarms, broken data. */
export const signals = { blip, zap, alarm, glitch } satisfies Record<string, Patch>;
