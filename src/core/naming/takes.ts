import { baseName, folderOf, fold } from './words';

/** A file name without what tells one take from another. */
export interface TakeName {
  /** The same for all takes of a sound: folder and name without the take, folded. */
  group: string;
  /** The take as written: `03`, `A`; absent when the name has none. */
  take?: string;
}

// Behind a separator or a bracket: up to three digits, or one large letter; or a number with "take" or "tk" before it.
const marked = /^(.*?\S)[\s_.-]*(?:take|tk)[\s_.-]*(\d{1,3}|[A-Z])$/i;
const bracketed = /^(.*?\S)\s*[([](\d{1,3}|[A-Z])[)\]]$/;
const separated = /^(.*?[^\s_.-])[\s_.-]+(\d{1,3}|[A-H])$/;
const glued = /^(.*?\p{Ll})(\d{1,2})$/u;

/** No file system knows longer names; looking for a take in one would take its time. */
const LONGEST = 1000;

function cut(text: string): [string, string | undefined] {
  if (text.length > LONGEST) return [text, undefined];
  for (const pattern of [marked, bracketed, separated, glued]) {
    const found = pattern.exec(text);
    // A rate or depth at the end (`hit_48k`, `rain 24bit`) has letters behind its number and is none of these.
    if (found) return [found[1], found[2]];
  }
  return [text, undefined];
}

/**
 * Tells the take of a file name: `postKnock-03`, `bootStep_A`, `creak take 2`, `gust (4)`. In a UCS name the take stands at
 * the end of its FXName, with CreatorID and SourceID behind.
 * @param fxName of a UCS name, if the name is one
 */
export function takeOf(path: string, fxName?: string): TakeName {
  const base = baseName(path);
  const [group, take] = cut(fxName ?? base);
  const name = fxName === undefined ? group : base.replace(fxName, group);
  return { group: fold(`${folderOf(path)}/${name}`), ...(take === undefined ? {} : { take }) };
}
