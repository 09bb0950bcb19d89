import { nameOf, type Sound } from '@core/library';
import { useRouter } from 'vue-router';
import { tell } from '../shell/notice';
import { useCommons } from '../stores/commons';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { catalogue, fileReader } from '../stores/workers';

/** Finding by ear: what is like a sound, a part of one, a file from elsewhere, or a sound made with the voice. */
export function useAlike() {
  const find = useFind();
  const library = useLibrary();
  const commons = useCommons();
  const router = useRouter();

  /** Lists what is most like a sound; a query typed then looks among those. */
  function ofSound(id = find.view.soundId): void {
    if (id !== undefined) find.begin({ nearId: id, soundId: find.view.soundId, fold: undefined });
  }

  /** Lists what is most like a sound among those that others share. */
  async function elsewhere(sound: Sound): Promise<void> {
    const code = await catalogue.likeOf(sound.id);
    if (code === undefined) return tell.info(`${nameOf(sound)} is not measured yet; wait a moment`);
    commons.like = { code, name: nameOf(sound) };
    await router.push({ name: 'find', params: { part: 'commons' } });
  }

  async function of(name: string, code: Promise<string>, trouble: string): Promise<boolean> {
    try {
      find.begin({ like: { name, code: await code }, fold: undefined });
      return true;
    } catch (error) {
      tell.error(`${trouble}: ${(error as Error).message}`);
      return false;
    }
  }

  function ofRegion(sound: Sound): void {
    const { region } = sound.marks;
    const root = library.rootById.get(sound.rootId);
    if (!region || !root) return;
    const { path, size, format } = sound;
    const code = fileReader().likePart({ ...root }, { path, size, format: { ...format } }, { ...region });
    void of(`a part of ${nameOf(sound)}`, code, `${nameOf(sound)} cannot be compared`);
  }

  function ofFile(file: File): void {
    void of(file.name, fileReader().likeFile(file), `${file.name} cannot be compared`);
  }

  /** @param samples mono */
  function ofVoice(samples: Float32Array, rate: number): Promise<boolean> {
    return of('your voice', fileReader().likeVoice(samples, rate), 'The voice cannot be compared');
  }

  return { ofSound, elsewhere, ofRegion, ofFile, ofVoice };
}
