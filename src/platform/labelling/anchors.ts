import { changeOf, type Change, type Sound } from '@core/library';
import type { SuggestedAnchor } from '@core/suggest';
import { FACTS_VERSION } from '../store/store';
import { eachSound, keeping, type Desk, type Progress } from './desk';

/** A sound whose anchor nobody decided on, with what is suggested. */
export interface AnchorRow extends SuggestedAnchor {
  id: number;
}

/** What waits for a decision. */
export interface AnchorReview {
  /** Least sure first. */
  rows: AnchorRow[];
  /** Sounds of which nothing is suggested yet: they were not measured, or before that was kept. */
  unknown: number[];
}

/** An anchor that somebody decided on. Frames */
export interface AnchorDecision {
  id: number;
  frame: number;
  /** Placed by hand, and not where it was suggested. */
  placed: boolean;
}

/** Sounds that are looked up together. */
const TOGETHER = 512;

const waits = ({ from, fields }: Sound): boolean => from.anchor === undefined && fields.state === undefined;

/** What waits for a decision among some sounds: never an anchor that was set by hand, accepted, or read from a file. */
export async function reviewAnchors(desk: Desk, ids: readonly number[], progress: Progress): Promise<AnchorReview> {
  const waiting: number[] = [];
  await eachSound(
    desk,
    ids,
    (sound) => void (waits(sound) && waiting.push(sound.id)),
    (share) => progress(share / 2, ''),
  );
  const rows: AnchorRow[] = [];
  const unknown: number[] = [];
  for (let from = 0; from < waiting.length; from += TOGETHER) {
    const part = waiting.slice(from, from + TOGETHER);
    const facts = await desk.store.facts.bulkGet(part);
    part.forEach((id, i) => {
      const { anchor, version } = facts[i] ?? {};
      if (!anchor || version !== FACTS_VERSION) unknown.push(id);
      else if (anchor.kind !== 'silence') rows.push({ id, ...anchor });
    });
    progress(0.5 + (0.5 * (from + part.length)) / waiting.length, '');
  }
  rows.sort((a, b) => a.sure - b.sure || a.id - b.id);
  return { rows, unknown };
}

/** Keeps decisions on anchors, as one edit. @returns how many anchors were decided on */
export async function decideAnchors(desk: Desk, decisions: readonly AnchorDecision[], label: string): Promise<number> {
  const by = new Map(decisions.map((d) => [d.id, d]));
  const changes: Change[] = [];
  await eachSound(desk, [...by.keys()], (sound) => {
    const { frame, placed } = by.get(sound.id)!;
    const at = Math.max(0, Math.min(sound.format.frames, Math.round(frame)));
    const change = changeOf('sounds', sound, { 'marks.anchor': at, 'from.anchor': placed ? 'typed' : 'suggested' });
    if (change) changes.push(change);
  });
  if (changes.length > 0)
    await keeping(desk, () =>
      desk.catalogue.apply({ label, by: 'suggestion', at: Date.now(), undoable: true, changes }),
    );
  return changes.length;
}
