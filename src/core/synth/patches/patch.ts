import type { Family } from '../family';

/** A number of a patch that a hand turns and that chance rolls. */
export interface PatchValue {
  key: string;
  /** As it stands before the number in a sentence: *starts at*. */
  name: string;
  unit: string;
  from: number;
  to: number;
  /** Set where equal ratios sound like equal steps. */
  byRatio?: true;
  /** Places behind the point; whole numbers where absent. */
  digits?: number;
}

/** A kind of sound that is made from nothing: its generators and their numbers. */
export interface Patch {
  name: string;
  what: string;
  /** Of the Universal Category System. */
  catId: string;
  keywords: readonly string[];
  /** The first is always the length in seconds. */
  values: readonly PatchValue[];
  make: Family;
}

type More = Pick<PatchValue, 'byRatio' | 'digits'>;

/** A number of a patch whose steps are even. */
export const even = (key: string, name: string, unit: string, from: number, to: number, digits = 0): PatchValue => ({
  ...{ key, name, unit, from, to },
  ...((digits > 0 ? { digits } : {}) satisfies More),
});

/** A number of a patch whose steps are ratios: frequencies and times. */
export const ratio = (key: string, name: string, unit: string, from: number, to: number, digits = 0): PatchValue => ({
  ...even(key, name, unit, from, to, digits),
  byRatio: true,
});

/** The length, which each patch has. */
export const length = (from: number, to: number): PatchValue => ratio('length', 'Length', 's', from, to, 2);
