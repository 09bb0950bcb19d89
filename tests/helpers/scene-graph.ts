import { plainShape, type Shape } from '@core/audio';
import {
  BLOCK,
  CHUNK,
  differences,
  emptyPlan,
  Graph,
  type Clip,
  type Engine,
  type GraphPlan,
  type Line,
  type Material,
} from '@core/engine';

// Scenes for an engine, in few words.

export const RATE = 48000;
export const clip = ({ shape, ...more }: Partial<Omit<Clip, 'shape'>> & { shape?: Partial<Shape> } = {}): Clip => ({
  material: 1,
  rate: RATE,
  at: 5000,
  anchor: 300,
  region: { start: 0, end: 2000 },
  shape: { ...plainShape, ...shape },
  gain: 0,
  place: 0,
  ...more,
});
export const line = (id: number, more: Partial<Line> = {}): Line => ({
  id,
  gain: 0,
  place: 0,
  open: true,
  inserts: [],
  ...more,
});
export const planWith = (clips: Record<number, Clip | [number, Clip]>, lines: Line[] = [line(1)]): GraphPlan => ({
  lines: new Map(lines.map((l) => [l.id, l])),
  clips: new Map(
    Object.entries(clips).map(([id, c]) => [
      Number(id),
      Array.isArray(c) ? { line: c[0], clip: c[1] } : { line: 1, clip: c },
    ]),
  ),
});

export function give(engine: Engine, id: number, planes: Float32Array[]): void {
  engine.handle({ type: 'material', id, rate: RATE, frames: planes[0].length, channels: planes.length });
  for (let c = 0; c * CHUNK < planes[0].length; c++)
    engine.handle({ type: 'chunk', id, index: c, planes: planes.map((p) => p.slice(c * CHUNK, (c + 1) * CHUNK)) });
}
export function play(engine: Engine, frames: number): Float32Array[] {
  const out = [new Float32Array(frames), new Float32Array(frames)];
  for (let at = 0; at < frames; at += BLOCK) {
    const [l, r] = out.map((p) => p.subarray(at, Math.min(frames, at + BLOCK)));
    engine.render(l, r);
  }
  return out;
}

export const set = (engine: Engine, before: GraphPlan, after: GraphPlan) =>
  engine.handle({ type: 'graph', changes: differences(before, after) });

export function graphOf(plan: GraphPlan, materials: ReadonlyMap<number, Material>): Graph {
  const graph = new Graph(RATE, materials);
  graph.apply(differences(emptyPlan, plan), false);
  return graph;
}
/** Renders from a position on, in parts of the given sizes. */
export function listen(graph: Graph, from: number, count: number, cuts: readonly number[] = []): Float32Array[] {
  const out = [new Float32Array(count), new Float32Array(count)];
  for (let at = 0, n = 0; at < count; n++) {
    const part = Math.min(cuts[n % Math.max(1, cuts.length)] ?? BLOCK, BLOCK, count - at);
    graph.render(from + at, part);
    out.forEach((p, c) => p.set(graph.out[c].subarray(0, part), at));
    at += part;
  }
  return out;
}
/** What a whole plan gives. */
export const heard = (plan: GraphPlan, materials: ReadonlyMap<number, Material>, count: number, from = 0) =>
  listen(graphOf(plan, materials), from, count);
