import { BLOCK, effectOf, PAIR, type Block } from '@core/effects';
import type { Material } from '../material';
import { ClipNode } from './clip-node';
import { LineNode, type Slot } from './line-node';
import { MAIN, type Clip, type GraphChange } from './plan';
import { Movers } from './movers';
import { Tap } from './tap';

/** Samples of what rings on that are rendered before a jump at the most, in seconds. */
const PREROLL = 2;

/** How loud it is inside of a graph. Magnitudes, 1 for full scale */
export interface Meters {
  /** By line: its id, the highest left and right. */
  lines: [number, number, number][];
  /** By insert that turns down: its id, and by how much at the moment, dB. */
  reductions: [number, number][];
  /** Before and after the insert that is watched. */
  around?: [number, number];
  /** By mover: its id, and where it is, 0 to 1. */
  movers?: [number, number][];
}

/** One way of sound into a line: all that flows out of another, a send, or what an effect of its own listens to. */
interface Way {
  from: LineNode;
  slot?: Slot;
  listens?: boolean;
}

/** All ways into each line, in the same order however they came. */
function waysOf(lines: ReadonlyMap<number, LineNode>, main: LineNode): Map<LineNode, Way[]> {
  const ways = new Map<LineNode, Way[]>([...lines.values()].map((l) => [l, []]));
  const sorted = [...lines.values()].sort((a, b) => a.id - b.id);
  /** Where a line flows; to the main one, where it would come back to itself. */
  const target = (line: LineNode): LineNode => {
    const seen = new Set([line]);
    for (let at = lines.get(line.into); at && at !== main; at = lines.get(at.into)) {
      if (seen.has(at)) return main;
      seen.add(at);
    }
    return lines.get(line.into) ?? main;
  };
  for (const line of sorted) if (line !== main) ways.get(target(line))!.push({ from: line });
  for (const line of sorted)
    for (const slot of line.slots) {
      const other = slot.insert.line === undefined ? undefined : lines.get(slot.insert.line);
      if (!slot.insert.on || !other || other === line) continue;
      if (slot.tap) ways.get(other)!.push({ from: line, slot });
      else if (effectOf(slot.insert.kind)?.listens) ways.get(line)!.push({ from: other, slot, listens: true });
    }
  return ways;
}

/** By effect that listens: to which line, for which, and through what. */
type Listening = Map<number, { from: LineNode; line: LineNode; tap: Tap }>;

/** Where nobody asks. */
const unheard = new Set<number>();

/**
 * Clips that flow into tracks, those into buses, all of them into the main line. One position after another is rendered; after a jump it is
 * reset first, and what rings on is rendered ahead of it (`preroll`).
 */
export class Graph {
  private readonly lines = new Map<number, LineNode>();
  private readonly clips = new Map<number, { node: ClipNode; line: LineNode }>();
  /** Each line behind all that flow into it. */
  private order: LineNode[] = [];
  private readonly main: LineNode;
  private position: number | undefined;
  private readonly leaving = new Set<number>();
  /** What moves values of its lines and effects. */
  readonly movers: Movers;

  /** @param channels as they flow: two, or more of which some are parts; see `fed` */
  constructor(
    readonly rate: number,
    private readonly materials: ReadonlyMap<number, Material>,
    private readonly channels = PAIR as number,
  ) {
    this.movers = new Movers(rate);
    this.main = new LineNode(MAIN, rate, channels);
    this.lines.set(MAIN, this.main);
    this.sort();
  }

  /** What came of the last block. */
  get out(): Block {
    return this.main.out;
  }

  /** What came of a line in the last block, as it flows out of it; undefined where there is none of that id. */
  outOf(id: number): Block | undefined {
    return this.lines.get(id)?.out;
  }

  hasLine(id: number): boolean {
    return this.lines.has(id) && !this.leaving.has(id);
  }

  /** Takes over differences. @param live whether it is heard meanwhile: then values glide, and clips rise and die away */
  apply(changes: readonly GraphChange[], live: boolean): void {
    for (const id of this.leaving) this.lines.delete(id);
    this.leaving.clear();
    for (const change of changes) {
      if (change.do === 'movers') this.movers.take(change, live);
      else if (change.do === 'line') this.line(change.line.id).take(change.line, live);
      else if (change.do === 'no line') this.removeLine(change.id, live);
      else if (change.do === 'no clip') this.removeClip(change.id, live);
      else this.setClip(change, live);
    }
    this.sort();
    this.movers.bind(this.lines);
  }

