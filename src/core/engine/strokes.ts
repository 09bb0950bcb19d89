import { BLOCK, type Block } from '@core/effects';
import { Graph, type Clip, type GraphChange } from './graph';
import type { Material } from './material';
import { LET_GO } from './notes';

/** One sound of a stroke: on which line, and `at` counted from the instant of the stroke. */
export interface StruckClip {
  line: number;
  clip: Clip;
  /** How many of its line sound at once at the most; as many as strokes do when absent. */
  most?: number;
}

/** A stroke of a key. */
export interface Struck {
  key: number;
  /** By which whoever strikes knows it again. */
  id?: number;
  clips: readonly StruckClip[];
  /** 0 to 1 */
  velocity?: number;
  /** It is what a key leaves behind that went up: no key holds it, and movers go on as they are. */
  rings?: boolean;
}

/** A stroke that gave way to another. */
export interface GaveWay {
  /** Its id. */
  stroke: number;
  /** Samples after it began. */
  after: number;
  /** The line on which it did, where that has a limit of its own. */
  line?: number;
}

/** What a host tells of a build that is played. */
export type StrikeCommand =
  | { type: 'build'; changes: GraphChange[]; anew?: boolean }
  | ({ type: 'strike' } & Struck)
  | { type: 'strike off'; key: number; lasts: boolean }
  | { type: 'strikes off' }
  | { type: 'strikes'; limit: number; gives: 'first' | 'quietest' };

/** One stroke that sounds. */
interface Sounding {
  key: number;
  stroke?: number;
  began: number;
  clips: { id: number; line: number }[];
  end: number;
  held: boolean;
}

/** One whose audio is on its way. */
interface Early extends Struck {
  /** Samples for which it still waits. */
  patience: number;
}

/** For so long a stroke waits for its audio, and for its line; played later than that, it would be another stroke. Seconds. */
const PATIENCE = 0.5;
/** Frames of a sound that have to be there when it begins. */
const BEGINNING = 4096;

/**
 * A build that is played by keys. Its lines run on for as long as anything rings in them, and each stroke lays its sounds onto them where they are at that
 * moment: all that strokes share, they share. Beyond a limit the one that matters least is cut short in 5 ms.
 */
export class Strokes {
  private graph: Graph;
  private at = 0;
  private next = 1;
  /** In the order in which they began. */
  private sounding: Sounding[] = [];
  private early: Early[] = [];
  /** Whether a stroke sounds, or what it left behind. */
  private isHeard = false;
  /** Strokes that sound at once, and which of them gives way to one more. */
  limit = 16;
  gives: 'first' | 'quietest' = 'first';

  constructor(
    private readonly rate: number,
    private readonly materials: ReadonlyMap<number, Material>,
  ) {
    this.graph = new Graph(rate, materials);
  }

  /** What came of the last block. */
  get out(): Block {
    return this.graph.out;
  }

  /** Does what a command says. */
  handle(command: StrikeCommand): void {
    switch (command.type) {
      case 'build':
        if (command.anew) {
          this.end();
          this.graph = new Graph(this.rate, this.materials);
          this.isHeard = false;
        }
        // Where nothing is heard, all is in its place at once.
        return this.graph.apply(command.changes, this.isHeard);
      case 'strike':
        return this.on(command);
      case 'strike off':
        return this.off(command.key, command.lasts);
      case 'strikes off':
        return this.end();
      case 'strikes':
        this.limit = command.limit;
        this.gives = command.gives;
    }
  }

  /** A key goes down. One whose audio or line has not come yet begins once it has, if that is soon. */
  on({ key, id, clips, velocity, rings }: Struck): void {
    this.early.push({ key, id, clips, velocity, rings, patience: PATIENCE * this.rate });
    this.begin(0);
  }

  /** A key goes up. @param lasts whether what it struck plays on */
  off(key: number, lasts: boolean): void {
    if (!lasts) this.early = this.early.filter((e) => e.rings || e.key !== key);
    for (const s of this.sounding) {
      if (s.key !== key || !s.held) continue;
      s.held = false;
      if (!lasts) this.cut(s, LET_GO);
    }
    if (!this.sounding.some((s) => s.held)) this.graph.movers.lift(this.at);
  }

