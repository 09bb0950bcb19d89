import { changeOf, nameOf, type Patch, type Sound } from '@core/library';
import { useAudition } from '../../stores/audition';
import { useLibrary } from '../../stores/library';
import { catalogue } from '../../stores/workers';

/** Changes what is marked in a sound, as one edit that is heard at once. */
export function useMarks(sound: () => Sound) {
  const library = useLibrary();
  const audition = useAudition();
  return async function keep(label: string, after: Patch): Promise<void> {
    const { id } = sound();
    // An anchor that somebody set stays, whatever its file says later.
    const all = 'marks.anchor' in after ? { ...after, 'from.anchor': 'typed' } : after;
    await library.edit(`${label} of ${nameOf(sound())}`, [changeOf('sounds', sound(), all)]);
    const [next] = await catalogue.sounds([id]);
    if (next && audition.sound?.id === next.id) audition.renew(next);
  };
}
