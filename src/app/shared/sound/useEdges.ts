import type { Sound } from '@core/library';
import { shallowRef, watch } from 'vue';
import { useLibrary } from '../../stores/library';
import { usePrefs } from '../../stores/prefs';
import { catalogue, viewer } from '../../stores/workers';

/** An edge farther than this from every onset stays where it is. Seconds. */
const REACH = 0.15;

/** Where a sound's events begin, and to what the edges of its regions are drawn. */
export function useEdges(sound: () => Sound) {
  const library = useLibrary();
  const prefs = usePrefs();
  const onsets = shallowRef<ArrayLike<number>>([]);
  watch(
    () => [sound().id, sound().hash] as const,
    async ([id]) => {
      onsets.value = [];
      const [facts] = await catalogue.facts([id]);
      if (sound().id === id) onsets.value = facts?.onsets ?? [];
    },
    { immediate: true },
  );

  /** The frame to which an edge is drawn. */
  async function snapped(frame: number): Promise<number> {
    const { rate, frames } = sound().format;
    if (frame <= 0 || frame >= frames || prefs.snap === 'nothing') return Math.max(0, Math.min(frames, frame));
    if (prefs.snap === 'onsets') {
      let best = frame;
      let near = REACH * rate;
      for (const onset of Array.from(onsets.value)) {
        if (Math.abs(onset - frame) >= near) continue;
        near = Math.abs(onset - frame);
        best = onset;
      }
      return best;
    }
    const item = library.loadable(sound());
    if (!item) return frame;
    // A file that cannot be read is told of where it is played; the edge stays where it was put.
    return viewer()
      .crossing({ sound: { ...item.sound }, root: { ...item.root } }, frame)
      .catch(() => frame);
  }

  return { onsets, snapped };
}
