/** What labels a file is to have. */
export interface Wanted {
  /** Texts by block and key, as `AudioFile.labels` has them; an empty one takes the label away. Others stay as they are. */
  places: ReadonlyMap<string, string>;
  /** The frame of the point labelled `anchor`; stays as it is when absent. */
  anchor?: number;
}

/** The places of one block, by their keys within it. */
export function placesOf(wanted: Wanted, block: string): Map<string, string> {
  const own = [...wanted.places].filter(([key]) => key.startsWith(`${block}.`));
  return new Map(own.map(([key, text]) => [key.slice(block.length + 1), text]));
}

/** What the point at which a sound is spotted is labelled. */
export const ANCHOR = 'Anchor';
export const isAnchor = (label: string): boolean => label.trim().toLowerCase() === 'anchor';
