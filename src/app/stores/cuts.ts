import { frameToSample, type PictureCut } from '@core/scene';
import { RATE } from '@platform/index';
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
export interface SceneCut extends Omit<PictureCut, 'frame'> {
  at: number;
  /** What a list from elsewhere calls it. */
  name?: string;
}

/** The cuts of the scene's picture: looked for once, and kept with the scene. */
export const useCuts = defineStore('cuts', () => {
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
  /** In the order of time. */
  const cuts = computed<readonly SceneCut[]>(() => {
    const at = (frame: number) => frameToSample(frame + picture.offset, scene.rate, RATE);
    const found = isKnown.value ? known.value!.found.map((c): SceneCut => ({ ...c, at: at(c.frame) })) : [];
    const listed = (scene.current?.listed ?? []).map((c): SceneCut => ({ ...c, strength: 1 }));
    // What both tell of is one event; the picture's own says how much changes there.
    const near = frameToSample(1, scene.rate, RATE);
    const fresh = listed.filter((c) => !found.some((f) => Math.abs(f.at - c.at) <= near));
    return [...found, ...fresh].filter((c) => c.at >= 0).sort((a, b) => a.at - b.at);
  });
  watch(cuts, (now) => (scene.cutMarks = now.map((c) => c.at)), { immediate: true });

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
      const found = await film.cuts({ ...from }, of.path, { ...facts }, told);
      if (turn !== mine || !found) return;
      const row = scene.scenes.find((s) => s.id === into.id);
      if (row) await library.patch(`Cuts of ${of.name}`, 'scenes', row, { cuts: { of: wanted, found } }, false);
    } catch (error) {
      if (turn === mine) tell.error(`The cuts of ${of.name} could not be looked for: ${(error as Error).message}`);
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
      if (!key.value || isKnown.value || !facts) return;
      if ((facts.frames * scene.rate.den) / scene.rate.num <= BY_ITSELF) void look();
    },
    { immediate: true },
  );

  /** The next cut behind a sample, or the last one before it. */
  function next(from: number, direction: 1 | -1 = 1): SceneCut | undefined {
    return direction > 0 ? cuts.value.find((c) => c.at > from) : cuts.value.findLast((c) => c.at < from);
  }
  /** Goes to the next cut, or the one before. */
  function go(direction: 1 | -1): void {
    const to = next(transport.position + direction, direction);
    if (to) transport.seek(to.at);
    else
      tell.info(
        cuts.value.length === 0
          ? progress.value === undefined
            ? 'No cuts are known of the picture'
            : 'The cuts are still being looked for'
          : `There is no cut ${direction > 0 ? 'behind' : 'before'} this`,
      );
  }
  /** How many there are, in words. */
  const inWords = computed(() => {
    if (!isKnown.value) return '';
    const soft = cuts.value.filter((c) => c.kind === 'dissolve').length;
    const hard = things(cuts.value.length - soft, 'cut');
    return soft === 0 ? hard : `${hard}, ${things(soft, 'dissolve')}`;
  });

  const forgetListed = () =>
    scene.current && void scene.patch('Forget the cuts of lists', 'scenes', scene.current, { listed: undefined });

  return { cuts, isKnown, inWords, progress, look, stop, go, forgetListed };
});
