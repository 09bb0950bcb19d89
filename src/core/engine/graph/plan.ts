import type { Shape } from '@core/audio';
import type { Breakpoint, Mover, Strike, Turn } from '@core/effects';
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

/** The sound that an effect is made of: the key of its material, and Hz of that. */
export interface MadeOf {
  material: number;
  rate: number;
}

/** An effect in a line. */
export interface Insert {
  id: number;
  kind: string;
  on: boolean;
  /** Another line: where a send flows, or what is listened to; its own when absent. */
  line?: number;
  sound?: MadeOf;
  /** By key of its params; what is not there is as it begins. */
  values: Readonly<Record<string, number>>;
  points?: Readonly<Record<string, readonly Breakpoint[]>>;
}

/** A track, a bus or the main line: what flows into it goes through its effects, gets its gain and place, and flows on. The main line has gain and place before its effects. */
export interface Line {
  id: number;
  /** The line that it flows into; the main one when absent. */
  into?: number;
  /** dB */
  gain: number;
  place: number;
  /** How much of it stands behind, 0 to 1, in a mix that has channels there. */
  behind?: number;
  /** Whether it is heard. */
  open: boolean;
  /** In their order. */
  inserts: readonly Insert[];
  /** How gain and place run along the timeline, where that is drawn. */
  points?: Readonly<Record<string, readonly Breakpoint[]>>;
}

/** The line that all others end in; it is there from the start. */
export const MAIN = 0;

/** What a host tells a graph: differences, plain data that crosses a message port. A line or clip that is there already takes over the new values. */
export type GraphChange =
  | { do: 'line'; line: Line }
  | { do: 'no line'; id: number }
  | { do: 'clip'; id: number; line: number; clip: Clip }
  | { do: 'no clip'; id: number }
  | ({ do: 'movers'; movers: readonly Mover[] } & Pick<GraphPlan, 'strikes' | 'turns'>);

/** A whole graph as plain data. */
export interface GraphPlan {
  lines: ReadonlyMap<number, Line>;
  clips: ReadonlyMap<number, { line: number; clip: Clip }>;
  /** What moves values; none when absent. */
  movers?: readonly Mover[];
  /** By what they are struck, where nobody strikes. */
  strikes?: readonly Strike[];
  /** To what they are turned, where no hand turns them. */
  turns?: readonly Turn[];
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
  const moving = ({ movers = [], strikes, turns }: GraphPlan) => ({ movers, strikes, turns });
  if (!same(moving(before), moving(after))) changes.push({ do: 'movers', ...moving(after) });
  return changes;
}

/** A line as far as it tells where it flows. */
export type Flow = Pick<Line, 'id' | 'into'> & { inserts?: readonly Pick<Insert, 'kind' | 'line'>[] };

/**
 * Whether sound may come from one line to another, by flowing, a send or being listened to: not where it would come back to where it came
 * from.
 */
export function mayFlow(lines: readonly Flow[], from: number, to: number): boolean {
  if (from === MAIN || from === to) return false;
  const next = new Map<number, number[]>();
  const flows = (a: number, b: number) => void (next.get(a)?.push(b) ?? next.set(a, [b]));
  for (const { id, into = MAIN, inserts = [] } of lines) {
    if (id !== MAIN) flows(id, into);
    for (const { kind, line } of inserts) {
      if (line === undefined) continue;
      if (kind === 'send') flows(id, line);
      else flows(line, id);
    }
  }
  const seen = new Set([to]);
  for (const at of seen) for (const line of next.get(at) ?? []) seen.add(line);
  return !seen.has(from);
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
