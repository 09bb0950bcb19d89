import { frameToSample, MOTION_DEFAULT, type MotionEvent, type PictureCut } from '@core/scene';
import { RATE } from '@platform/index';
import { useLocalStorage } from '@vueuse/core';
import { proxy } from 'comlink';
import { defineStore } from 'pinia';
import { computed, ref, watch } from 'vue';
import { things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useLibrary } from './library';
import { usePicture } from './picture';
import { useScene } from './scene';
import { useTransport } from './transport';
import { film } from './workers';

/** Pictures up to so many seconds are looked through by themselves; longer ones when they are asked for. */
const BY_ITSELF = 600;

/** An event of the picture, and where it lies in the scene. Samples */
export interface SceneEvent {
  at: number;
  kind: PictureCut['kind'] | MotionEvent['kind'];
  strength: number;
  /** What a list from elsewhere calls it. */
  name?: string;
  /** Where in the picture something moves, as shares of its width and height. */
  place?: { x: number; y: number };
}
/** A strength that no movement reaches. */
export const NO_MOVEMENT = 1;

/** The events of the scene's picture, cuts and movement: looked for once, and kept with the scene. */
export const usePictureEvents = defineStore('picture-events', () => {
  const scene = useScene();
  const picture = usePicture();
  const library = useLibrary();
  const transport = useTransport();
  /** Share of the picture that is looked through; undefined while nothing is looked for. */
  const progress = ref<number>();
  let mine = 0;

  /** What tells the picture from others. */
  const key = computed(() => {
    const { picture: of, facts } = picture;
    return of && facts ? `${of.rootId}/${of.path}/${facts.size}` : '';
  });
  const known = computed(() => scene.current?.cuts);
  const isKnown = computed(() => key.value !== '' && known.value?.of === key.value);
  /** How much moves all along the picture, and where; scenes of before know of cuts alone. */
  const motion = computed(() => (isKnown.value ? known.value!.motion : undefined));
  /** Movement of at least this strength is an event. */
  const least = useLocalStorage('movement-least', MOTION_DEFAULT);
  const inScene = (frame: number) => frameToSample(frame + picture.offset, scene.rate, RATE);
  /** In the order of time. */
  const cuts = computed<readonly SceneEvent[]>(() => {
    const found = isKnown.value
      ? known.value!.found.map(({ frame, ...c }): SceneEvent => ({ ...c, at: inScene(frame) }))
      : [];
    const listed = (scene.current?.listed ?? []).map((c): SceneEvent => ({ ...c, strength: 1 }));
    // What both tell of is one event; the picture's own says how much changes there.
    const near = frameToSample(1, scene.rate, RATE);
    const fresh = listed.filter((c) => !found.some((f) => Math.abs(f.at - c.at) <= near));
    return [...found, ...fresh].filter((c) => c.at >= 0).sort((a, b) => a.at - b.at);
  });
  const movement = computed<readonly SceneEvent[]>(() =>
    (motion.value?.events ?? []).flatMap(({ frame, x, y, ...event }) => {
      const at = inScene(frame);
      return event.strength >= least.value && at >= 0 ? { ...event, at, place: { x, y } } : [];
    }),
  );
  /** Cuts and movement, in the order of time. */
  const events = computed(() => [...cuts.value, ...movement.value].sort((a, b) => a.at - b.at));
  watch(cuts, (now) => (scene.cutMarks = now.map((c) => c.at)), { immediate: true });
  watch(events, (now) => (scene.eventMarks = now.map((e) => e.at)), { immediate: true });

  async function look(): Promise<void> {
    const [of, from, facts, into, wanted] = [picture.picture, picture.root, picture.facts, scene.current, key.value];
    if (!of || !from || !facts || !into) return;
    const turn = ++mine;
    progress.value = 0;
    const told = proxy((done: number) => {
      if (turn === mine) progress.value = done;
      return turn === mine;
    });
    try {
      const found = await film().events({ ...from }, of.path, { ...facts }, told);
      if (turn !== mine || !found) return;
      const row = scene.scenes.find((s) => s.id === into.id);
      if (row) await library.patch(`Events of ${of.name}`, 'scenes', row, { cuts: { of: wanted, ...found } }, false);
    } catch (error) {
      if (turn === mine) tell.error(`The events of ${of.name} could not be looked for: ${(error as Error).message}`);
    } finally {
      if (turn === mine) progress.value = undefined;
    }
  }
  function stop(): void {
    mine++;
    progress.value = undefined;
  }
  watch(
    [key, () => scene.current?.id],
    () => {
      stop();
      const { facts } = picture;
      if (!key.value || motion.value || !facts) return;
      if ((facts.frames * scene.rate.den) / scene.rate.num <= BY_ITSELF) void look();
    },
    { immediate: true },
  );

  /** The next event behind a sample, or the last one before it. */
  function next(from: number, direction: 1 | -1 = 1): SceneEvent | undefined {
    return direction > 0 ? events.value.find((e) => e.at > from) : events.value.findLast((e) => e.at < from);
  }
  /** Goes to the next event, or the one before. */
  function go(direction: 1 | -1): void {
    const to = next(transport.position + direction, direction);
    if (to) transport.seek(to.at);
    else
      tell.info(
        events.value.length === 0
          ? progress.value === undefined
            ? 'No events are known of the picture'
            : 'The events of the picture are still being looked for'
          : `There is no event of the picture ${direction > 0 ? 'behind' : 'before'} this`,
      );
  }
  /** How many there are, in words. */
  const inWords = computed(() => {
    if (!isKnown.value) return '';
    const soft = cuts.value.filter((c) => c.kind === 'dissolve').length;
    const hard = things(cuts.value.length - soft, 'cut');
    return soft === 0 ? hard : `${hard}, ${things(soft, 'dissolve')}`;
  });
  const movementInWords = computed(() => {
    const stops = movement.value.filter((e) => e.kind === 'stop').length;
    return `${things(movement.value.length - stops, 'peak')}, ${things(stops, 'stop')}`;
  });

  const forgetListed = () =>
    scene.current && void scene.patch('Forget the cuts of lists', 'scenes', scene.current, { listed: undefined });

  return { cuts, events, motion, least, isKnown, inWords, movementInWords, progress, look, stop, go, forgetListed };
});
