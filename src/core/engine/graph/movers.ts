import { effectOf, MoverNode, type Mover, type Moving, type Param, type Strike, type Turn } from '@core/effects';
import type { LineNode } from './line-node';
import type { GraphChange } from './plan';

/** The movers of a graph, and the values that they move. */
export class Movers {
  private nodes: MoverNode[] = [];
  /** Values that are moved now. */
  private bound: Param[] = [];
  private followed: { strikes?: readonly Strike[]; turns?: readonly Turn[] } = {};

  constructor(private readonly rate: number) {}

  get count(): number {
    return this.nodes.length;
  }

  /** Takes over movers as they are now; see `bind`. @param live whether they are heard meanwhile */
  take({ movers, strikes, turns }: Extract<GraphChange, { do: 'movers' }>, live: boolean): void {
    const old = new Map(this.nodes.map((n) => [n.mover.id, n]));
    this.nodes = movers.map((mover: Mover) => {
      const known = old.get(mover.id);
      if (known) known.take(mover, live);
      return known ?? new MoverNode(mover, this.rate);
    });
    const isMoved = JSON.stringify({ strikes, turns }) !== JSON.stringify(this.followed);
    this.followed = { strikes, turns };
    // One that comes later was struck with the others.
    for (const node of this.nodes) if (isMoved || !old.has(node.mover.id)) node.follow(strikes ?? [], turns);
  }

  /** Has the values of lines be moved, as these are now. What is not there any more moves nothing. */
  bind(lines: ReadonlyMap<number, LineNode>): void {
    for (const param of this.bound) param.moveBy([]);
    this.bound = [];
    if (this.nodes.length === 0) return;
    const found = new Map<Param, { movings: Moving[]; least: number; most: number }>();
    const slots = new Map([...lines.values()].flatMap((l) => l.slots.map((s) => [s.insert.id, s] as const)));
    for (const { mover, line } of this.nodes)
      for (const { of, id, key, from, to, bend } of mover.moves) {
        const slot = slots.get(id);
        const spec = of === 'effect' ? effectOf(slot?.insert.kind ?? '')?.params.find((p) => p.key === key) : undefined;
        const param = of === 'line' ? lines.get(id)?.own(key) : spec && slot?.params[key];
        // A choice has nothing between its values.
        if (!param || spec?.choices) continue;
        const [least, most] = spec ? [spec.least, spec.most] : key === 'place' ? [-1, 1] : [-120, 24];
        const known = found.get(param) ?? { movings: [], least, most };
        known.movings.push({ from, to, bend, curve: spec?.curve ?? 'even', line });
        found.set(param, known);
      }
    for (const [param, { movings, least, most }] of found) {
      param.moveBy(movings, least, most);
      this.bound.push(param);
    }
  }

  render(at: number, count: number): void {
    for (let k = 0; k < this.nodes.length; k++) this.nodes[k].render(at, count);
  }

  /** Lets those that follow a line hear it. */
  hear(lines: ReadonlyMap<number, LineNode>, count: number): void {
    for (let k = 0; k < this.nodes.length; k++) {
      const { line } = this.nodes[k].mover;
      const heard = line === undefined ? undefined : lines.get(line);
      if (heard) this.nodes[k].hear(heard.out, count);
    }
  }

  /** A key goes down. @param velocity 0 to 1 */
  strike(at: number, key: number, velocity?: number): void {
    for (const node of this.nodes) node.strike(at, key, velocity);
  }

  /** The last key goes up. */
  lift(at: number): void {
    for (const node of this.nodes) node.lift(at);
  }

  /** Turns those that hands turn. @param share 0 to 1; @param live whether they are heard meanwhile */
  turn(id: number, share: number, live = true): void {
    this.nodes.find((n) => n.mover.id === id)?.turn(share, live);
  }

  /** Where each is, at the end of the last block. */
  shares(): [number, number][] {
    return this.nodes.map((n) => [n.mover.id, n.now]);
  }

  reset(): void {
    for (const node of this.nodes) node.reset();
  }
}