  private line(id: number): LineNode {
    this.leaving.delete(id);
    const known = this.lines.get(id);
    if (known) return known;
    const made = new LineNode(id, this.rate, this.channels);
    made.metered = this.watching !== undefined;
    made.watched = this.watching ?? 0;
    this.lines.set(id, made);
    return made;
  }

  private removeLine(id: number, live: boolean): void {
    const line = this.lines.get(id);
    if (!line || id === MAIN) return;
    // While it is heard it falls silent first; with the next change it is gone.
    line.close();
    if (live) this.leaving.add(id);
    else this.lines.delete(id);
    for (const [clip, { line: own }] of this.clips) if (own === line) this.clips.delete(clip);
  }

  /** Takes a clip away. @param live whether it dies away rather than ends; @param seconds in which it does */
  removeClip(id: number, live: boolean, seconds?: number): void {
    const known = this.clips.get(id);
    if (!known) return;
    known.line.remove(known.node, live, seconds);
    this.clips.delete(id);
  }

  /** Puts a clip onto a line that is there. @returns its end; undefined where there is no such line */
  addClip(id: number, line: number, clip: Clip): number | undefined {
    const onto = this.lines.get(line);
    if (!onto || this.leaving.has(line)) return undefined;
    const node = new ClipNode(id, clip, this.rate);
    onto.add(node);
    this.clips.set(id, { node, line: onto });
    return node.end;
  }

  /** How loud a clip is where it is; see `ClipNode.loudness`. */
  loudnessOf(id: number): number {
    return this.clips.get(id)?.node.loudness(this.materials) ?? 0;
  }

  /** Whether every line has been silent for longer than it rings. */
  get silent(): boolean {
    for (let k = 0; k < this.order.length; k++) if (!this.order[k].silent) return false;
    return true;
  }

  private setClip({ id, line, clip }: Extract<GraphChange, { do: 'clip' }>, live: boolean): void {
    const onto = this.line(line);
    const known = this.clips.get(id);
    if (known?.line === onto && known.node.take(clip)) return;
    this.removeClip(id, live);
    const node = new ClipNode(id, clip, this.rate);
    const { position } = this;
    if (live && position !== undefined && node.start < position && node.end > position) node.rise();
    onto.add(node);
    this.clips.set(id, { node, line: onto });
  }

  /** Puts lines behind those that flow into them or are listened to, and has what meets meet at its time. */
  private sort(): void {
    const { lines, main } = this;
    this.order = [];
    this.flows = [];
    const ways = waysOf(lines, main);
    const arrivals = new Map<LineNode, number>();
    const before = new Map<LineNode, number>();
    const open = new Set<LineNode>();
    const into = new Map<LineNode, LineNode>();
    /** When a way's sound gets to where it goes, if it is not held back. */
    const comes = ({ from, slot, listens }: Way) =>
      slot && !listens ? before.get(from)! + from.latencyTo(slot) : arrivals.get(from)!;
    const visit = (line: LineNode): void => {
      open.add(line);
      const own = ways.get(line)!.filter((way) => {
        // What would come back to where it came from is left out.
        if (open.has(way.from)) return false;
        if (!arrivals.has(way.from)) visit(way.from);
        return true;
      });
      const latest = own.reduce((most, w) => Math.max(most, comes(w) - (w.listens ? line.latencyTo(w.slot!) : 0)), 0);
      before.set(line, latest);
      arrivals.set(line, latest + line.latency);
      this.order.push(line);
      open.delete(line);
      for (const way of own) {
        const wait = latest + (way.listens ? line.latencyTo(way.slot!) : 0) - comes(way);
        if (!way.slot) {
          into.set(way.from, line);
          this.held.set(way.from, wait);
        } else if (way.listens) this.listen(line, way, wait, listened);
        else {
          way.slot.tap!.hold(wait);
          this.flows.push({ from: way.from, tap: way.slot.tap!, into: line });
        }
      }
    };
    const listened = this.listening;
    this.listening = new Map();
    this.held.clear();
    for (const keys of this.keys.values()) keys.length = 0;
    for (const line of lines.values()) for (const slot of line.slots) slot.inputs.length = 1;
    visit(main);
    this.late = arrivals.get(main)!;
    for (const line of this.order)
      line.holdBack(before.get(line)!, this.held.get(line) ?? 0, this.keys.get(line) ?? []);
    this.order.forEach((line, k) => {
      this.heard[k] = this.flows.filter((f) => f.from === line);
      this.targets[k] = into.get(line);
    });
  }

