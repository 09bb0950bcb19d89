import type { Facts } from '@core/audio';
import type { Patch } from './edits';
import { fields } from './fields';
import type { Sound } from './sound';

/** Which of several copies is the better one, and why. */
export interface Better {
  id: number;
  /** Reasons in words, the weightiest first; empty when nothing tells them apart. */
  reasons: string[];
}

const lossless = (s: Sound) => (['MP3', 'Ogg', 'MP4'].includes(s.format.container) ? 0 : 1);
const labelled = fields.filter((f) => f.weight > 0 && !['file', 'folder'].includes(f.key));
/** How many fields people or the file gave a value. */
export const labelCount = (s: Sound) =>
  labelled.filter((f) => s.fields[f.key] !== undefined && s.from[f.key] !== 'name' && s.from[f.key] !== 'folder')
    .length;

const criteria: { value: (s: Sound) => number; reason: (best: Sound) => string }[] = [
  { value: (s) => (s.fields.state === 'Missing' ? 0 : 1), reason: () => 'its file is there' },
  { value: lossless, reason: (s) => `${s.format.container} keeps every sample` },
  { value: (s) => s.format.rate, reason: (s) => `${s.format.rate / 1000} kHz` },
  { value: (s) => s.format.bits, reason: (s) => `${s.format.bits} bit` },
  { value: (s) => s.format.channels, reason: (s) => `${s.format.channels} channels` },
  // Half a tenth of a second is what encoders add and cut.
  { value: (s) => Math.round(s.format.frames / s.format.rate / 0.05), reason: () => 'the longest' },
  { value: labelCount, reason: (s) => `${labelCount(s)} labels` },
  { value: (s) => -Number(s.fields.clipped ?? 0), reason: () => 'not clipped, or least' },
  { value: (s) => -Number(s.fields.added ?? 0), reason: () => 'the first that came in' },
];

/**
 * Which of some copies to keep: lossless before lossy, then rate, depth, channels, length, labels, clipping, time of intake.
 * The reasons are those in which it is ahead of at least one of the others.
 */
export function betterOf(copies: readonly Sound[]): Better {
  const ranked = [...copies].sort((a, b) => {
    for (const { value } of criteria) if (value(a) !== value(b)) return value(b) - value(a);
    return a.id - b.id;
  });
  const [best, ...others] = ranked;
  const ahead = criteria.filter(({ value }) => others.some((o) => value(best) > value(o)));
  const telling = ahead.filter((c) => c !== criteria[criteria.length - 1]);
  return { id: best.id, reasons: (telling.length > 0 ? telling : ahead).map(({ reason }) => reason(best)) };
}

/** Facts of a sound as changes to its fields; what was typed or read from the file stays. @param hash of its audio */
export function factPatch(sound: Sound, facts: Facts, hash: string): Patch {
  const values: Record<string, unknown> = {
    ...facts,
    onsets: facts.onsets.length,
    kind: facts.seamless ? 'Loop' : 'Single',
  };
  const after: Patch = { hash };
  for (const { key } of fields) {
    if (!(key in values)) continue;
    const origin = sound.from[key];
    if (sound.fields[key] !== undefined && origin !== 'measured') continue;
    after[`fields.${key}`] = values[key];
    after[`from.${key}`] = values[key] === undefined ? undefined : 'measured';
  }
  return after;
}
