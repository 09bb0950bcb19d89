import { fromDb } from '@core/audio';
import type { ParamSpec } from './effect';

type Range = readonly [least: number, most: number, initial: number];

/** A value whose handle runs evenly. */
export const even = (
  key: string,
  label: string,
  unit: ParamSpec['unit'],
  [least, most, initial]: Range,
  about: string,
): ParamSpec => ({ key, label, unit, least, most, initial, curve: 'even', about });

/** A value whose handle runs in octaves, as ears do. */
export const octaves = (...of: Parameters<typeof even>): ParamSpec => ({ ...even(...of), curve: 'octaves' });

/** One of a few choices. */
export const choice = (
  key: string,
  label: string,
  choices: readonly string[],
  initial: string,
  about: string,
): ParamSpec => ({
  ...even(key, label, '', [0, choices.length - 1, choices.indexOf(initial)], about),
  choices,
});

/** How much of what came in and of what was made of it comes out. */
export const mix = (initial: number): ParamSpec =>
  even(
    'mix',
    'Mix',
    '%',
    [0, 100, initial],
    'How much of the effect comes out: at 0 % it is not heard, at 100 % nothing else is.',
  );

/** A level whose handle ends in nothing at all. */
export const NOTHING = -60;
export const levelFrom = (dB: number): number => (dB <= NOTHING ? 0 : fromDb(dB));
