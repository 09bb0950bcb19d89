import { fromDb } from '@core/audio';
import { BLOCK, effectOf, MIDDLE, PAIR, Param, paramsFor, type Block, type Node, type SoundNode } from '@core/effects';
import type { Material } from '../material';
import { type ClipNode } from './clip-node';
import { Delay } from './delay';
import { MAIN, type Insert, type Line } from './plan';
import { SoundFeed } from './sound-feed';
import { Tap } from './tap';

/** An effect of a line, with its params. */
export interface Slot {
  insert: Insert;
  node: Node;
  /** Those that do the same to channels beside left and right, by pairs. */
  twins: readonly { node: Node; inputs: readonly Block[] }[];
  params: Record<string, Param>;
  /** The same, in no order. */
  all: readonly Param[];
  /** What it is given: the line, and what it listens to. */
  inputs: Block[];
  /** What it lets flow elsewhere. */
  tap?: Tap;
  /** Hands it the sound that it is made of. */
  feed?: SoundFeed;
}

/** Where in a line a send takes what it sends. */
const AFTER = 1;
const isAfter = ({ params }: Slot): boolean => Math.round(params.from.value) === AFTER;

/** Highest magnitude of a block, from a value on. */
function highest(plane: Float32Array, count: number, from: number): number {
  let top = from;
  for (let i = 0; i < count; i++) {
    const magnitude = plane[i] < 0 ? -plane[i] : plane[i];
    if (magnitude > top) top = magnitude;
  }
  return top;
}

/** A line as it sounds. */
export class LineNode {
  into = MAIN;
  /** What flows out of it in the current block. */
  readonly out: Block;
  /** Left and right of it; these and the middle, where there is one. */
  private readonly pair: Block;
  private readonly front: Block;
  private behind = 0;
  /** Highest magnitude left and right since they were last taken, where it is metered; and those before and after the insert that is watched. */
  readonly peaks = new Float64Array(2);
  readonly around = new Float64Array(2);
  metered = false;
  watched = 0;
  private readonly gain: Param;
  private readonly place: Param;
  private readonly open: Param;
  slots: readonly Slot[] = [];
  /** What effects of other lines listen to: this line as it flows on. */
  private listeners: readonly Tap[] = [];
  /** By where they begin, then by id: the same clips are added up in the same order, however they came. */
  private clips: ClipNode[] = [];
  /** Samples of the longest of them. */
  private longest = 0;
  /** Whether anything sounds in the current block, and for how many samples nothing has; and for how many it rings on. */
  private sounds = false;
  private quiet = Infinity;
  private rings = 0;
  /** Taken away while they sounded. */
  private readonly dying: ClipNode[] = [];
  /** Holds back its own clips, where what flows in beside them is late; and what flows out, where others beside it are. */
  private before: Delay | undefined;
  private after: Delay | undefined;

  constructor(
    readonly id: number,
    private readonly rate: number,
    channels: number,
  ) {
    this.out = Array.from({ length: channels }, () => new Float32Array(BLOCK));
    this.pair = this.out.slice(0, PAIR);
    this.front = this.out.slice(0, MIDDLE);
    this.gain = new Param(0, rate);
    this.place = new Param(0, rate);
    this.open = new Param(1, rate);
  }

