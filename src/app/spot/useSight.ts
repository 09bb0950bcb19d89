import { drawnFor, laidOver, type Sight } from '@core/timeline';
import { useDebounceFn } from '@vueuse/core';
import { computed, onScopeDispose, ref, shallowRef, watch, type Ref } from 'vue';

/** Milliseconds after which a view that does not move any more is taken to rest. */
const REST = 150;

/**
 * What is drawn of a timeline while its view moves. At rest that is the view itself; while it is scrolled, somewhat more, which is only
 * shifted from frame to frame.
 */
export function useSight(view: Ref<Sight>) {
  const drawn = shallowRef<Sight>(view.value);
  const moving = ref(false);
  const rest = useDebounceFn(() => {
    drawn.value = view.value;
    moving.value = false;
  }, REST);
  watch(
    view,
    (now, before) => {
      const next = drawnFor(now, drawn.value);
      // Only hands make it move: other sizes and jumps are drawn as they are.
      moving.value = next !== now || now.scale !== before.scale;
      drawn.value = next;
      if (moving.value) void rest();
    },
    { flush: 'sync' },
  );
  const shift = computed(() => laidOver(view.value, drawn.value).shift);
  return { drawn, moving, shift };
}

/** By how much a lane is stretched before it is drawn anew. */
const STRETCH = 1.6;
/** Milliseconds of a frame that are left to lanes which are drawn anew. */
const SHARE = 8;

/** Lanes that are to be drawn anew, the one first that has waited longest. */
const waiting = new Set<() => void>();
let isAsked = false;
function drawSome(): void {
  const begin = performance.now();
  for (const draw of waiting) {
    waiting.delete(draw);
    draw();
    if (performance.now() - begin > SHARE) break;
  }
  isAsked = waiting.size > 0;
  if (isAsked) requestAnimationFrame(drawSome);
}

/**
 * What one lane has drawn of a view that moves. While it is zoomed that is stretched, and the lanes are drawn anew a few a frame: all at
 * once would take longer than a frame has.
 * @param moving whether hands move the view
 */
export function useDrawn(view: () => Sight, moving: () => boolean) {
  const drawn = shallowRef(view());
  const draw = () => (drawn.value = moving() ? drawnFor(view(), drawn.value, STRETCH) : view());
  onScopeDispose(() => waiting.delete(draw));
  watch(
    [view, moving],
    ([now, moves], [before]) => {
      const { scale, width, height } = drawn.value;
      const resized = now.width !== before.width || now.height !== before.height;
      const isSharp = scale === now.scale && width === now.width && height === now.height;
      if (resized) {
        waiting.delete(draw);
        drawn.value = now;
      } else if (
        moves ? drawnFor(now, drawn.value, STRETCH) !== drawn.value : !isSharp || drawn.value.from !== now.from
      ) {
        waiting.add(draw);
        if (!isAsked) requestAnimationFrame(drawSome);
        isAsked = true;
      }
    },
    { flush: 'sync' },
  );
  const style = computed(() => {
    const { shift, stretch } = laidOver(view(), drawn.value);
    return { transform: `translateX(${shift}px)${stretch === 1 ? '' : ` scaleX(${stretch})`}` };
  });
  return { drawn, style };
}
