import { watch } from 'vue';
import { useAudition } from '../stores/audition';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { usePrefs } from '../stores/prefs';

/** Ticks the first steps off once they were done, on whatever screen. */
export function useFirstSteps(): void {
  const find = useFind();
  const library = useLibrary();
  const audition = useAudition();
  const prefs = usePrefs();

  function tick(key: string): void {
    if (!prefs.firstSteps.shown) return;
    if (!prefs.firstSteps.done.includes(key))
      prefs.firstSteps = { ...prefs.firstSteps, done: [...prefs.firstSteps.done, key] };
  }

  watch(
    () => find.view.text.trim() !== '' && find.answer.count > 0,
    (found) => found && tick('find'),
  );
  watch(
    () => audition.playing,
    (playing) => playing && tick('hear'),
  );
  watch(
    () => library.undoState.undo,
    (label) => {
      if (/^Edit|^Put on the stamp|^Accept|^Choose/.test(label ?? '')) tick('label');
      if (/^Hold|^Add to (the )?tray/i.test(label ?? '')) tick('hold');
      if (/^Spot/.test(label ?? '')) tick('spot');
    },
  );
}
