import type { Texture } from './stretch';

/** How a fade runs: along a straight line, with equal power, or softly at both ends. */
export type FadeForm = 'straight' | 'equal power' | 'soft';
export const fadeForms: readonly FadeForm[] = ['straight', 'equal power', 'soft'];

/** Which way a sound is played: both ways begins forward and turns at either end. */
export type Direction = 'forward' | 'backward' | 'both ways';
export const directions: readonly Direction[] = ['forward', 'backward', 'both ways'];

/**
 * What is heard of a sound's channels: all as they are, their mean, half the difference of the first two, left and right
 * exchanged, or one of them, counted from 0.
 */
export type ChannelPick = 'all' | 'mono' | 'side' | 'swapped' | number;

/** What is done to a sound while it plays, and to what is taken of it. The file stays as it is. */
export interface Shape {
  /** dB */
  gain: number;
  /** As tape does: 2 is twice as fast and an octave higher. */
  speed: number;
  /** Times as long, at the same pitch. */
  length: number;
  /** Semitones higher, at the same length. */
  pitch: number;
  /** What length and pitch are told apart by. */
  texture: Texture;
  direction: Direction;
  /** Seconds of what is heard. */
  fadeIn: number;
  fadeOut: number;
  fade: FadeForm;
  channels: ChannelPick;
}

/** A sound as it is. */
export const plainShape: Shape = {
  gain: 0,
  speed: 1,
  length: 1,
  pitch: 0,
  texture: 'mixed',
  direction: 'forward',
  fadeIn: 0,
  fadeOut: 0,
  fade: 'equal power',
  channels: 'all',
};

/** Bounds of the speed: four octaves each way. */
export const SPEEDS = { least: 1 / 16, most: 16 } as const;

/** Whether a shape changes nothing. */
export const isPlain = (shape: Shape): boolean =>
  (Object.keys(plainShape) as (keyof Shape)[]).every(
    (key) => key === 'fade' || key === 'texture' || shape[key] === plainShape[key],
  );

/** A shape as it was kept, with what shapes have learnt since. */
export const fullShape = (kept: Partial<Shape> | undefined): Shape => ({ ...plainShape, ...kept });

/** Gain of a fade-in at a share of its length, 0 to 1; a fade-out is its mirror. */
export function fadeGain(form: FadeForm, share: number): number {
  const t = Math.max(0, Math.min(1, share));
  if (form === 'straight') return t;
  return form === 'equal power' ? Math.sin((t * Math.PI) / 2) : (1 - Math.cos(t * Math.PI)) / 2;
}

/** How loud a channel of a sound is left and right: mono on both, stereo as it is, further ones folded down. */
export function channelGains(channel: number, channels: number, pan: number): [number, number] {
  const left = Math.min(1, 1 - pan);
  const right = Math.min(1, 1 + pan);
  if (channels === 1) return [left, right];
  const fold = channel < 2 ? 1 : Math.SQRT1_2;
  return channel % 2 === 0 ? [left * fold, 0] : [0, right * fold];
}

/** How many channels a sound has once some of them are picked. */
export const channelsOf = (pick: ChannelPick, channels: number): number =>
  pick === 'all' || pick === 'swapped' ? channels : 1;

/**
 * How loud a channel of a sound is in each channel of what comes out: two where one listens, or as many as
 * {@link channelsOf} says where it is written.
 */
export function pickGains(pick: ChannelPick, channel: number, channels: number, outs: number): number[] {
  const swapped = pick === 'swapped' && channel < 2 && channels > 1 ? 1 - channel : channel;
  const alone = (gain: number) => new Array<number>(outs).fill(gain);
  if (typeof pick === 'number') return alone(channel === Math.min(pick, channels - 1) ? 1 : 0);
  if (pick === 'mono' || (pick === 'side' && channels < 2)) return alone(1 / channels);
  if (pick === 'side') return alone(channel === 0 ? 0.5 : channel === 1 ? -0.5 : 0);
  if (outs === 2 && channels !== 2) return channelGains(swapped, channels, 0);
  return Array.from({ length: outs }, (_, out) => (out === swapped ? 1 : 0));
}