  /** Takes over values and effects. @param live whether it is heard meanwhile */
  take({ into = MAIN, gain, place, behind = 0, open, inserts, points }: Omit<Line, 'id'>, live: boolean): void {
    this.into = into;
    this.behind = behind;
    // Where nothing sounds nothing has to glide, and the next attack is as loud as it shall be from its first sample.
    const glides = live && !this.silent;
    this.gain.set(gain, glides);
    this.place.set(place, glides);
    this.open.set(open ? 1 : 0, glides);
    this.gain.follow(points?.gain ?? []);
    this.place.follow(points?.place ?? []);
    const old = new Map(this.slots.map((s) => [s.insert.id, s]));
    this.slots = inserts.flatMap((insert): Slot[] => {
      const effect = effectOf(insert.kind);
      // One of a later time than this program is left out, not guessed at.
      if (!effect) return [];
      const known = old.get(insert.id);
      const kept = known?.insert.kind === insert.kind ? known : undefined;
      const wanted = paramsFor(effect, insert.values, this.rate);
      const params = kept?.params ?? wanted;
      for (const { key, choices } of effect.params) {
        params[key].set(wanted[key].value, glides && !choices);
        params[key].follow(insert.points?.[key] ?? []);
      }
      const { length: channels } = this.out;
      const isAll = effect.wide === 'all';
      const node = kept?.node ?? effect.make(this.rate, params, isAll ? channels : PAIR);
      const tap = effect.sends ? (kept?.tap ?? new Tap(channels, params.gain)) : undefined;
      const feed = effect.madeOf ? (kept?.feed ?? new SoundFeed(node as SoundNode, this.rate)) : undefined;
      feed?.take(insert.sound);
      const twins = kept?.twins ?? (effect.wide === 'each' ? this.pairs(() => effect.make(this.rate, params)) : []);
      const inputs = [isAll ? this.out : this.pair];
      return [{ insert, params, all: Object.values(params), node, twins, inputs, tap, feed }];
    });
    this.isFed = this.slots.some((s) => s.feed);
    this.rings = this.tail + this.latency;
  }

  /** The channels beside left and right two by two, each pair with a node of its own. */
  private pairs(make: () => Node): Slot['twins'] {
    const more = this.out.slice(PAIR);
    return Array.from({ length: Math.ceil(more.length / 2) }, (_, k) => ({
      node: make(),
      inputs: [[more[2 * k], more[2 * k + 1] ?? new Float32Array(BLOCK)]],
    }));
  }

  /** A value of its own. */
  own(key: string): Param | undefined {
    return key === 'gain' ? this.gain : key === 'place' ? this.place : undefined;
  }

  /** Whether one of its effects is made of a sound. */
  private isFed = false;

  /**
   * Hands its effects the sounds that they are made of, a unit each.
   * @returns whether there was any left to hand over
   */
  feed(materials: ReadonlyMap<number, Material>): boolean {
    if (!this.isFed) return false;
    let given = false;
    for (let k = 0; k < this.slots.length; k++) if (this.slots[k].feed?.step(materials)) given = true;
    // How long it rings is known by then.
    if (given) this.rings = this.tail + this.latency;
    return given;
  }

  /** Samples by which what comes to one of its effects is late against what comes in. */
  latencyTo(slot: Slot): number {
    let sum = 0;
    for (const each of this.slots) {
      if (each === slot) break;
      if (each.insert.on) sum += each.node.latency;
    }
    return slot.tap && isAfter(slot) ? this.latency : sum;
  }

  /** Has it fall silent. */
  close(): void {
    this.open.set(0, true);
  }

  /** Samples by which its effects are late. */
  get latency(): number {
    return this.slots.reduce((sum, { insert, node }) => sum + (insert.on ? node.latency : 0), 0);
  }

  /** Samples until what went in has died away. */
  get tail(): number {
    return this.slots.reduce((sum, { insert, node }) => sum + (insert.on ? node.tail : 0), 0);
  }

  /** Holds back, so that all that meets in a line meets at its time. Samples. */
  holdBack(before: number, after: number, listeners: readonly Tap[]): void {
    this.listeners = listeners;
    if (before !== (this.before?.length ?? 0))
      this.before = before > 0 ? new Delay(before, this.out.length) : undefined;
    if (after !== (this.after?.length ?? 0)) this.after = after > 0 ? new Delay(after, this.out.length) : undefined;
  }

  /** Puts a clip where it belongs. */
  add(node: ClipNode): void {
    const { clips } = this;
    let low = 0;
    let high = clips.length;
    while (low < high) {
      const mid = (low + high) >> 1;
      const other = clips[mid];
      if (other.start < node.start || (other.start === node.start && other.id < node.id)) low = mid + 1;
      else high = mid;
    }
    clips.splice(low, 0, node);
    this.longest = Math.max(this.longest, node.end - node.start);
  }

