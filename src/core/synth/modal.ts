import { cos, exp, pow, sin } from './exact';
import { HUSH } from './filters';
import type { Random } from './random';

/** One way in which a body rings. */
export interface Mode {
  /** Hz */
  frequency: number;
  /** Seconds until it has fallen by 60 dB. */
  decay: number;
  gain: number;
}

/** What a body is made of: how its modes lie, and how fast high ones die. */
export interface Material {
  /** Mode frequencies relative to the lowest. */
  ratios: readonly number[];
  /** Seconds (T60) of the lowest mode. */
  decay: number;
  /** How much faster high modes die: decay falls with frequency ratio to this power. */
  damping: number;
}

/** Bodies; ratios of bars, plates and shells from the mechanics of free and clamped beams and of thin plates. */
export const materials = {
  timber: { ratios: [1, 1.58, 2.31, 2.76, 3.54, 4.21, 5.4, 6.63, 7.9], decay: 0.16, damping: 0.75 },
  plank: { ratios: [1, 2.14, 2.76, 3.88, 5.4, 6.1, 8.93], decay: 0.24, damping: 0.85 },
  iron: { ratios: [1, 1.506, 2.0, 2.443, 2.757, 3.31, 4.16, 5.404, 6.79, 8.933, 11.2], decay: 0.9, damping: 0.45 },
  bar: { ratios: [1, 2.757, 5.404, 8.933, 13.344], decay: 2.2, damping: 0.5 },
  sheet: {
    ratios: [1, 1.41, 1.73, 2.09, 2.24, 2.83, 3.16, 3.61, 4.12, 4.47, 5.1, 5.83, 6.4, 7.28],
    decay: 1.4,
    damping: 0.3,
  },
  link: { ratios: [1, 1.83, 2.41, 3.17, 4.72, 6.33], decay: 0.22, damping: 0.35 },
  rubber: { ratios: [1, 1.7, 2.6], decay: 0.12, damping: 1.3 },
  glass: { ratios: [1, 2.32, 4.25, 6.63, 9.38], decay: 0.5, damping: 0.4 },
  hull: { ratios: [1, 1.35, 1.9, 2.55, 3.3, 4.4], decay: 0.5, damping: 1 },
} satisfies Record<string, Material>;

export type MaterialName = keyof typeof materials;

/** The modes of one particular body: the material's, scattered a little as no two real bodies are alike. */
export function body(material: Material, lowest: number, random: Random, scatter = 0.03): Mode[] {
  return material.ratios.map((ratio) => ({
    frequency: lowest * ratio * random.vary(scatter),
    decay: (material.decay / pow(ratio, material.damping)) * random.vary(0.2),
    gain: random.between(0.5, 1) / Math.sqrt(ratio),
  }));
}

/** A bank of two-pole resonators: a body that rings to whatever force drives it. */
export class Resonator {
  private readonly c1: Float64Array;
  private readonly c2: Float64Array;
  private readonly g: Float64Array;
  private readonly y1: Float64Array;
  private readonly y2: Float64Array;

  constructor(modes: Mode[], rate: number) {
    const heard = modes.filter((m) => m.frequency < rate * 0.45);
    this.c1 = new Float64Array(heard.length);
    this.c2 = new Float64Array(heard.length);
    this.g = new Float64Array(heard.length);
    this.y1 = new Float64Array(heard.length);
    this.y2 = new Float64Array(heard.length);
    heard.forEach((m, i) => {
      const w = (2 * Math.PI * m.frequency) / rate;
      const r = exp(-6.91 / (m.decay * rate));
      this.c1[i] = 2 * r * cos(w);
      this.c2[i] = -r * r;
      this.g[i] = m.gain * sin(w);
    });
  }

  /** Force in, sound out. */
  step(force: number): number {
    let sum = 0;
    for (let i = 0; i < this.g.length; i++) {
      const y = this.c1[i] * this.y1[i] + this.c2[i] * this.y2[i] + this.g[i] * (force + HUSH);
      this.y2[i] = this.y1[i];
      this.y1[i] = y;
      sum += y;
    }
    return sum;
  }
}

/**
 * Adds the force of one blow to a drive signal: half a sine as long as the two bodies touch, roughened.
 * @param at seconds; @param contact seconds of touch: 0.3 ms for iron on iron, 5 ms for a boot
 */
export function blow(
  drive: Float32Array,
  at: number,
  force: number,
  contact: number,
  rate: number,
  random: Random,
): void {
  const from = Math.round(at * rate);
  const length = Math.max(2, Math.round(contact * rate));
  const scale = force * Math.sqrt(48 / length);
  for (let i = 0; i < length && from + i < drive.length; i++) {
    drive[from + i] += scale * sin((Math.PI * (i + 0.5)) / length) * (1 + 0.35 * random.noise());
  }
}

/** Drives a body with a force signal and adds what sounds to `out`. */
export function ring(out: Float32Array, drive: Float32Array, modes: Mode[], rate: number, gain = 1): void {
  const resonator = new Resonator(modes, rate);
  for (let i = 0; i < out.length; i++) out[i] += gain * resonator.step(drive[i]);
}
