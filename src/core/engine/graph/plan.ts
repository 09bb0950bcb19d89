import type { Shape } from '@core/audio';
import type { Breakpoint } from '@core/effects';
import { passOf, travelTo } from '../path';

/** A sound that lies on a timeline; plain data. Frames are those of its material. */
export interface Clip {
  /** Key of its material. */
  material: number;
  /** Hz of the material. */
  rate: number;
  /** Sample of the timeline on which the anchor lands. */
  at: number;
  anchor: number;
  region: { start: number; end: number };
  /** Its fades are those of the clip. */
  shape: Shape;
  /** dB, beside that of the shape. */
  gain: number;
  /** From left, -1, to right, 1. */
  place: number;
}

/** An effect in a line. */
export interface Insert {
  id: number;
  kind: string;
  on: boolean;
  /** By key of its params; what is not there is as it begins. */
  values: Readonly<Record<string, number>>;
  points?: Readonly<Record<string, readonly Breakpoint[]>>;
}

/** A track, a bus or the main line: what flows into it goes through its effects, gets its gain and place, and flows on. */
export interface Line {
  id: number;
  /** The line that it flows into; the main one when absent. */
  into?: number;
  /** dB */
  gain: number;
  place: number;
  /** Whether it is heard. */
  open: boolean;
  /** In their order. */
  inserts: readonly Insert[];
}

/** The line that all others end in; it is there from the start. */
export const MAIN = 0;

/** What a host tells a graph: differences, plain data that crosses a message port. A line or clip that is there already takes over the new values. */
export type GraphChange =
  | { do: 'line'; line: Line }
  | { do: 'no line'; id: number }
  | { do: 'clip'; id: number; line: number; clip: Clip }
  | { do: 'no clip'; id: number };

/** A whole graph as plain data. */
export interface GraphPlan {
  lines: ReadonlyMap<number, Line>;
  clips: ReadonlyMap<number, { line: number; clip: Clip }>;
}

export const emptyPlan: GraphPlan = { lines: new Map(), clips: new Map() };

const same = (a: unknown, b: unknown): boolean => a === b || JSON.stringify(a) === JSON.stringify(b);

/** What makes one graph of another. Lines come before their clips. */
export function differences(before: GraphPlan, after: GraphPlan): GraphChange[] {
  const changes: GraphChange[] = [];
  for (const [id] of before.clips) if (!after.clips.has(id)) changes.push({ do: 'no clip', id });
  for (const [id] of before.lines) if (!after.lines.has(id)) changes.push({ do: 'no line', id });
  for (const [id, line] of after.lines) if (!same(before.lines.get(id), line)) changes.push({ do: 'line', line });
  for (const [id, entry] of after.clips)
    if (!same(before.clips.get(id), entry)) changes.push({ do: 'clip', id, ...entry });
  return changes;
}

/** Whether a line may flow into another: not where that comes back to it. */
export function mayFlow(lines: ReadonlyMap<number, Pick<Line, 'into'>>, id: number, into: number): boolean {
  if (id === MAIN) return false;
  const seen = new Set<number>();
  for (let at: number | undefined = into; at !== undefined && at !== MAIN; at = lines.get(at)?.into) {
    if (at === id || seen.has(at)) return false;
    seen.add(at);
  }
  return true;
}

/** Frames of the material for each sample of the timeline. */
export const stepOf = ({ rate, shape }: Pick<Clip, 'rate' | 'shape'>, outRate: number): number =>
  (rate / outRate) * shape.speed;

/** Where a clip begins and ends on the timeline, in samples; fractional when rates differ. */
export function clipSpan(
  clip: Pick<Clip, 'rate' | 'at' | 'anchor' | 'region' | 'shape'>,
  outRate: number,
): { start: number; end: number } {
  const path = { ...clip.region, direction: clip.shape.direction, loop: false };
  const step = stepOf(clip, outRate);
  const start = clip.at - travelTo(path, clip.anchor) / step;
  return { start, end: start + passOf(path) / step };
}
