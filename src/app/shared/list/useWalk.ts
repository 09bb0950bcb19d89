import { changeOf } from '@core/library';
import { until, useTimeoutFn } from '@vueuse/core';
import { onUnmounted, watch } from 'vue';
import { useRouter } from 'vue-router';
import { tell } from '../../shell/notice';
import { useAudition } from '../../stores/audition';
import { useFind } from '../../stores/find';
import { useLibrary } from '../../stores/library';
import { usePrefs } from '../../stores/prefs';
import { useScene } from '../../stores/scene';
import { catalogue } from '../../stores/workers';
import { useCommands } from '../controls/commands';
import { useChoose } from './useChoose';
import { things } from '../controls/format';

/** Walking through the listed sounds by key, hearing them, holding and spotting them: the same in Find and Label. */
export function useWalk(selected: () => readonly number[]) {
  const find = useFind();
  const library = useLibrary();
  const audition = useAudition();
  const scene = useScene();
  const prefs = usePrefs();
  const router = useRouter();

  const { chooseAt, walk, hold: holdThese } = useChoose();
  const hold = (ids: readonly number[] = selected()) => holdThese(ids);

  /** Goes to the last row, once all are here. */
  async function chooseLast(): Promise<void> {
    await until(() => find.answer.ids.length >= find.answer.count).toBe(true);
    return chooseAt(find.answer.ids.length - 1);
  }

  // Each sound for a while or to its end, whichever comes first; whoever stops a sound stops them all.
  const { start: wait, stop: waitNoMore } = useTimeoutFn(goOn, () => prefs.throughSeconds * 1000, { immediate: false });
  function goOn(): void {
    if (!audition.through) return;
    if (find.index + 1 >= find.answer.ids.length) return audition.stop();
    void chooseAt(find.index + 1, true);
    wait();
  }
  function playThrough(): void {
    audition.through = !audition.through;
    if (!audition.through) return audition.stop();
    void chooseAt(Math.max(0, find.index), true);
    wait();
  }
  watch(
    () => [audition.playing, audition.endings] as const,
    ([playing, endings], [, before]) => {
      if (playing || !audition.through) return;
      waitNoMore();
      if (endings !== before && find.index + 1 < find.answer.ids.length) goOn();
      else audition.through = false;
    },
  );
  onUnmounted(() => (audition.through = false));

  /** Takes sounds out of the pull that is shown. */
  function takeOut(): void {
    const pull = library.pulls.find((p) => p.id === find.view.pullId);
    const gone = new Set(selected());
    if (!pull || gone.size === 0) return;
    void library.setPull(
      pull,
      pull.soundIds.filter((id) => !gone.has(id)),
      `Take ${things(gone.size, 'sound')} out of ${pull.name}`,
    );
    tell.done(`Taken out of ${pull.name}; the library keeps it`);
  }

  /** Moves the current sound within the pull that is shown. */
  function reorder(by: number): void {
    const pull = library.pulls.find((p) => p.id === find.view.pullId);
    const id = find.view.soundId;
    if (!pull || id === undefined) return;
    const from = pull.soundIds.indexOf(id);
    const to = from + by;
    if (from < 0 || to < 0 || to >= pull.soundIds.length) return;
    const ids = [...pull.soundIds];
    [ids[from], ids[to]] = [ids[to], ids[from]];
    void library.setPull(pull, ids, `Reorder ${pull.name}`);
  }

  /** Sounds of this list that were picked already; a list that is all picked begins anew. */
  let picked = new Set<number>();
  let last: number | undefined;

  /** Goes to a sound of the list at random, to none twice until all were picked. */
  function pick(): void {
    const { ids } = find.answer;
    let left = Array.from(ids).filter((id) => !picked.has(id));
    if (left.length === 0) {
      picked = new Set();
      // What was picked last is not picked twice in a row.
      left = Array.from(ids).filter((id) => id !== last || ids.length === 1);
    }
    const id = left[Math.floor(Math.random() * left.length)];
    if (id === undefined) return;
    picked.add(id);
    last = id;
    void chooseAt(ids.indexOf(id), true);
  }

  /** Steps back or forward through what was heard, also to sounds that the list does not show now. */
  async function stepHeard(by: number): Promise<void> {
    const id = audition.stepHeard(by);
    if (id === undefined) return tell.info(by < 0 ? 'Nothing was heard before this' : 'This was heard last');
    const [sound] = await library.need([id]);
    if (!sound) return;
    find.drift({ soundId: id });
    audition.chooseHeard(sound);
  }

  /** Sounds that are being set aside; the list may still show them. */
  const leaving = new Set<number>();

  /** Hides sounds for now; nothing is deleted, and all come back at once. */
  async function setAside(): Promise<void> {
    const ids = selected();
    if (ids.length === 0) return;
    for (const id of ids) leaving.add(id);
    // At once: whoever presses the key again means the next one.
    const stays = (id: number) => !leaving.has(id);
    const rows = Array.from(find.answer.ids);
    const next = rows.slice(find.index + 1).find(stays) ?? rows.slice(0, Math.max(0, find.index)).findLast(stays);
    if (next !== undefined) find.drift({ soundId: next });
    const sounds = await library.need(ids);
    const label = `Set aside ${things(sounds.length, 'sound')}`;
    const done = await library.edit(
      label,
      sounds.map((s) => changeOf('sounds', s, { hidden: 'aside' })),
    );
    for (const id of ids) leaving.delete(id);
    if (done) tell.done(`${label}; “Bring back all that was set aside” shows them again`);
    else find.drift({ soundId: ids[0] });
  }

  async function bringBack(): Promise<void> {
    const aside = (await catalogue.hidden()).filter((s) => s.hidden === 'aside');
    if (aside.length === 0) return tell.info('Nothing is set aside');
    const label = `Bring back ${things(aside.length, 'sound')}`;
    const changes = aside.map((s) => changeOf('sounds', s, { hidden: undefined }));
    if (await library.edit(label, changes)) tell.done(label);
  }

  async function spot(): Promise<void> {
    await scene.spot(audition.sound);
  }

  const inPull = () => find.view.pullId !== undefined;
  useCommands('Going through the list', [
    { label: 'Next sound', keys: ['ArrowDown'], run: () => walk(1), inText: true },
    { label: 'Previous sound', keys: ['ArrowUp'], run: () => walk(-1), inText: true },
    { label: 'A page further', keys: ['PageDown'], run: () => walk(10) },
    { label: 'A page back', keys: ['PageUp'], run: () => walk(-10) },
    { label: 'First sound', keys: ['Home'], run: () => void chooseAt(0) },
    { label: 'Last sound', keys: ['End'], run: () => void chooseLast() },
    { label: 'Play or stop', purpose: 'Listening', keys: ['Space'], run: () => audition.goDown() },
    { label: 'Play the list through', purpose: 'Listening', keys: ['l'], run: playThrough },
    { label: 'Stop', purpose: 'Listening', keys: ['k'], run: () => audition.stop() },
    { label: 'Random pick', purpose: 'Finding', keys: ['x'], run: pick },
    { label: 'Back through what was heard', keys: ['b'], run: () => void stepHeard(-1) },
    { label: 'Forward through what was heard', keys: ['Shift+b'], run: () => void stepHeard(1) },
    { label: 'Set aside', keys: ['h'], run: () => void setAside() },
    { label: 'Bring back all that was set aside', keys: ['Shift+h'], run: () => void bringBack() },
    { label: 'Take out of this list', keys: ['Delete', 'Backspace'], run: takeOut, enabled: inPull },
    { label: 'Move up in this list', keys: ['Alt+ArrowUp'], run: () => reorder(-1), enabled: inPull },
    { label: 'Move down in this list', keys: ['Alt+ArrowDown'], run: () => reorder(1), enabled: inPull },
    {
      label: 'Spot, and go to the scene',
      purpose: 'Using a sound',
      keys: ['Shift+Enter'],
      run: () => void spot().then(() => router.push({ name: 'spot' })),
    },
  ]);
  return { chooseAt, playThrough, walk, hold, takeOut, reorder, spot, inPull, pick, setAside };
}
