import type { DeliveredFile, DeliveryManifest } from '@core/schemas';

/** Where a delivery says what its files are and what they were made from. */
export const MANIFEST = 'manifest.json';

/** A file that a delivery is going to have. */
export interface DeliveryFile {
  path: string;
  /** What it is, in words. */
  what: string;
  /** A sum of all that it is made from: what is made from the same is not made again. */
  of: string;
}

/**
 * What a file of a delivery would come to: made for the first time, made anew as what it is made from has changed, made again as it is gone,
 * left as it is; in the way, where there is a file that nobody delivered or that somebody changed since; or one of an earlier delivery that is
 * no part of this one and stays.
 */
export type DeliveryState = 'new' | 'changed' | 'gone' | 'same' | 'foreign' | 'former';

export interface DeliveryRow extends DeliveryFile {
  state: DeliveryState;
  /** What the manifest of the earlier delivery says of it. */
  before?: DeliveredFile;
}

/**
 * Holds a delivery against what lies in its folder.
 * @param sizes of the files that lie there, by path: of those planned and those of the manifest
 */
export function compareDelivery(
  planned: readonly DeliveryFile[],
  manifest: DeliveryManifest | undefined,
  sizes: ReadonlyMap<string, number>,
): DeliveryRow[] {
  const known = new Map(manifest?.files.map((f) => [f.path, f]));
  const rows = planned.map((file): DeliveryRow => {
    const [before, size] = [known.get(file.path), sizes.get(file.path)];
    known.delete(file.path);
    if (!before) return { ...file, state: size === undefined ? 'new' : 'foreign' };
    if (size === undefined) return { ...file, state: 'gone', before };
    if (size !== before.bytes) return { ...file, state: 'foreign', before };
    return { ...file, state: before.of === file.of ? 'same' : 'changed', before };
  });
  const former = [...known.values()].filter((f) => sizes.get(f.path) === f.bytes);
  return [
    ...rows,
    ...former.map(({ path, what, of }): DeliveryRow => ({ path, what, of, state: 'former', before: known.get(path) })),
  ];
}

/** Whether it has to be made. */
export const isDue = ({ state }: DeliveryRow): boolean => state === 'new' || state === 'changed' || state === 'gone';

/**
 * The manifest after a delivery: what was delivered, what was there and the same, and what stays of earlier ones.
 * @param delivered by path
 */
export function manifestOf(
  about: Omit<DeliveryManifest, 'format' | 'version' | 'files'>,
  rows: readonly DeliveryRow[],
  delivered: ReadonlyMap<string, DeliveredFile>,
): DeliveryManifest {
  const files = rows.flatMap(({ path, state, before }): DeliveredFile[] => {
    // What is gone, or somebody else's by now, is not what was delivered any more.
    const now = delivered.get(path) ?? (state === 'gone' || state === 'foreign' ? undefined : before);
    if (!now) return [];
    const { former: _, ...own } = now;
    return [state === 'former' ? { ...own, former: true } : own];
  });
  return { format: 'cormorant-delivery', version: 1, ...about, files };
}
