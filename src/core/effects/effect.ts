import type { Curve } from './moved';
import type { Node } from './node';
import type { Param } from './param';

/** A value of an effect: a number, or one of a few choices that is kept as its place among them. */
export interface ParamSpec {
  key: string;
  label: string;
  unit: '' | 'BPM' | 'dB' | 'Hz' | 'dB/octave' | 'ms' | 's' | '%' | 'm' | ':1' | '°C';
  least: number;
  most: number;
  /** What it is to begin with. */
  initial: number;
  curve: Curve;
  /** Names of the values 0, 1, 2 and so on, where it is a choice; a choice never glides. */
  choices?: readonly string[];
  /** What it does, in a sentence. */
  about: string;
}

/** One effect: all that panels, schemas, files and documents need to know of it. */
export interface Effect {
  kind: string;
  name: string;
  /** What it does, in a sentence. */
  about: string;
  /** The paper, cookbook or standard that it follows. */
  source: string;
  params: readonly ParamSpec[];
  /** Whether it may listen to another line than its own; that comes as its second input. */
  listens?: boolean;
  /** Whether it hangs on all that came before: after a jump it sounds alike, but is not the mixdown to the sample. */
  wanders?: boolean;
  /**
   * What it does to channels beside left and right, in a mix of more than these: the same to each of them (`each`), or as much to all as to left
   * and right (`all`). Where it says nothing, what comes out of it stands between left and right alone.
   */
  wide?: 'each' | 'all';
  /** Whether what passes flows into another line as well. */
  sends?: boolean;
  /** What the sound is to it that it is made of, where it is made of one: then its node is a `SoundNode`. */
  madeOf?: string;
  /** Sets of values under a name; what is not there is as the effect begins. */
  presets?: readonly { name: string; values: Readonly<Record<string, number>> }[];
  /** Where it colours what passes: how much louder a tone gets, dB. @param values all of them; @param rate and freq in Hz */
  colours?(values: Readonly<Record<string, number>>, rate: number, freq: number): number;
  /** Where it follows the level: what a tone of a level comes out at once it has settled, dB. @param values all of them */
  settles?(values: Readonly<Record<string, number>>, level: number): number;
  /** @param rate Hz; @param params by key, all of them; @param channels two where it is not `wide` to all of them */
  make(rate: number, params: Readonly<Record<string, Param>>, channels?: number): Node;
}
