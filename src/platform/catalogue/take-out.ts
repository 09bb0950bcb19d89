import { changeOf, type Edit, type Sound } from '@core/library';
import type { RootRecord } from '../store/store';

/** What sounds of a root that was taken out are. */
const HIDDEN = { kept: undefined, hidden: 'aside', retired: 'retired' } as const;

/**
 * The edit that takes a root out, or puts it back; its sounds with it. Nothing on disk changes.
 * @param how its sounds stay in the lists, are hidden for now, or are retired; undefined puts it back
 */
export function takeOutEdit(root: RootRecord, sounds: readonly Sound[], how: RootRecord['removed']): Edit {
  const was = HIDDEN[root.removed ?? 'kept'];
  const now = HIDDEN[how ?? 'kept'];
  // Sounds that were kept out of the lists by themselves stay so.
  const moved = was === now ? [] : sounds.filter((s) => s.hidden === was);
  const changes = [
    changeOf('roots', root, { removed: how }),
    ...moved.map((s) => changeOf('sounds', s, { hidden: now })),
  ].filter((c) => c !== undefined);
  return { label: how ? `Take out ${root.name}` : `Put ${root.name} back`, at: Date.now(), undoable: true, changes };
}
