import { watch } from 'vue';
import { useAudition } from '../stores/audition';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { usePrefs } from '../stores/prefs';
import { useScene } from '../stores/scene';

/** Ticks the first steps off once they were done, on whatever screen. */
export function useFirstSteps(): void {
  const find = useFind();
  const library = useLibrary();
  const audition = useAudition();
  const scene = useScene();
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
  const grew = (now: number | undefined, before: number | undefined) => before !== undefined && (now ?? 0) > before;
  watch(
    () => library.tray?.soundIds.length,
    (now, before) => grew(now, before) && tick('hold'),
  );
  watch(
    () => library.undoState.undo,
    (label) => {
      if (/^Edit|^Put on the stamp|^Accept|^Choose/.test(label ?? '')) tick('label');
      if (/^Spot/.test(label ?? '')) tick('spot');
    },
  );
  watch(
    () => scene.cues.length,
    (now, before) => before > 0 && now > before && tick('spot'),
  );
}
