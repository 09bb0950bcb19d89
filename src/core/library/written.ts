import type { IxmlTree, WavLabels } from '@core/files';
import { fields } from './fields';
import type { Sound } from './sound';
import { textOf, type TagNames } from './values';

/** Puts a value at a dotted place of a tree. */
function put(tree: IxmlTree, place: readonly string[], value: string): void {
  const [name, ...rest] = place;
  if (rest.length === 0) tree[name] ??= value;
  else {
    const inner = (tree[name] ??= {});
    if (typeof inner === 'object') put(inner, rest, value);
  }
}

/**
 * The labels of a sound as a WAV file takes them: each field where it is read from, as the registry says.
 * @param anchor frame of the written audio; left out when absent
 */
export function wavLabelsOf(sound: Pick<Sound, 'fields'>, tags: TagNames, anchor?: number): WavLabels {
  const ixml: IxmlTree = {};
  const info: Record<string, string> = {};
  const bext: Record<string, string> = {};
  for (const field of fields) {
    const value = textOf(field, sound.fields[field.key], tags);
    if (value === '') continue;
    // What several programs read stands in each block; within a block the first place is the one that is trusted most.
    const placed = new Set<string>();
    for (const key of field.read) {
      const [block, ...place] = key.split('.');
      if (placed.has(block)) continue;
      placed.add(block);
      if (block === 'iXML' && place[0] !== 'BEXT') put(ixml, place, value);
      else if (block === 'INFO') info[place[0]] ??= value;
      else if (block === 'bext') bext[place[0]] ??= value;
    }
  }
  const cues = anchor === undefined ? [] : [{ frame: anchor, label: 'Anchor', length: 0 }];
  return { bext, ixml, info, cues };
}

/** The labels of a sound as a FLAC file's comments take them, by name: each field where it is read from. */
export function flacLabelsOf(sound: Pick<Sound, 'fields'>, tags: TagNames): Record<string, string> {
  const comments: Record<string, string> = {};
  for (const field of fields) {
    const value = textOf(field, sound.fields[field.key], tags);
    const key = field.read.find((k) => k.startsWith('vorbis.'));
    if (value !== '' && key) comments[key.slice('vorbis.'.length)] ??= value;
  }
  return comments;
}
