import { removalOf } from './edits';
import type { Change, Patch } from './edits';
import { changeOf } from './edits';
import type { Sound, Tag } from './sound';

const tagsOf = (sound: Pick<Sound, 'fields'>): readonly number[] => (sound.fields.tags as readonly number[]) ?? [];

/** Tags by name without regard to case: `Rusty` and `rusty` are one. */
export function tagByName(tags: readonly Tag[]): Map<string, Tag> {
  return new Map(tags.map((t) => [t.name.trim().toLocaleLowerCase(), t]));
}

/** The change that gives sounds other tags; none left takes the field away. */
export function tagChange(sound: Sound, tags: readonly number[], origin = 'typed'): Change | undefined {
  const unique = [...new Set(tags)];
  const after: Patch = {
    'fields.tags': unique.length > 0 ? unique : undefined,
    'from.tags': unique.length > 0 ? origin : undefined,
  };
  return JSON.stringify(unique) === JSON.stringify(tagsOf(sound)) ? undefined : changeOf('sounds', sound, after);
}

/**
 * Merges tags into one: every sound that had any of them has that one, in the first one's place, and the others are gone.
 * @param sounds at least all that have one of `others`
 */
export function mergeTags(into: Tag, others: readonly Tag[], sounds: readonly Sound[]): Change[] {
  const gone = new Set(others.map((t) => t.id));
  const moved = sounds.flatMap(
    (s) =>
      tagChange(
        s,
        tagsOf(s).map((id) => (gone.has(id) ? into.id : id)),
      ) ?? [],
  );
  return [...moved, ...others.map((t): Change => removalOf('tags', t))];
}

/**
 * Splits a tag: sounds that had it have the parts instead, where it stood. The first part keeps the tag's identity.
 * @param parts names; those that are tags already are used
 * @param newIds as many fresh ids as there are parts
 */
export function splitTag(
  tag: Tag,
  parts: readonly string[],
  tags: readonly Tag[],
  sounds: readonly Sound[],
  newIds: readonly number[],
): Change[] {
  const known = tagByName(tags.filter((t) => t.id !== tag.id));
  const changes: Change[] = [];
  let kept = false;
  const ids = parts.map((name, i) => {
    const there = known.get(name.trim().toLocaleLowerCase());
    if (there) return there.id;
    if (!kept) {
      kept = true;
      changes.push(
        ...(changeOf('tags', tag, { name: name.trim() }) ? [changeOf('tags', tag, { name: name.trim() })!] : []),
      );
      return tag.id;
    }
    changes.push({ table: 'tags', id: newIds[i], after: { id: newIds[i], name: name.trim() } });
    return newIds[i];
  });
  if (!kept) changes.push(removalOf('tags', tag));
  const moved = sounds.flatMap(
    (s) =>
      tagChange(
        s,
        tagsOf(s).flatMap((id) => (id === tag.id ? ids : [id])),
      ) ?? [],
  );
  return [...changes, ...moved];
}

/** Takes a tag off all sounds that have it, and away. */
export function removeTag(tag: Tag, sounds: readonly Sound[]): Change[] {
  const off = sounds.flatMap(
    (s) =>
      tagChange(
        s,
        tagsOf(s).filter((id) => id !== tag.id),
      ) ?? [],
  );
  return [...off, removalOf('tags', tag)];
}
