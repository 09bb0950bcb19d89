import type { Patch, Sound } from '@core/library';
import { useEventListener, useThrottleFn } from '@vueuse/core';
import { computed, ref, type Ref } from 'vue';
import { useAudition } from '../../stores/audition';

/** Frames that a region has at the least. */
export const LEAST_REGION = 64;
/** Pixels: how near one must come to an edge or the flag, how far the pointer moves until it drags, how high flag and ruler are. */
const NEAR = 6;
const MOVED = 3;
const FLAG = 14;
export const RULER = 18;
/** Milliseconds between two places that are heard while scrubbing. */
const GRAIN = 60;

interface Drag {
  kind: 'anchor' | 'start' | 'end' | 'scrub' | 'new';
  /** The frame on which it began. */
  from: number;
}

/**
 * What the pointer does on a waveform: drags the anchor by its flag, edges of the region, a new region; on the ruler it
 * scrubs; a click plays from there.
 */
export function useWaveDrag(
  box: Ref<HTMLElement | null>,
  sound: () => Sound,
  view: { xOf(frame: number): number; frameAt(x: number): number },
  keep: (label: string, after: Patch) => Promise<void>,
  snapped: (frame: number) => Promise<number>,
) {
  const audition = useAudition();
  /** A region or anchor on its way, not kept yet. */
  const dragged = ref<{ start: number; end: number }>();
  const draggedAnchor = ref<number>();
  const region = computed(() => dragged.value ?? sound().marks.region);
  const anchor = computed(() => Math.max(0, draggedAnchor.value ?? sound().marks.anchor));
  let drag: Drag | undefined;
  let downX = 0;
  const localX = (event: MouseEvent) => event.clientX - box.value!.getBoundingClientRect().left;
  const localY = (event: MouseEvent) => event.clientY - box.value!.getBoundingClientRect().top;
  const scrub = useThrottleFn((frame: number) => audition.scrub(frame), GRAIN, true);

  function down(event: PointerEvent): void {
    if (event.button !== 0 || !box.value) return;
    const x = localX(event);
    downX = x;
    const near = (frame: number) => Math.abs(x - view.xOf(frame)) < NEAR;
    const kindOf = (): Drag['kind'] => {
      if (near(anchor.value) && localY(event) < FLAG) return 'anchor';
      if (localY(event) > box.value!.clientHeight - RULER) return 'scrub';
      if (region.value && near(region.value.start)) return 'start';
      return region.value && near(region.value.end) ? 'end' : 'new';
    };
    drag = { kind: kindOf(), from: view.frameAt(x) };
    if (drag.kind === 'scrub') void scrub(drag.from);
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
  }

  useEventListener(box, 'pointermove', (event) => {
    if (!drag) return;
    const frame = view.frameAt(localX(event));
    const whole = region.value ?? { start: 0, end: sound().format.frames };
    if (drag.kind === 'anchor') draggedAnchor.value = frame;
    else if (drag.kind === 'scrub') void scrub(frame);
    else if (drag.kind === 'start')
      dragged.value = { start: Math.min(frame, whole.end - LEAST_REGION), end: whole.end };
    else if (drag.kind === 'end')
      dragged.value = { start: whole.start, end: Math.max(frame, whole.start + LEAST_REGION) };
    else if (Math.abs(localX(event) - downX) > MOVED)
      dragged.value = { start: Math.min(drag.from, frame), end: Math.max(drag.from, frame, LEAST_REGION) };
  });

  useEventListener(box, ['pointerup', 'pointercancel'], async (event) => {
    const done = drag;
    drag = undefined;
    if (!done) return;
    if (done.kind === 'scrub') audition.stop();
    else if (draggedAnchor.value !== undefined) await keep('Anchor', { 'marks.anchor': draggedAnchor.value });
    else if (dragged.value) await keep('Region', { 'marks.region': await edges(dragged.value) });
    else if (done.kind === 'new' && event.type === 'pointerup')
      audition.play(view.frameAt(localX(event as PointerEvent)));
    draggedAnchor.value = undefined;
    dragged.value = undefined;
  });

  /** A region with its edges drawn to where they are wanted. */
  async function edges({ start, end }: { start: number; end: number }) {
    const [from, to] = [await snapped(start), await snapped(end)];
    return to - from < LEAST_REGION ? { start, end } : { start: from, end: to };
  }

  return { region, anchor, down, edges };
}
