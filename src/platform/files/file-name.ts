import filenamify from 'filenamify/browser';

/** What common file systems hold, in bytes of UTF-8. */
const MOST = 255;

/** A name under which any common file system keeps a file: letters of all scripts stay, and a name too long keeps its extension. */
export function fileNameOf(name: string): string {
  for (let maxLength = MOST; maxLength > 0; maxLength--) {
    const kept = filenamify(name.trim() || 'Untitled', { replacement: ' ', maxLength }).trim();
    if (kept && new TextEncoder().encode(kept).length <= MOST) return kept;
  }
  return 'Untitled'; // all extension
}
