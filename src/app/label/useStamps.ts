import { stampChanges, type Stamp } from '@core/library';
import { categoryOf } from '@core/suggest';
import { things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useLibrary } from '../stores/library';
import { catalogue } from '../stores/workers';

/** Putting stamps on sounds: by key, by button, by dropping rows on them. */
export function useStamps() {
  const library = useLibrary();

  async function put(stamp: Stamp, ids: readonly number[]): Promise<void> {
    if (ids.length === 0) return tell.info('Select the sounds first');
    const changes = stampChanges(await catalogue.sounds([...ids]), stamp, categoryOf);
    if (changes.length === 0) return tell.info(`They have all that ${stamp.name} says already`);
    const label = `Put ${stamp.name} on ${things(changes.length, 'sound')}`;
    if (await library.edit(label, changes, true, `stamp ${stamp.name}`)) tell.done(`${label}; Ctrl Z takes it back`);
  }

  return { put };
}