  /** Takes a clip away. @param live whether it dies away rather than ends; @param seconds in which it does */
  remove(node: ClipNode, live: boolean, seconds?: number): void {
    this.clips.splice(this.clips.indexOf(node), 1);
    // It has to be worked out anew only where the longest one went.
    if (node.end - node.start >= this.longest)
      this.longest = this.clips.reduce((most, c) => Math.max(most, c.end - c.start), 0);
    if (live && node.release(seconds)) this.dying.push(node);
  }

  /** Forgets what it has heard; values are where they were going. */
  reset(): void {
    for (const { node, twins, params } of this.slots) {
      node.reset();
      for (const twin of twins) twin.node.reset();
      for (const key in params) params[key].settle();
    }
    for (const param of [this.gain, this.place, this.open]) param.settle();
    this.before?.reset();
    this.after?.reset();
    for (const { tap } of this.slots) tap?.reset();
    for (const tap of this.listeners) tap.reset();
    this.dying.length = 0;
    this.quiet = Infinity;
  }

  /** The first of its clips that may still sound at a sample. */
  private first(at: number): number {
    const { clips } = this;
    let low = 0;
    let high = clips.length;
    while (low < high) {
      const mid = (low + high) >> 1;
      if (clips[mid].start + this.longest <= at) low = mid + 1;
      else high = mid;
    }
    return low;
  }

  /**
   * Begins a block with its own clips.
   * @param late takes the ids of those that lacked audio
   * @returns how many those are
   */
  begin(materials: ReadonlyMap<number, Material>, at: number, count: number, late: Set<number>): number {
    const { out, front, clips, dying } = this;
    for (let c = 0; c < out.length; c++) out[c].fill(0, 0, count);
    let lacking = 0;
    this.sounds = dying.length > 0;
    for (let k = this.first(at); k < clips.length && clips[k].start < at + count; k++) {
      if (clips[k].end <= at) continue;
      this.sounds = true;
      if (clips[k].render(materials, at, front, count)) continue;
      late.add(clips[k].id);
      lacking++;
    }
    for (let k = dying.length - 1; k >= 0; k--) {
      // What has no audio to die with is gone.
      if (!dying[k].render(materials, at, front, count) || dying[k].gone || dying[k].end <= at + count)
        dying.splice(k, 1);
    }
    this.before?.process(out, count);
    return lacking;
  }

  /** Lets what came of another line in this block flow in. */
  flowIn(block: Block, count: number): void {
    this.sounds = true;
    for (let c = 0; c < block.length; c++) {
      const from = block[c];
      const to = this.out[c];
      for (let i = 0; i < count; i++) to[i] += from[i];
    }
  }

  /** Whether nothing has come in for longer than it rings on. */
  get silent(): boolean {
    return this.quiet > this.rings + this.held;
  }

  private get held(): number {
    let most = this.after?.length ?? 0;
    for (const { tap } of this.slots) if (tap && tap.held > most) most = tap.held;
    for (const tap of this.listeners) if (tap.held > most) most = tap.held;
    return (this.before?.length ?? 0) + most;
  }

  /** What comes in through its effects. A value that is no number would stay in them for good. */
  private through(at: number, count: number): void {
    const { out, slots } = this;
    if (slots.length === 0) return;
    for (let c = 0; c < out.length; c++) {
      const plane = out[c];
      for (let i = 0; i < count; i++) if (plane[i] - plane[i] !== 0) plane[i] = 0;
    }
    for (let k = 0; k < slots.length; k++) {
      const slot = slots[k];
      const isWatched = this.metered && slot.insert.id === this.watched;
      if (isWatched) this.around[0] = highest(out[1], count, highest(out[0], count, this.around[0]));
      for (let p = 0; p < slot.all.length; p++) slot.all[p].hold(at);
      if (!slot.insert.on) slot.tap?.quiet();
      else if (!slot.tap) this.process(slot, at, count);
      else if (!isAfter(slot)) slot.tap.take(out, at, count);
      if (isWatched) this.around[1] = highest(out[1], count, highest(out[0], count, this.around[1]));
    }
  }

