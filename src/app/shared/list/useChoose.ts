import { tell } from '../../shell/notice';
import { useAudition } from '../../stores/audition';
import { useFind } from '../../stores/find';
import { useLibrary } from '../../stores/library';
import { things } from '../controls/format';

/** Choosing among the listed sounds, by row or by step, and holding them: whatever window shows the list. */
export function useChoose() {
  const find = useFind();
  const library = useLibrary();
  const audition = useAudition();

  async function chooseAt(index: number, sounding?: boolean): Promise<void> {
    const { ids } = find.answer;
    const at = Math.max(0, Math.min(ids.length - 1, index));
    const id = ids[at];
    if (id === undefined) return;
    find.drift({ soundId: id });
    const { stops } = audition;
    const around = [ids[at + 1], ids[at - 1], ids[at + 2]].filter((n) => n !== undefined);
    // A row in sight is known already: it sounds within the key press, without waiting for anything.
    const sound = library.sounds.get(id) ?? (await library.need([id]))[0];
    // A faster hand is already further on.
    if (find.view.soundId !== id || !sound) return;
    // One that was stopped before it came stays silent.
    audition.choose(sound, audition.stops === stops && sounding);
    audition.prepare(await library.need(around));
  }

  /** Moves by rows; from nowhere, the first step arrives at the first row. */
  function walk(by: number): void {
    void chooseAt(find.index < 0 ? 0 : find.index + by);
  }

  function hold(ids: readonly number[]): void {
    const { tray } = library;
    if (!tray || ids.length === 0) return;
    const fresh = ids.filter((id) => !tray.soundIds.includes(id));
    if (fresh.length === 0) return tell.info('It is in the tray already');
    void library.addToPull(tray, fresh, `Hold ${things(fresh.length, 'sound')} in the tray`);
    tell.done(`${things(fresh.length, 'sound')} held in the tray`);
  }

  return { chooseAt, walk, hold };
}
