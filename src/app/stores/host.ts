import { cuePartsOf, fits, partsOf, startOnHost, type Fit, type HostPart, type SendHow } from '@core/elsewhere';
import { nameOf, type Sound } from '@core/library';
import { lengthOfScene, mixDepths, type Cue } from '@core/scene';
import type { HostPiece, HostState, HostTransport } from '@core/schemas';
import { HostLink, startMixer, type HostConnection, type Loadable, type Workstation } from '@platform/index';
import { useLocalStorage } from '@vueuse/core';
import { proxy } from 'comlink';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef } from 'vue';
import { things } from '../shared/controls/format';
import { draggedAway } from '../shared/take/drag';
import { tell } from '../shell/notice';
import { useLibrary } from './library';
import { useScene } from './scene';
import { useServices } from './services';

/** Something that was sent, and can be taken back. */
export interface SentTo {
  step: number;
  label: string;
  /** What the host said of it. */
  said: string;
}

/** Says why something is not done. */
function no(why: string, as: 'error' | 'info' = 'error'): false {
  tell[as](why);
  return false;
}

/** How many of these are remembered. */
const REMEMBERED = 20;

/** The session host: a workstation that runs beside, to which sounds and scenes are sent. */
export const useHost = defineStore('host', () => {
  const library = useLibrary();
  const scene = useScene();

  const address = ref('');
  const connection = ref<HostConnection>('connecting');
  const state = shallowRef<HostState>();
  const transport = shallowRef<HostTransport>();
  /** How sounds are sent. */
  const how = useLocalStorage<SendHow>('host-send', {
    ...{ together: 'behind', lands: 'start', fit: 'cut', handles: 1, edges: 'kept' },
  });
  if (!fits.includes(how.value.fit)) how.value.fit = 'cut' satisfies Fit;
  let link: Workstation | undefined;

  /** Looks once whether there is one, and meets it. */
  let looked: Promise<void> | undefined;
  const look = (): Promise<void> => (looked ??= lookNow());
  async function lookNow(): Promise<void> {
    const { host: base } = await useServices().look();
    if (base === undefined) return;
    address.value = new URL(base, location.href).href;
    const made = new HostLink(address.value, `Cormorant`, {
      connection: (now) => {
        connection.value = now;
        if (now !== 'connected') transport.value = undefined;
      },
      state: (now) => {
        state.value = now;
        made.rate = now.rate;
      },
      transport: (now) => (transport.value = now),
      wanted: (track, at) => void wanted(track, at),
    });
    link = made;
    made.connect();
  }
  const isHere = computed(() => connection.value === 'connected' && state.value !== undefined);

  // Sending
  const sending = ref<{ label: string; share: number; waits: string }>();
  const sent = shallowRef<readonly SentTo[]>([]);
  let stop = new AbortController();
  const cancel = () => stop.abort();

  /** Renders parts, sends their files, and has them placed as one step. */
  async function send(
    label: string,
    parts: readonly HostPart[],
    items: readonly Loadable[],
    tracks?: string[],
  ): Promise<boolean> {
    if (!link || !state.value || sending.value) return false;
    stop = new AbortController();
    const { signal } = stop;
    sending.value = { label, share: 0, waits: '' };
    const worker = startMixer();
    const ended = new Promise<never>((_, fail) => signal.addEventListener('abort', () => fail(signal.reason as Error)));
    ended.catch(() => undefined);
    const told = (share: number) => sending.value && (sending.value = { ...sending.value, share });
    const waits = (why: string) => sending.value && (sending.value = { ...sending.value, waits: why });
    try {
      const depth = mixDepths.find((d) => d.bits === state.value!.bits && !d.flac && !d.float)!;
      const pieces: HostPiece[] = [];
      const lost: string[] = [];
      let clipped = 0;
      for (const [i, part] of parts.entries()) {
        const { scene: of, cues, effects, part: span, mono } = part;
        const plain = JSON.parse(JSON.stringify({ of, lines: { tracks: part.tracks, effects }, cues })) as {
          of: HostPart['scene'];
          lines: { tracks: HostPart['tracks']; effects: HostPart['effects'] };
          cues: Cue[];
        };
        const form = { ...depth, rate: state.value.rate, mono };
        // Files are alike where their sounds are: the date is that of the day.
        const date = new Date(new Date().toISOString().slice(0, 10));
        const rendered = worker.mixer.mix(
          ...[
            plain.of,
            plain.lines,
            plain.cues,
            [...items],
            proxy((share: number) => void told((i + share) / parts.length)),
          ],
          ...[date, span.end, form, span.start],
        );
        const made = await Promise.race([rendered, ended]);
        lost.push(...made.missing.map((m) => `${m.name}: ${m.reason}`));
        clipped += made.clipped;
        const file = await link.send(made.file, signal);
        const frames = Math.min(part.piece.frames, made.frames);
        const from = Math.min(part.piece.from, frames - 1);
        pieces.push({ ...part.piece, file, frames, from, length: Math.min(part.piece.length, frames - from) });
      }
      if (lost.length > 0) throw new Error(`${lost[0]}${lost.length > 1 ? `, and ${lost.length - 1} more` : ''}`);
      const answer = await link.act({ do: 'place', label, pieces, ...(tracks ? { tracks } : {}) }, waits, signal);
      if (answer.step !== undefined)
        sent.value = [{ step: answer.step, label, said: answer.said }, ...sent.value].slice(0, REMEMBERED);
      const loud = clipped > 0 ? ` ${things(clipped, 'sample')} went over full scale.` : '';
      tell.done(`${label}: ${answer.said}${loud}`);
      return true;
    } catch (error) {
      if (signal.aborted) tell.info(`${label} was not sent`);
      else tell.error(`${label} was not sent: ${(error as Error).message}`);
      return false;
    } finally {
      worker.end();
      sending.value = undefined;
    }
  }
  function away(): string {
    if (!link) return 'No session host is known. Start with --host and its address.';
    if (connection.value === 'newer') return 'The session host is of a newer version. Bring Cormorant up to date.';
    if (!isHere.value) return 'The session host is gone. Start it; it is met by itself.';
    return sending.value ? `${sending.value.label} is being sent; wait for it, or cancel it` : '';
  }
  const itemsOf = (sounds: readonly Sound[]) =>
    sounds.flatMap((s) => library.loadable(s) ?? []).map((i) => ({ sound: { ...i.sound }, root: { ...i.root } }));

  /** Sends sounds to the cursor or the range of the host. @param at the sample on which they begin, where that is neither */
  async function sendSounds(sounds: readonly Sound[], at?: number): Promise<boolean> {
    const why = away();
    if (why) return no(why);
    if (sounds.length === 0) return no('There is no sound to send', 'info');
    try {
      const { rate, cursor, range } = state.value!;
      const where = at !== undefined ? { rate, cursor: at } : { rate, cursor, ...(range ? { range } : {}) };
      const parts = partsOf(sounds, how.value, where);
      const label = sounds.length === 1 ? nameOf(sounds[0]) : things(sounds.length, 'sound');
      return await send(label, parts, itemsOf(sounds));
    } catch (error) {
      return no((error as Error).message);
    }
  }
  /** A hand let go of our sounds over a track there. */
  async function wanted(track: number, at: number): Promise<void> {
    const ids = draggedAway();
    if (ids.length === 0 || !link) return;
    await link.act({ do: 'select', track });
    await sendSounds(await library.need([...ids]), at);
  }

  /** Sends the scene as one mix, where it stands by timecode. */
  async function sendMix(): Promise<boolean> {
    const [why, of] = [away(), scene.current];
    if (why || !of) return no(why || 'There is no scene');
    const start = startOnHost(of, state.value!);
    if (start < 0) return no('The scene begins before the session does: give it a later timecode.');
    const end = lengthOfScene(of, scene.cues);
    const frames = Math.ceil((end * state.value!.rate) / of.sampleRate);
    const piece = {
      lane: 0,
      name: `${of.name}, mix`,
      at: start,
      length: frames,
      from: 0,
      frames,
      gain: 0,
      fadeIn: 0,
      fadeOut: 0,
    };
    const part: HostPart = {
      scene: of,
      tracks: [...scene.lines],
      cues: [...scene.cues],
      effects: [...scene.effects],
      part: { start: 0, end },
      mono: false,
      piece,
    };
    return send(`Mix of ${of.name}`, [part], await scene.itemsOf(scene.cues), [`${of.name}, mix`]);
  }

  /** Sends cues of the scene one by one, where they stand by timecode. @param only ids; all that are heard when absent */
  async function sendCues(only?: ReadonlySet<number>): Promise<boolean> {
    const [why, of] = [away(), scene.current];
    if (why || !of) return no(why || 'There is no scene');
    const start = startOnHost(of, state.value!);
    const cues = scene.cues.filter((c) => !only || only.has(c.id));
    const known = new Map((await library.need(cues.map((c) => c.soundId))).map((s) => [s.id, s]));
    const handle = how.value.edges === 'kept' ? how.value.handles : 0;
    const frames = (id: number) => known.get(id)?.format.frames;
    const { tracks, parts } = cuePartsOf(of, scene.lines, cues, scene.effects, state.value!, handle, start, frames);
    if (parts.length === 0) return no('No cue is heard', 'info');
    const label = only ? things(parts.length, 'cue') : `Cues of ${of.name}`;
    return send(label, parts, await scene.itemsOf(cues), tracks);
  }

  /** Takes back what was sent; what was changed there since stays, and is told. */
  async function takeBack(what: SentTo): Promise<void> {
    try {
      const { said } = await link!.act({ do: 'undo', step: what.step });
      sent.value = sent.value.filter((s) => s !== what);
      tell.done(said);
    } catch (error) {
      tell.error((error as Error).message);
    }
  }
  /** What was taken back there is not offered any more. */
  const takenBack = computed(() => {
    const there = new Set(state.value?.steps.map((s) => s.id));
    return sent.value.filter((s) => there.has(s.step));
  });

  /** Has its transport do something; resolves once it said what it does, or that it does not. */
  async function move(action: { do: 'play' } | { do: 'stop' } | { do: 'locate'; at: number }): Promise<void> {
    await link?.act(action).catch((error: Error) => tell.error(error.message));
  }
  const positionAt = (now: number) => (isHere.value ? link?.positionAt(now) : undefined);

  return {
    ...{ address, connection, isHere, state, transport, how, look },
    ...{ sending, sent: takenBack, cancel, sendSounds, sendMix, sendCues, takeBack, move, positionAt },
  };
});