  /** Has an effect of a line listen to another one. */
  private listen(line: LineNode, { from, slot }: Way, wait: number, before: Listening): void {
    const known = before.get(slot!.insert.id);
    const tap = known?.from === from && known.line === line ? known.tap : new Tap(this.channels);
    this.listening.set(slot!.insert.id, { from, line, tap });
    tap.hold(wait);
    slot!.inputs.push(tap.block);
    const keys = this.keys.get(from) ?? [];
    keys.push(tap);
    this.keys.set(from, keys);
  }

  private readonly held = new Map<LineNode, number>();
  private flows: { from: LineNode; tap: Tap; into: LineNode }[] = [];
  /** By place in the order: what its sends flow into, and where it flows itself. */
  private readonly heard: { tap: Tap; into: LineNode }[][] = [];
  private readonly targets: (LineNode | undefined)[] = [];
  private readonly keys = new Map<LineNode, Tap[]>();
  private listening: Listening = new Map();

  /** Whether levels are measured. @param insert the effect whose levels before and after are, too */
  watch(isOn: boolean, insert = 0): void {
    for (const line of this.lines.values()) {
      line.metered = isOn;
      line.watched = insert;
    }
    this.watching = isOn ? insert : undefined;
  }
  private watching: number | undefined;

  /** Levels since they were last taken; undefined where nobody watches. */
  meters(): Meters | undefined {
    if (this.watching === undefined) return undefined;
    const made: Meters = { lines: [], reductions: [] };
    for (const line of this.order) {
      made.lines.push([line.id, line.peaks[0], line.peaks[1]]);
      line.peaks.fill(0);
      for (const { insert, node } of line.slots) {
        if (insert.on && node.reduction !== undefined)
          made.reductions.push([insert.id, line.silent ? 0 : node.reduction]);
        if (insert.id !== this.watching) continue;
        made.around = [line.around[0], line.around[1]];
        line.around.fill(0);
      }
    }
    if (this.movers.count > 0) made.movers = this.movers.shares();
    return made;
  }

  /**
   * Hands effects the sounds that they are made of, a unit each.
   * @returns whether there was any left to hand over
   */
  feed(): boolean {
    let given = false;
    for (let k = 0; k < this.order.length; k++) if (this.order[k].feed(this.materials)) given = true;
    return given;
  }

  private late = 0;

  /** Samples by which what comes out is late. */
  get latency(): number {
    return this.late;
  }

  /** Samples for which it rings on once nothing comes in any more; no fewer, and often more. */
  get rings(): number {
    let tail = 0;
    for (const line of this.order) tail += line.tail;
    return tail;
  }

  /** Samples that have to be rendered before a jump, so that what rings on rings there, too. */
  get tail(): number {
    return Math.min(this.rings, PREROLL * this.rate);
  }

  /** Forgets what it has rendered. */
  reset(): void {
    this.position = undefined;
    for (const line of this.order) line.reset();
    this.movers.reset();
  }

  /**
   * Renders at most {@link BLOCK} samples from a position on; see `out`.
   * @param late takes the ids of clips that were silent because their audio has not arrived
   * @returns how many those are
   */
  render(at: number, count: number, late = unheard): number {
    const { order, targets, heard, materials } = this;
    this.movers.render(at, count);
    let lacking = 0;
    for (let k = 0; k < order.length; k++) lacking += order[k].begin(materials, at, count, late);
    for (let k = 0; k < order.length; k++) {
      const line = order[k];
      line.finish(at, count);
      if (!line.silent) targets[k]?.flowIn(line.out, count);
      for (let n = 0; n < heard[k].length; n++) {
        const { tap, into } = heard[k][n];
        if (tap.sounds) into.flowIn(tap.block, count);
      }
    }
    this.movers.hear(this.lines, count);
    this.position = at + count;
    return lacking;
  }

  /** Renders what lies before a position, unheard, for as long as effects ring. @param before its samples; `tail` when absent */
  preroll(at: number, before = this.tail): void {
    for (let from = Math.max(0, at - before); from < at; from += BLOCK) this.render(from, Math.min(BLOCK, at - from));
  }
}
