import type { WaveColumns } from '@core/audio';
import type { Sound } from '@core/library';
import type { Spectrogram } from '@platform/index';
import { useDebounceFn, useEventListener } from '@vueuse/core';
import { computed, ref, shallowRef, watch, type Ref } from 'vue';
import { useLibrary } from '../../stores/library';
import { viewer } from '../../stores/workers';

/** Frames that are shown at the least: single samples, wide apart. */
const CLOSEST = 32;
/** Rows of a spectrogram. */
const ROWS = 192;
/** Milliseconds that a view stands still before it is looked at closely. */
const STILL = 60;

/** What is seen of a sound: which part, how closely, and what there is to draw. */
export function useWaveView(sound: () => Sound, width: Ref<number>, spectral: () => boolean) {
  const library = useLibrary();
  const frames = computed(() => sound().format.frames);
  const span = ref({ from: 0, to: Math.max(1, frames.value) });
  const wave = shallowRef<WaveColumns>();
  const spectrum = shallowRef<Spectrogram>();
  const shown = computed(() => span.value.to - span.value.from);
  const zoomed = computed(() => shown.value < frames.value);

  const xOf = (frame: number) => ((frame - span.value.from) / shown.value) * width.value;
  const frameAt = (x: number) => Math.round(span.value.from + Math.max(0, Math.min(1, x / width.value)) * shown.value);

  function show(from: number, length: number): void {
    const wide = Math.max(Math.min(CLOSEST, frames.value), Math.min(frames.value, Math.round(length)));
    const start = Math.round(Math.max(0, Math.min(frames.value - wide, from)));
    span.value = { from: start, to: start + wide };
  }
  /** Nearer by a factor, or farther where that is below one; what lies at a place stays there. */
  function zoom(by: number, x = width.value / 2): void {
    const share = x / width.value;
    const at = span.value.from + share * shown.value;
    show(at - (share * shown.value) / by, shown.value / by);
  }
  const pan = (share: number) => show(span.value.from + share * shown.value, shown.value);
  const whole = () => show(0, frames.value);

  const look = useDebounceFn(async () => {
    const item = library.loadable(sound());
    const { from, to } = span.value;
    const columns = Math.round(width.value * Math.min(2, devicePixelRatio));
    if (!item || columns === 0) return;
    const plain = { sound: { ...item.sound }, root: { ...item.root } };
    // A file that cannot be read is told of where it is played; its contour stays.
    const [near, tones] = await Promise.all([
      viewer()
        .wave(plain, from, to, columns)
        .catch(() => undefined),
      spectral()
        ? viewer()
            .spectrogram(plain, from, to, Math.round(width.value), ROWS)
            .catch(() => undefined)
        : undefined,
    ]);
    if (from !== span.value.from || to !== span.value.to) return;
    wave.value = near;
    spectrum.value = tones ?? spectrum.value;
  }, STILL);
  watch([span, width, spectral], () => void look(), { immediate: true });

  return { span, zoomed, wave, spectrum, xOf, frameAt, zoom, pan, whole, show };
}

/** Nearer or farther by the wheel, around the pointer; sideways along the sound. */
export function useWaveWheel(
  box: Ref<HTMLElement | null>,
  view: Pick<ReturnType<typeof useWaveView>, 'zoomed' | 'pan' | 'zoom'>,
  width: Ref<number>,
): void {
  useEventListener(
    box,
    'wheel',
    (event) => {
      if (event.ctrlKey || (!view.zoomed.value && event.deltaY > 0 && event.deltaX === 0 && !event.shiftKey)) return;
      event.preventDefault();
      const by = event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY) ? event.deltaX || event.deltaY : 0;
      if (by !== 0) view.pan(by / width.value);
      else view.zoom(2 ** (-event.deltaY / 200), event.clientX - box.value!.getBoundingClientRect().left);
    },
    { passive: false },
  );
}
