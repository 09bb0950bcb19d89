import { BLOCK, type Block } from '@core/effects';
import type { Material } from '../material';
import { ClipNode } from './clip-node';
import { LineNode } from './line-node';
import { MAIN, mayFlow, type GraphChange } from './plan';

/** Samples of what rings on that are rendered before a jump at the most, in seconds. */
const PREROLL = 2;

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

  constructor(
    readonly rate: number,
    private readonly materials: ReadonlyMap<number, Material>,
  ) {
    this.main = new LineNode(MAIN, rate);
    this.lines.set(MAIN, this.main);
    this.sort();
  }

  /** What came of the last block. */
  get out(): Block {
    return this.main.out;
  }

  /** Takes over differences. @param live whether it is heard meanwhile: then values glide, and clips rise and die away */
  apply(changes: readonly GraphChange[], live: boolean): void {
    for (const id of this.leaving) this.lines.delete(id);
    this.leaving.clear();
    for (const change of changes) {
      if (change.do === 'line') this.line(change.line.id).take(change.line, live);
      else if (change.do === 'no line') this.removeLine(change.id, live);
      else if (change.do === 'no clip') this.removeClip(change.id, live);
      else this.setClip(change, live);
    }
    this.sort();
  }

  private line(id: number): LineNode {
    this.leaving.delete(id);
    const known = this.lines.get(id);
    if (known) return known;
    const made = new LineNode(id, this.rate);
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

  private removeClip(id: number, live: boolean): void {
    const known = this.clips.get(id);
    if (!known) return;
    known.line.remove(known.node, live);
    this.clips.delete(id);
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

  /** Puts lines behind those that flow into them, and has what meets meet at its time. */
  private sort(): void {
    const { lines, main } = this;
    const target = (line: LineNode): LineNode | undefined =>
      line === main ? undefined : mayFlow(lines, line.id, line.into) ? (lines.get(line.into) ?? main) : main;
    const sources = new Map<LineNode, LineNode[]>([...lines.values()].map((l) => [l, []]));
    // Levels are added up in the same order, however they came.
    for (const line of [...lines.values()].sort((a, b) => a.id - b.id)) {
      const into = target(line);
      if (into) sources.get(into)!.push(line);
    }
    this.order = [];
    this.held.clear();
    this.before.clear();
    const arrivals = new Map<LineNode, number>();
    const visit = (line: LineNode): number => {
      const own = sources.get(line)!;
      const latest = Math.max(0, ...own.map(visit));
      for (const source of own) this.held.set(source, latest - arrivals.get(source)!);
      const arrival = latest + line.latency;
      arrivals.set(line, arrival);
      this.before.set(line, latest);
      this.order.push(line);
      return arrival;
    };
    this.late = visit(main);
    for (const line of this.order) line.holdBack(this.before.get(line)!, this.held.get(line) ?? 0);
    this.targets = this.order.map(target);
  }

  private readonly held = new Map<LineNode, number>();
  private readonly before = new Map<LineNode, number>();
  private targets: (LineNode | undefined)[] = [];
  private late = 0;

  /** Samples by which what comes out is late. */
  get latency(): number {
    return this.late;
  }

  /** Samples that have to be rendered before a jump, so that what rings on rings there, too. */
  get tail(): number {
    let tail = 0;
    for (const line of this.order) tail += line.tail;
    return Math.min(tail, PREROLL * this.rate);
  }

  /** Forgets what it has rendered. */
  reset(): void {
    this.position = undefined;
    for (const line of this.order) line.reset();
  }

  /**
   * Renders at most {@link BLOCK} samples from a position on; see `out`.
   * @param late takes the ids of clips that were silent because their audio has not arrived
   * @returns how many those are
   */
  render(at: number, count: number, late = unheard): number {
    const { order, targets, materials } = this;
    let lacking = 0;
    for (let k = 0; k < order.length; k++) lacking += order[k].begin(materials, at, count, late);
    for (let k = 0; k < order.length; k++) {
      order[k].finish(at, count);
      targets[k]?.flowIn(order[k], count);
    }
    this.position = at + count;
    return lacking;
  }

  /** Renders what lies before a position, unheard, for as long as effects ring. @param before its samples; `tail` when absent */
  preroll(at: number, before = this.tail): void {
    for (let from = Math.max(0, at - before); from < at; from += BLOCK) this.render(from, Math.min(BLOCK, at - from));
  }
}
