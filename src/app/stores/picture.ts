import type { Sound } from '@core/library';
import { frameRate, frameToSample, fromTimecode, sameTimecode } from '@core/scene';
import { mediaUrl, RATE, type Loadable, type PictureFacts, type RootRecord } from '@platform/index';
import { defineStore } from 'pinia';
import { computed, shallowRef, watch } from 'vue';
import { tell } from '../shell/notice';
import { guideId } from './guide';
import { useIntake } from './intake';
import { useLibrary } from './library';
import { useScene } from './scene';
import { film } from './workers';

/** As many frames are remembered for how far picture and sound are apart. */
const MEASURED = 240;

/** The picture of the scene: where it is, what it is like, its own sound, and how well it keeps in step. */
export const usePicture = defineStore('picture', () => {
  const scene = useScene();
  const library = useLibrary();
  const intake = useIntake();
  const url = shallowRef<string>();
  const failure = shallowRef('');
  const facts = shallowRef<PictureFacts>();
  /** Seconds by which frames came behind what was heard with them, newest last. */
  const late = shallowRef<readonly number[]>([]);

  const picture = computed(() => scene.current?.picture);
  const root = computed(() => (picture.value ? library.rootById.get(picture.value.rootId) : undefined));

  /** Rises with each picture that is opened: what is found out of an earlier one comes too late. */
  let opening = 0;
  async function open(): Promise<void> {
    const mine = ++opening;
    failure.value = '';
    facts.value = undefined;
    late.value = [];
    if (url.value?.startsWith('blob:')) URL.revokeObjectURL(url.value);
    url.value = undefined;
    const [of, from] = [picture.value, root.value];
    if (!of) return;
    try {
      if (!from) throw new Error('Its folder is not in the library any more.');
      const there = await mediaUrl(from, of.path);
      if (opening !== mine) return;
      url.value = there;
      const known = await film().facts({ ...from }, of.path, await sizeOf(from, there));
      if (opening === mine) facts.value = known;
    } catch (error) {
      if (opening === mine) failure.value = (error as Error).message;
    }
  }
  watch(
    () => (picture.value ? `${picture.value.path}/${picture.value.rootId}/${root.value?.id}` : ''),
    () => void open(),
    { immediate: true },
  );

  /** The bytes of a served picture; handles know their own size. */
  async function sizeOf(from: RootRecord, there: string): Promise<number> {
    if (from.kind !== 'server') return 1;
    const response = await fetch(there, { method: 'HEAD' });
    if (!response.ok)
      throw new Error(`${picture.value?.name ?? 'Its file'} is not there any more. Choose it again where it is now.`);
    return Number(response.headers.get('Content-Length') ?? 0);
  }

  /** The picture could not be shown, or went away while it was. */
  async function failed(): Promise<void> {
    const there = url.value;
    const from = root.value;
    const mine = opening;
    if (!there || !from || !picture.value) return;
    let why = 'This browser cannot show the picture.';
    try {
      await film().facts({ ...from }, picture.value.path, await sizeOf(from, there));
    } catch (error) {
      why = (error as Error).message;
    }
    // Opened anew meanwhile, it may be there again.
    if (opening === mine) failure.value = why;
  }

  /** Its own sound, for the engine. */
  const guideItem = computed<Loadable | undefined>(() => {
    const [of, from, known] = [picture.value, root.value, facts.value];
    if (!of?.guide || !from || !known?.sound) return undefined;
    const sound: Pick<Sound, 'id' | 'path' | 'size' | 'format'> = {
      id: guideId(`${from.id}/${of.path}/${known.size}`),
      path: of.path,
      size: known.size,
      format: known.sound,
    };
    return { sound, root: from };
  });
  watch(guideItem, (item) => (scene.guide = item), { immediate: true });

  /** Sets the picture of the current scene, or makes a scene for it; rate, length and start timecode are those of the file. */
  async function set(from: RootRecord, path: string, size: number): Promise<void> {
    const known = await film().facts({ ...from }, path, size);
    const { rate: fps, frames, variable, start } = known;
    const name = path.split('/').pop()!;
    const made = {
      ...{ rootId: from.id, path, name, frames },
      ...(variable ? { variable } : {}),
      ...(known.sound ? { guide: { gain: 0, mute: true } } : {}),
    };
    if (variable) {
      const bounds = `${variable.least.toFixed(1)} to ${variable.most.toFixed(1)}`;
      tell.info(
        `${name} has a rate that changes, from ${bounds} frames a second. Its frames are shown at their times; the scene counts ${fps}`,
      );
    }
    if (!scene.current) {
      await scene.create(name.replace(/\.\w+$/, ''), made, fps, start);
      return;
    }
    const length = frameToSample(frames, frameRate(fps), RATE);
    await scene.patch(`Set the picture ${name}`, 'scenes', scene.current, {
      ...{ picture: made, fps, length: Math.max(length, scene.current.length) },
      startFrame:
        start === undefined
          ? sameTimecode(scene.current.startFrame, scene.rate, frameRate(fps))
          : fromTimecode(start, frameRate(fps)),
    });
  }

  /** The newest of the folders that came in, for one picked file. */
  async function take(path: string, size: number): Promise<void> {
    const from = [...library.roots].reverse().find((r) => r.name === path);
    if (!from) return;
    try {
      await set(from, path, size);
    } catch (error) {
      tell.error((error as Error).message);
    }
  }
  /** Takes a picture that was picked or dropped. */
  async function takeHandle(handle: FileSystemFileHandle): Promise<void> {
    await intake.addHandles([handle]);
    await take(handle.name, (await handle.getFile()).size);
  }
  async function takeCopy(file: File): Promise<void> {
    await intake.addCopies([file]);
    await take(file.name, file.size);
  }

  /** Frames of the scene on which its first frame stands. */
  const offset = computed(() => picture.value?.offset ?? 0);
  function change(label: string, after: Partial<NonNullable<typeof picture.value>>): void {
    if (scene.current && picture.value)
      void scene.patch(label, 'scenes', scene.current, { picture: { ...picture.value, ...after } });
  }
  /** Seconds of the picture at a sample of the scene. */
  function timeOf(sample: number): number {
    const { num, den } = scene.rate;
    return (facts.value?.first ?? 0) + sample / RATE - (offset.value * den) / num;
  }
  /** Seconds of the picture at which a frame of the scene is safely on screen: its middle. */
  function middleOf(frame: number): number {
    const { num, den } = scene.rate;
    return (facts.value?.first ?? 0) + ((frame - offset.value + 0.5) * den) / num;
  }
  function measured(seconds: number): void {
    late.value = [...late.value, seconds].slice(-MEASURED);
  }

  return {
    url,
    failure,
    facts,
    late,
    picture,
    root,
    offset,
    failed,
    again: open,
    set,
    takeHandle,
    takeCopy,
    change,
    timeOf,
    middleOf,
    measured,
  };
});
