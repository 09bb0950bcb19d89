import { fadeForms, fullShape, type Shape } from '@core/audio';
import { spanOf, type Cue } from '@core/scene';
import { allCrossFaded, faded, GAINS, split, trimmed } from '@core/timeline';
import { RATE } from '@platform/index';
import { useLocalStorage } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, shallowRef, watch } from 'vue';
import { things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useTransport } from './transport';
import { useLibrary } from './library';
import { useScene } from './scene';
import { catalogue } from './workers';

/** What hands and keys do to the cues that are selected: each of it is one edit. */
export const useHands = defineStore('hands', () => {
  const scene = useScene();
  const library = useLibrary();
  const transport = useTransport();
  /** Ids of the cues that are selected; the one that is shown is `scene.cue`. */
  const selected = shallowRef<ReadonlySet<number>>(new Set());
  /** Whether what is dragged is drawn to frames, anchors and edges. */
  const snapping = useLocalStorage('snapping', true);
  const copied = shallowRef<readonly Cue[]>([]);

  watch(
    () => scene.cueId,
    (id) => {
      if (id === undefined) selected.value = new Set();
      else if (!selected.value.has(id)) selected.value = new Set([id]);
    },
  );

  const chosen = computed(() => scene.cues.filter((c) => selected.value.has(c.id)));
  const isLocked = (cue: Cue): boolean =>
    cue.locked === true || scene.tracks.find((t) => t.id === cue.trackId)?.locked === true;
  /** Those of them that may be changed. */
  const free = computed(() => chosen.value.filter((c) => !isLocked(c)));

  async function select(ids: readonly number[], shown = ids.at(-1)): Promise<void> {
    selected.value = new Set(ids);
    await scene.select(shown);
  }

  function toggle(id: number): void {
    const next = new Set(selected.value);
    if (!next.delete(id)) next.add(id);
    void select([...next], next.has(id) ? id : [...next].at(-1));
  }

  const nameOf = (cues: readonly Cue[]): string => (cues.length === 1 ? cues[0].name : things(cues.length, 'cue'));

  /** How many frames the sounds of cues have; of one that is not there, as many as are played. */
  async function lengths(cues: readonly Cue[]): Promise<(cue: Cue) => number> {
    const sounds = await library.need([...new Set(cues.map((c) => c.soundId))]);
    const known = new Map(sounds.map((s) => [s.id, s.format.frames]));
    return (cue) => known.get(cue.soundId) ?? cue.end;
  }

  /** Each change begins where the one before it has ended: a key pressed quickly means what the last one left. */
  let turn: Promise<unknown> = Promise.resolve();
  function inTurn(task: () => Promise<unknown> | void): Promise<void> {
    const done = turn.then(task);
    turn = done.catch(() => undefined);
    return done.then(() => undefined);
  }

  /** Selects nothing any more; what was asked for just before still concerns what was selected. */
  const letGo = () => inTurn(() => select([]));

  /** Changes all that may be changed; says so where nothing may. */
  const change = (what: string, make: (cue: Cue, frames: number) => Cue | undefined): Promise<void> =>
    inTurn(() => changeNow(what, make));
  async function changeNow(what: string, make: (cue: Cue, frames: number) => Cue | undefined): Promise<void> {
    if (chosen.value.length > 0 && free.value.length === 0) return tell.info('What is selected is locked');
    const cues = free.value;
    const frames = await lengths(cues);
    const made = cues.flatMap((c) => make(c, frames(c)) ?? []);
    if (made.length > 0) await scene.keepCues(`${what} ${nameOf(made)}`, made);
  }

  /** Moves by samples; none begins before the scene does. */
  function move(samples: number): Promise<void> {
    return inTurn(() => {
      const by = Math.max(samples, -Math.min(...free.value.map((c) => c.at)));
      if (by !== 0) return changeNow('Move', (c) => ({ ...c, at: c.at + by }));
    });
  }

  const gain = (by: number) =>
    change('Gain of', (c) => ({
      ...c,
      gain: Math.max(GAINS.least, Math.min(GAINS.most, Math.round((c.gain + by) * 10) / 10)),
    }));
  const set = (what: string, after: Partial<Cue>) => change(what, (c) => ({ ...c, ...after }));
  const shape = (after: Partial<Shape>) => change('Shape of', (c) => ({ ...c, shape: { ...c.shape, ...after } }));

  const mute = () =>
    inTurn(() => {
      const on = !free.value.every((c) => c.mute);
      return changeNow(on ? 'Mute' : 'Unmute', (c) => ({ ...c, mute: on }));
    });

  const lock = () => inTurn(lockNow);
  async function lockNow(): Promise<void> {
    const on = !chosen.value.every((c) => c.locked);
    const made = chosen.value.map((c) => ({ ...c, locked: on || undefined }));
    if (made.length > 0) await scene.keepCues(`${on ? 'Lock' : 'Unlock'} ${nameOf(made)}`, made);
  }

  const trim = (edge: 'start' | 'end', to: number) => change('Trim', (c, frames) => trimmed(c, edge, to, frames, RATE));
  /** @param seconds that the fade lasts */
  const fade = (side: 'fadeIn' | 'fadeOut', seconds: number) =>
    change('Fade of', (c) => {
      const { start, end } = spanOf(c, RATE);
      return faded(c, side, side === 'fadeIn' ? start + seconds * RATE : end - seconds * RATE, RATE);
    });

  /** The next form of fades, or the one before. */
  function formBy(by: number): Promise<void> {
    return change('Fade of', (c) => {
      const form = c.shape?.fade ?? 'straight';
      const next = fadeForms[(fadeForms.indexOf(form) + by + fadeForms.length) % fadeForms.length];
      return { ...c, shape: { ...fullShape(c.shape), fade: next } };
    });
  }

  /** Cuts in two what sounds at the playhead: what is selected, or all that sounds there where nothing is. */
  const cut = () => inTurn(cutNow);
  async function cutNow(): Promise<void> {
    const at = transport.position;
    const cues = (chosen.value.length > 0 ? free.value : scene.cues.filter((c) => !isLocked(c))).filter((c) => {
      const { start, end } = spanOf(c, RATE);
      return start < at && end > at;
    });
    if (cues.length === 0) return tell.info('Nothing that may be cut sounds at the playhead');
    const [ids, frames] = await Promise.all([catalogue.newIds('cues', cues.length), lengths(cues)]);
    const parts = cues.flatMap((c, i) => split(c, at, ids[i], frames(c), RATE) ?? []);
    if (parts.length === 0) return tell.info('What plays both ways cannot be cut in two');
    if (await scene.keepCues(`Cut ${nameOf(cues)} in two`, parts))
      await select(parts.filter((p) => ids.includes(p.id)).map((p) => p.id));
  }

  /** Has cues that overlap on a track give way to each other: those selected, or all of the scene where fewer than two are. */
  const crossFade = () => inTurn(crossFadeNow);
  async function crossFadeNow(): Promise<void> {
    const cues = free.value.length > 1 ? free.value : scene.cues.filter((c) => !isLocked(c));
    const made = allCrossFaded(cues, RATE);
    if (made.length === 0) return tell.info('No two of these overlap on one track');
    await scene.keepCues(`Cross-fade ${nameOf(made)}`, made);
  }

  /** Puts copies of cues where the first of them has its anchor at a sample. */
  async function put(cues: readonly Cue[], at: number, what: string): Promise<void> {
    if (cues.length === 0 || !scene.current) return;
    const sceneId = scene.current.id;
    const ids = await catalogue.newIds('cues', cues.length);
    const first = Math.min(...cues.map((c) => c.at));
    const tracks = new Set(scene.tracks.map((t) => t.id));
    const onto = scene.track?.id;
    const made = cues.flatMap((c, i): Cue[] => {
      // What comes from another scene lands on the track that is chosen here.
      const trackId = tracks.has(c.trackId) ? c.trackId : onto;
      return trackId === undefined
        ? []
        : // A copy was not played, whatever it is a copy of.
          [{ ...c, id: ids[i], sceneId, trackId, at: c.at - first + at, locked: undefined, take: undefined }];
    });
    if (await scene.keepCues(`${what} ${nameOf(made)}`, made)) await select(made.map((c) => c.id));
  }

  function copy(): void {
    if (chosen.value.length === 0) return;
    copied.value = chosen.value.map((c) => ({ ...c }));
    tell.info(`${nameOf(chosen.value)} copied`);
  }
  const paste = () => inTurn(() => put(copied.value, transport.position, 'Paste'));

  /** Puts copies right behind what is selected. */
  const duplicate = () => inTurn(duplicateNow);
  async function duplicateNow(): Promise<void> {
    const cues = chosen.value;
    if (cues.length === 0) return;
    const spans = cues.map((c) => spanOf(c, RATE));
    const length = Math.ceil(Math.max(...spans.map((s) => s.end)) - Math.min(...spans.map((s) => s.start)));
    return put(cues, Math.min(...cues.map((c) => c.at)) + length, 'Duplicate');
  }

  const remove = () => inTurn(removeNow);
  async function removeNow(): Promise<void> {
    const gone = free.value;
    if (gone.length === 0) return chosen.value.length > 0 ? tell.info('What is selected is locked') : undefined;
    await scene.select(undefined);
    await scene.keepCues(`Remove ${nameOf(gone)}`, [], gone);
  }

  return {
    ...{
      change,
      letGo,
      selected,
      snapping,
      copied,
      chosen,
      free,
      isLocked,
      select,
      toggle,
      move,
      gain,
      set,
      shape,
      mute,
      lock,
    },
    ...{ trim, fade, formBy, cut, crossFade, copy, paste, duplicate, remove, lengths, nameOf },
  };
});