  /** One effect, on all channels that it knows how to treat: of the others, nothing is left. */
  private process({ insert, node, twins, inputs }: Slot, at: number, count: number): void {
    const { out, pair } = this;
    const wide = effectOf(insert.kind)!.wide;
    node.process(inputs, wide === 'all' ? out : pair, at, count);
    for (let k = 0; k < twins.length; k++) twins[k].node.process(twins[k].inputs, twins[k].inputs[0], at, count);
    if (!wide) for (let c = PAIR; c < out.length; c++) out[c].fill(0, 0, count);
  }

  /** What is taken of it as it flows on. */
  private tapped(at: number, count: number): void {
    const { out, slots, listeners } = this;
    for (let k = 0; k < slots.length; k++)
      if (slots[k].tap && slots[k].insert.on && isAfter(slots[k])) slots[k].tap!.take(out, at, count);
    for (let k = 0; k < listeners.length; k++) listeners[k].take(out, at, count);
    if (!this.metered) return;
    for (let c = 0; c < 2; c++) this.peaks[c] = highest(out[c], count, this.peaks[c]);
  }

  private fallSilent(): void {
    for (let k = 0; k < this.slots.length; k++) this.slots[k].tap?.quiet();
    for (let k = 0; k < this.listeners.length; k++) this.listeners[k].quiet();
  }

  /** Ends a block: effects, gain and place. The main line has its gain first, so that a limiter in it has the last word. */
  finish(at: number, count: number): void {
    this.quiet = this.sounds ? 0 : this.quiet + count;
    if (this.silent) return this.fallSilent();
    if (this.id === MAIN) this.level(at, count);
    this.through(at, count);
    if (this.id !== MAIN) this.level(at, count);
    this.tapped(at, count);
    this.after?.process(this.out, count);
  }

  private level(at: number, count: number): void {
    const { out, gain, place, open } = this;
    const [left, right] = out;
    const g = gain.read(at, count);
    const p = place.read(at, count);
    const o = open.read(at, count);
    if (g || p || o) {
      for (let i = 0; i < count; i++) {
        const level = (g ? fromDb(gain.line[i]) : fromDb(gain.value)) * (o ? open.line[i] : open.value);
        const beside = p ? place.line[i] : place.value;
        const a = level * Math.min(1, 1 - beside);
        const b = level * Math.min(1, 1 + beside);
        left[i] *= a;
        right[i] *= b;
        if (out.length > PAIR) this.share(a, b, i, i + 1);
      }
    } else {
      const level = fromDb(gain.value) * open.value;
      const a = level * Math.min(1, 1 - place.value);
      const b = level * Math.min(1, 1 + place.value);
      if (a !== 1) for (let i = 0; i < count; i++) left[i] *= a;
      if (b !== 1) for (let i = 0; i < count; i++) right[i] *= b;
      if (out.length > PAIR) this.share(a, b, 0, count);
    }
  }

  /** The parts of left and right that stand in the middle and behind, once those have their level. @param a that of the left, as a factor; @param b of the right */
  private share(a: number, b: number, from: number, to: number): void {
    const { out } = this;
    const behind = out.length > MIDDLE ? this.behind : 0;
    const front = 1 - behind;
    // What gives way on one side stands on the other by then, and not in the middle.
    const middle = (a < b ? a : b) * front;
    for (let i = from; i < to; i++) out[2][i] *= middle;
    for (let c = MIDDLE; c < out.length; c++) {
      const [plane, side, level] = [out[c], out[c - MIDDLE], c === MIDDLE ? a : b];
      for (let i = from; i < to; i++) plane[i] = front * level * plane[i] + Math.SQRT2 * behind * side[i];
    }
  }
}
