import { nameOf, type Sound } from '@core/library';
import { tell } from '../shell/notice';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { wide } from '../stores/view';
import { fileReader } from '../stores/workers';

/** Finding by ear: what is like a sound, a part of one, a file from elsewhere, or a sound made with the voice. */
export function useAlike() {
  const find = useFind();
  const library = useLibrary();
  const whole = { ...wide(), pullId: undefined, intakeId: undefined, sort: undefined, fold: undefined, trail: [] };

  /** Lists what is most like a sound; a query typed then looks among those. */
  function ofSound(id = find.view.soundId): void {
    if (id !== undefined) find.go({ ...whole, nearId: id });
  }

  async function of(name: string, code: Promise<string>, trouble: string): Promise<boolean> {
    try {
      find.go({ ...whole, like: { name, code: await code }, soundId: undefined });
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
    const { id, path, size, format } = sound;
    const code = fileReader().likePart(
      { ...root },
      { id, path, size, format: { ...format }, loop: false },
      { ...region },
    );
    void of(`a part of ${nameOf(sound)}`, code, `${nameOf(sound)} cannot be compared`);
  }

  function ofFile(file: File): void {
    void of(file.name, fileReader().likeFile(file), `${file.name} cannot be compared`);
  }

  /** @param samples mono */
  function ofVoice(samples: Float32Array, rate: number): Promise<boolean> {
    return of('your voice', fileReader().likeVoice(samples, rate), 'The voice cannot be compared');
  }

  return { ofSound, ofRegion, ofFile, ofVoice };
}
