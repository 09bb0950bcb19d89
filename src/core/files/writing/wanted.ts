/** A picture as files hold it. Width and height in pixels. */
export interface Picture {
  mime: string;
  bytes: Uint8Array;
  width: number;
  height: number;
}

/** The kind of picture that stands for a sound: a front cover, by ID3v2 (APIC) and FLAC (RFC 9639, section 8.8) alike. */
export const COVER = 3;

/** What labels a file is to have. */
export interface Wanted {
  /** Texts by block and key, as `AudioFile.labels` has them; an empty one takes the label away. Others stay as they are. */
  places: ReadonlyMap<string, string>;
  /** The frame of the point labelled `anchor`; stays as it is when absent. */
  anchor?: number;
  /** Its picture, in place of the first that it has; `none` takes out all that it has. They stay as they are when absent. */
  picture?: Picture | 'none';
}

/** The places of one block, by their keys within it. */
export function placesOf(wanted: Wanted, block: string): Map<string, string> {
  const own = [...wanted.places].filter(([key]) => key.startsWith(`${block}.`));
  return new Map(own.map(([key, text]) => [key.slice(block.length + 1), text]));
}

/** What the point at which a sound is spotted is labelled. */
export const ANCHOR = 'Anchor';
export const isAnchor = (label: string): boolean => label.trim().toLowerCase() === 'anchor';
