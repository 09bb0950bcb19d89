import { useElementSize, useEventListener } from '@vueuse/core';
import { computed, ref, toValue, type MaybeRefOrGetter, type Ref } from 'vue';
import { rowAt, rowTop, stretchOf, type RowLayout } from './row-layout';

/** Rows beyond either edge of what is in sight, so that a slow frame shows no gap. */
const SPARE = 6;

/** A row that exists on the screen. */
export interface ShownRow {
  index: number;
  /** Pixels from the top of the rows. */
  top: number;
  /** The same for one row as long as it is in sight, and taken over by another later: elements are filled anew, not made anew. */
  key: number;
}

/**
 * Which rows of a long list are in sight. It reckons instead of measuring: ten rows and a million take the same time.
 * @param scroller what scrolls
 * @param head pixels at its top that cover rows
 */
export function useRowWindow(scroller: Ref<HTMLElement | null>, layout: MaybeRefOrGetter<RowLayout>, head = 0) {
  const { height: view } = useElementSize(scroller);
  const scrolled = ref(0);
  useEventListener(scroller, 'scroll', () => (scrolled.value = scroller.value?.scrollTop ?? 0), { passive: true });

  const stretch = computed(() => stretchOf(toValue(layout), view.value));
  /** Pixels of rows above what is in sight; not what was scrolled where there are more rows than a browser can scroll through. */
  const above = computed(() => scrolled.value * stretch.value.ratio);
  const first = computed(() => Math.max(0, rowAt(toValue(layout), above.value) - SPARE));
  const last = computed(() =>
    Math.min(toValue(layout).count - 1, rowAt(toValue(layout), above.value + view.value) + SPARE),
  );
  const places = computed(() => Math.ceil(view.value / toValue(layout).height) + 2 * SPARE + 2);
  /** How far rows are drawn from where they would be if all could be scrolled through. */
  const shift = computed(() => (stretch.value.ratio === 1 ? 0 : scrolled.value - above.value));

  const rows = computed<ShownRow[]>(() => {
    const shown: ShownRow[] = [];
    for (let index = first.value; index <= last.value; index++)
      shown.push({ index, top: rowTop(toValue(layout), index) + shift.value, key: index % places.value });
    return shown;
  });

  /** Brings a row into sight, with all of its height. */
  function reveal(index: number): void {
    const box = scroller.value;
    if (!box || index < 0) return;
    const { ratio } = stretch.value;
    const top = rowTop(toValue(layout), index);
    const bottom = rowTop(toValue(layout), index + 1) + head;
    if (top < box.scrollTop * ratio) box.scrollTop = top / ratio;
    else if (bottom > box.scrollTop * ratio + box.clientHeight) box.scrollTop = (bottom - box.clientHeight) / ratio;
  }

  return { rows, total: computed(() => stretch.value.total), reveal };
}
