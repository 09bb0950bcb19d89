import {
  computerKeys,
  controllerName,
  keyRatio,
  Keys,
  rootKey,
  velocityGain,
  type KeyEvent,
  type Note,
} from '@core/engine';
import { Midi, type Instrument, type MidiState } from '@platform/index';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { commands } from '../shared/controls/commands';
import { usePlayedKeys } from '../shared/controls/played-keys';
import { useAudition } from './audition';
import { usePrefs } from './prefs';

/** A key's velocity where it comes from one that knows none. */
const USUAL_VELOCITY = 127;
const MOST = 127;

/** Takes what a controller does, and says whether that was for it. @param value 0 to 1 */
type OnControl = (control: number, value: number) => boolean;

/** Something that keys play in place of the current sound. */
export interface Other {
  name: string;
  /** @param velocity 0 to 1 */
  press: (key: number, note: Note, velocity: number) => void;
  lift: (key: number) => void;
  silence: () => void;
}

/** Playing the current sound from keys: those of the computer while armed, and of MIDI instruments on every screen. */
export const useInstrument = defineStore('instrument', () => {
  const audition = useAudition();
  const prefs = usePrefs();
  /** Whether the computer's keys play, and mean nothing else meanwhile. */
  const armed = ref(false);
  /** Octaves by which the computer's keys and the drawn ones are moved. */
  const octave = ref(0);
  const state = ref<MidiState>('unasked');
  const instruments = shallowRef<Instrument[]>([]);
  /** The command that the next key or controller of an instrument is to do. */
  const learning = ref<string>();
  const keys = new Keys();
  /** What keys play in place of the current sound. */
  const other = shallowRef<Other>();
  watch(other, (_, before) => before?.silence());

  /** The key at which the current sound is as it is; may lie between two where it was measured. */
  const root = computed(() => {
    // What is made of several has no pitch of its own: it is as it is at middle C.
    const { rootNote, pitch } = (other.value ? undefined : audition.sound?.fields) ?? {};
    return rootKey(rootNote, pitch);
  });
  /** The nearest key to that, for those that have no pitch of their own. */
  const home = computed(() => Math.round(root.value));

  function take(event: KeyEvent, from: number): void {
    if (event.type === 'press') {
      const gain = prefs.velocity ? velocityGain(event.velocity) : 1;
      const note = { ratio: keyRatio(event.key, from), gain };
      if (other.value) other.value.press(event.key, note, event.velocity / MOST);
      else audition.press(event.key, note);
    }
    for (const key of keys.take(event)) (other.value ?? audition).lift(key);
  }

  /** A key of the computer or a drawn one goes down or up. */
  function press(key: number): void {
    take({ type: 'press', key, velocity: USUAL_VELOCITY }, home.value);
  }
  function lift(key: number): void {
    take({ type: 'lift', key }, home.value);
  }
  function silence(): void {
    take({ type: 'silence' }, home.value);
    audition.liftAll();
    other.value?.silence();
  }

  /** What an instrument's key or controller is known as where it does a command. */
  function nameOf(event: KeyEvent): string | undefined {
    if (event.type === 'press') return `Key ${event.key}`;
    return event.type === 'control' ? controllerName(event.control) : undefined;
  }

  /** Where each controller stood, so that one that is turned does its command once. */
  const stood = new Map<number, number>();
  /** Who else plays by keys of an instrument now. @returns whether the event was theirs */
  const player = shallowRef<(event: KeyEvent, time: number) => boolean>();
  /** Who else hears what controllers do, by what they are for. */
  const listeners = new Map<string, OnControl>();
  /** Has somebody hear what controllers do, or not any more. */
  function hear(who: string, onControl: OnControl | undefined): void {
    if (onControl) listeners.set(who, onControl);
    else listeners.delete(who);
  }
  function onMidi(event: KeyEvent, time: number): void {
    if (!learning.value && event.type === 'control') {
      const { control, value } = event;
      if ([...listeners.values()].some((onControl) => onControl(control, value / MOST))) return;
    }
    if (!learning.value && player.value?.(event, time)) return;
    const name = nameOf(event);
    if (name && learning.value) {
      prefs.midiCommands = { ...prefs.midiCommands, [name]: learning.value };
      learning.value = undefined;
      if (event.type === 'control') stood.set(event.control, event.value);
      return;
    }
    if (event.type === 'control') {
      const before = stood.get(event.control) ?? 0;
      stood.set(event.control, event.value);
      if (before >= 64 || event.value < 64) return;
    }
    const label = name && prefs.midiCommands[name];
    if (!label) return take(event, root.value);
    const command = commands.flat().find((c) => c.label === label && (!c.enabled || c.enabled()));
    command?.run();
  }

  const midi = new Midi(onMidi, (next, found) => {
    state.value = next;
    instruments.value = found;
  });

  /** Asks the browser for instruments and listens to the one that was chosen. */
  function listen(): void {
    prefs.midi = true;
    void midi.listen(prefs.midiInput);
  }
  /** Goes on listening where somebody did so before. */
  function begin(): void {
    if (prefs.midi) listen();
  }
  watch(
    () => prefs.midiInput,
    () => prefs.midi && listen(),
  );
  watch(
    () => prefs.voices,
    (limit) => audition.setVoices(limit),
    { immediate: true },
  );

  /** A command is no longer done by this key or controller. */
  function forget(name: string): void {
    const { [name]: _, ...others } = prefs.midiCommands;
    prefs.midiCommands = others;
  }

  /** The key that each of the computer's keys began, so that it ends the same one if the octave moved meanwhile. */
  const down = new Map<string, number>();
  const letGo = usePlayedKeys({
    armed: () => armed.value,
    plays: (code) => computerKeys.has(code),
    press(code) {
      const key = home.value + 12 * octave.value + computerKeys.get(code)!;
      down.set(code, key);
      press(key);
    },
    lift(code) {
      const key = down.get(code);
      down.delete(code);
      if (key !== undefined) lift(key);
    },
    leave: () => void (armed.value = false),
  });
  watch(armed, (is) => {
    if (is) return;
    letGo();
    silence();
  });

  return {
    armed,
    octave,
    root,
    home,
    state,
    instruments,
    learning,
    player,
    hear,
    other,
    press,
    lift,
    silence,
    listen,
    begin,
    forget,
  };
});
