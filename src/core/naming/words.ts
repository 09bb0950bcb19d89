const marks = /\p{M}+/gu;

/** Lower case without accents, so that `Fähre` and `fahre` are the same word. */
export function fold(text: string): string {
  // Nearly all words are plain ASCII; normalising those would cost most of the time of an index build.
  if (/^[\x00-\x7f]*$/.test(text)) return text.toLowerCase();
  return text.normalize('NFKD').replace(marks, '').normalize('NFC').toLowerCase();
}

const piece = /\p{Lu}+(?=\p{Lu}\p{Ll})|\p{Lu}?[\p{Ll}\p{M}]+|\p{Lu}+|[\p{Lo}\p{Lm}]+|\p{N}+/gu;

/**
 * The words of a name or path: split at case changes, digits and separators, as written.
 * `HarborWinchSlow_03-wet` gives Harbor, Winch, Slow, 03, wet.
 */
export function splitName(text: string): string[] {
  return text.match(piece) ?? [];
}

const run = /[\p{L}\p{M}\p{N}]+/gu;

/**
 * Folded words by which a text is found: every run of letters and digits, and the pieces of runs that change case or
 * mix letters with digits, so that both `sm57` and `57`, both `harborwinch` and `winch`, find `HarborWinch SM57`.
 */
export function searchWords(text: string): string[] {
  const words: string[] = [];
  for (const [whole] of text.matchAll(run)) {
    words.push(fold(whole));
    const pieces = splitName(whole);
    if (pieces.length > 1) for (const p of pieces) words.push(fold(p));
  }
  return words;
}

/** A file name without its folder and ending. */
export function baseName(path: string): string {
  const name = path.slice(path.lastIndexOf('/') + 1);
  const dot = name.lastIndexOf('.');
  return dot > 0 ? name.slice(0, dot) : name;
}

/** The folder part of a path; empty at the top. */
export function folderOf(path: string): string {
  const slash = path.lastIndexOf('/');
  return slash < 0 ? '' : path.slice(0, slash);
}

/** What names say of the file, which fields say better: `96k`, `44.1 kHz`, `24bit`. */
const technical =
  /(?<![\p{L}\p{N}])(?:(?:44[.,]1|48|88[.,]2|96|176[.,]4|192)\s?k(?:hz)?|(?:16|24|32)[\s-]?bit)(?![\p{L}\p{N}])/giu;

/** A name to read, made from a file name without labels: words with spaces, first letter large, numbers kept, rates and depths left out. */
export function readableName(path: string): string {
  const base = baseName(path).replace(/_/g, ' ');
  const words = splitName(base.replace(technical, ' ').trim() || base).map((w, i) =>
    i > 0 && /^\p{Lu}\p{Ll}+$/u.test(w) ? w.toLowerCase() : w,
  );
  const text = words.join(' ');
  return text ? text[0].toUpperCase() + text.slice(1) : baseName(path);
}