  /** All of them die away. */
  end(): void {
    this.early = [];
    for (const s of [...this.sounding]) this.cut(s);
  }

  /** Turns a mover that hands turn. @param share 0 to 1 */
  turn(id: number, share: number): void {
    this.graph.movers.turn(id, share, this.isHeard);
  }

  /** Keys whose strokes are heard. */
  get keys(): number[] {
    return this.sounding.map((s) => s.key);
  }

  /** How many strokes have begun to sound so far. */
  begun = 0;
  /** Those that gave way since this was emptied. */
  gave: GaveWay[] = [];

  private tellOf({ stroke, began }: Sounding, line?: number): void {
    if (stroke !== undefined)
      this.gave.push({ stroke, after: this.at - began, ...(line === undefined ? {} : { line }) });
  }

  private cut(one: Sounding, seconds?: number): void {
    for (const { id } of one.clips) this.graph.removeClip(id, true, seconds);
    this.sounding = this.sounding.filter((s) => s !== one);
  }

  private hasBegun({ clip: { material: id, region, shape } }: StruckClip): boolean {
    const material = this.materials.get(id);
    const [from, to] =
      shape.direction === 'backward' ? [region.end - BEGINNING, region.end] : [region.start, region.start + BEGINNING];
    return material?.has(Math.max(region.start, from), Math.min(region.end, to)) === true;
  }

  /** The one that matters least: let go of before held ones, then the first or the quietest. */
  private least(sounding: readonly Sounding[]): Sounding {
    const { gives, graph } = this;
    const free = sounding.filter((s) => !s.held);
    const from = free.length > 0 ? free : sounding;
    if (gives === 'first') return from[0];
    const loud = from.map((s) => Math.max(0, ...s.clips.map(({ id }) => graph.loudnessOf(id))));
    return from[loud.indexOf(Math.min(...loud))];
  }

  /** Makes room on a line for one more of its sounds. */
  private spare(line: number, most: number): void {
    for (;;) {
      const own = this.sounding.filter((s) => s.clips.some((c) => c.line === line));
      if (own.length < most) return;
      const gives = this.least(own);
      this.tellOf(gives, line);
      for (const { id } of gives.clips.filter((c) => c.line === line)) this.graph.removeClip(id, true);
      gives.clips = gives.clips.filter((c) => c.line !== line);
      if (gives.clips.length === 0) this.sounding = this.sounding.filter((s) => s !== gives);
    }
  }

  private begin(count: number): void {
    if (this.early.length === 0) return;
    const waiting: Early[] = [];
    for (const one of this.early) {
      one.patience -= count;
      if (one.patience > 0 && !one.clips.every((c) => this.graph.hasLine(c.line) && this.hasBegun(c))) {
        waiting.push(one);
        continue;
      }
      while (this.sounding.length >= this.limit) {
        const gives = this.least(this.sounding);
        this.tellOf(gives);
        this.cut(gives);
      }
      const own = { key: one.key, stroke: one.id, began: this.at };
      const made: Sounding = { ...own, clips: [], end: this.at, held: !one.rings };
      for (const { line, clip, most } of one.clips) {
        if (most !== undefined) this.spare(line, most);
        const id = this.next++;
        const end = this.graph.addClip(id, line, { ...clip, at: clip.at + this.at });
        if (end === undefined) continue;
        made.clips.push({ id, line });
        made.end = Math.max(made.end, end);
      }
      if (!one.rings) this.graph.movers.strike(this.at, one.key, one.velocity);
      this.sounding.push(made);
      this.isHeard = true;
      this.begun++;
    }
    this.early = waiting;
  }

  /**
   * Renders the next samples; see `out`.
   * @returns whether there is anything to hear
   */
  render(count: number): boolean {
    // Effects that are made of sounds are whole before the first stroke.
    this.graph.feed();
    this.begin(count);
    if (this.sounding.length === 0 && this.graph.silent) return (this.isHeard = false);
    this.graph.render(this.at, Math.min(BLOCK, count));
    this.at += count;
    for (let k = this.sounding.length - 1; k >= 0; k--) {
      const one = this.sounding[k];
      if (one.end > this.at) continue;
      for (const { id } of one.clips) this.graph.removeClip(id, false);
      this.sounding.splice(k, 1);
    }
    return true;
  }
}
