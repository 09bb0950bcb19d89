import { cos, pow, sin } from './exact';
import { HUSH } from './filters';
import type { Random } from './random';

/** A place in which a sound stands. */
export interface Room {
  /** Seconds until the reverberation has fallen by 60 dB. */
  decay: number;
  /** Metres; sets when the first reflections come. */
  size: number;
  /** 0 dry to 1 all room. */
  wet: number;
  /** 0 bright to 1 dull: how much the walls swallow of the treble. */
  dull: number;
}

export const rooms = {
  open: { decay: 0.35, size: 30, wet: 0.08, dull: 0.8 },
  deck: { decay: 0.4, size: 5, wet: 0.14, dull: 0.5 },
  cabin: { decay: 0.3, size: 2.4, wet: 0.24, dull: 0.55 },
  shed: { decay: 1.3, size: 11, wet: 0.26, dull: 0.35 },
  lock: { decay: 2.4, size: 16, wet: 0.32, dull: 0.25 },
  shore: { decay: 3.2, size: 160, wet: 0.3, dull: 0.75 },
} satisfies Record<string, Room>;

export type RoomName = keyof typeof rooms;

const SOUND = 343;

/** Eight delay lines that feed each other through a Householder matrix (Jot, 1991), low-passed by the walls. */
function late(input: Float32Array, room: Room, rate: number, random: Random): [Float32Array, Float32Array] {
  const lengths = Array.from({ length: 8 }, (_, i) => {
    const seconds = ((room.size / SOUND) * (0.7 + i * 0.19) + 0.004) * random.vary(0.08);
    return Math.max(32, Math.round(Math.min(seconds, 0.18) * rate));
  });
  const buffers = lengths.map((length) => new Float32Array(length));
  const gains = Float64Array.from(lengths, (length) => pow(10, (-3 * length) / (rate * room.decay)));
  const at = new Int32Array(8);
  const lows = new Float64Array(8);
  const outs = new Float64Array(8);
  const pass = 1 - room.dull * 0.75;
  const left = new Float32Array(input.length);
  const right = new Float32Array(input.length);
  for (let i = 0; i < input.length; i++) {
    let sum = 0;
    for (let l = 0; l < 8; l++) {
      lows[l] += (buffers[l][at[l]] - lows[l]) * pass;
      outs[l] = lows[l] * gains[l];
      sum += outs[l];
    }
    for (let l = 0; l < 8; l++) {
      buffers[l][at[l]] = input[i] + HUSH + outs[l] - sum * 0.25;
      at[l] = at[l] + 1 === lengths[l] ? 0 : at[l] + 1;
    }
    left[i] = (outs[0] - outs[2] + outs[4] - outs[6]) * 0.4;
    right[i] = (outs[1] - outs[3] + outs[5] - outs[7]) * 0.4;
  }
  return [left, right];
}

/**
 * Puts a mono sound into a room: the direct sound at a place between the ears, six early reflections, late reverberation.
 * @param pan -1 left to 1 right
 * @returns left and right, as long as the input
 */
export function place(dry: Float32Array, room: Room, pan: number, rate: number, random: Random): Float32Array[] {
  const angle = ((pan + 1) * Math.PI) / 4;
  const sides = [cos(angle), sin(angle)];
  const early = Array.from({ length: 6 }, (_, k) => ({
    delay: Math.round(((room.size / SOUND) * (0.25 + 0.3 * k) * random.vary(0.2) + 0.0012) * rate),
    gains: [random.between(0.15, 0.6), random.between(0.15, 0.6)].map((g) => (g * room.wet) / (1 + k * 0.3)),
  }));
  const tails = late(dry, room, rate, random);
  return sides.map((side, ear) => {
    const out = new Float32Array(dry.length);
    for (let i = 0; i < dry.length; i++) out[i] = dry[i] * side + tails[ear][i] * room.wet;
    for (const r of early) {
      const gain = r.gains[ear];
      for (let i = r.delay; i < dry.length; i++) out[i] += dry[i - r.delay] * gain;
    }
    return out;
  });
}
