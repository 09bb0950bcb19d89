import {
  Chase,
  fullFrame,
  machineCommand,
  mtcRateOf,
  quarterFrame,
  quartersBetween,
  toTimecode,
  type ChaseState,
  type MachineMessage,
} from '@core/scene';
import { MidiLink, type LinkState, type MidiPort } from '@platform/index';
import { useLocalStorage } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { useScene } from './scene';
import { useTransport } from './transport';

/** Milliseconds between two looks at where everything is, and how far ahead quarter frames are handed to the port. */
const [LOOK, AHEAD] = [25, 120];
/** Frames by which the scene may be off what it follows before it is put right; and for how many milliseconds it is left alone then, to settle. */
const [OFF, SETTLES] = [0.5, 400];

/** The link of the scene's transport with another machine, over MIDI: timecode and commands, each way. */
export const useLink = defineStore('link', () => {
  const scene = useScene();
  const transport = useTransport();
  const state = ref<LinkState>('unasked');
  const ports = shallowRef<{ inputs: MidiPort[]; outputs: MidiPort[] }>({ inputs: [], outputs: [] });
  /** Ports, and what goes over them. */
  const how = useLocalStorage('midi-link', {
    ...{ input: '', output: '' },
    ...{ follow: false, obey: false, send: false, command: false },
  });

  const link = new MidiLink(onMessage, (now, found) => {
    state.value = now;
    ports.value = found;
  });
  watch(
    () => [how.value.input, how.value.output],
    ([input, output]) => link.choose(input, output),
    { immediate: true },
  );

  // Positions: samples of the scene, and frames of the rate by which it is told, from midnight.
  const told = computed(() => mtcRateOf(scene.rate));
  const perFrame = computed(
    () => ((scene.current?.sampleRate ?? 48_000) * scene.rate.den * told.value.each) / scene.rate.num,
  );
  const startFrame = computed(() => (scene.current?.startFrame ?? 0) / told.value.each);
  const frameAt = (sample: number) => startFrame.value + sample / perFrame.value;
  const sampleAt = (frame: number) => Math.round((frame - startFrame.value) * perFrame.value);

  // Following
  const chase = new Chase();
  const chasing = ref<ChaseState>('nothing');
  /** Frames by which the scene is behind what it follows; negative where it is ahead. */
  const off = ref(0);
  /** What is wrong with what comes in; empty where nothing is. */
  const fault = ref('');
  const hears = ref('');
  /** Frames by which it has to set out ahead to be heard in time: learned as it goes. */
  let lead = 0;
  let settled = 0;
  /** Whether the last setting out was looked at: only what it was off by at once is its lead's fault, and what comes later is drift. */
  let judged = true;
  /** Whether it runs because the other machine does. */
  let driven = false;
  /** What the other machine made it do, playing or not: it is not told of that in turn. */
  let made: boolean | undefined;
  function run(...[playing, ...rest]: Parameters<typeof transport.run>): void {
    if (transport.playing !== playing) made = playing;
    transport.run(playing, ...rest);
  }

  function onMessage(message: MachineMessage, time: number): void {
    if (message.type === 'quarter') {
      if (!how.value.follow || !chase.take(message, time)) return;
      settled = 0;
      judged = true;
      return;
    }
    if (scene.work !== 'scene') return;
    if (message.type === 'full') {
      if (how.value.follow && fits(message.rate.name)) stand(sampleAt(message.frame));
      return;
    }
    if (!how.value.obey) return;
    const { command } = message;
    if (command.type === 'play') run(true, undefined, undefined, 1);
    else if (command.type !== 'locate') run(false);
    else if (fits(command.rate.name)) transport.seek(Math.max(0, sampleAt(command.frame)));
  }
  function fits(name: string): boolean {
    const { rate } = told.value;
    fault.value = name === rate.name ? '' : `It counts ${name} frames a second, and this scene ${rate.name}.`;
    return fault.value === '';
  }
  function stand(sample: number): void {
    chase.reset();
    driven = false;
    run(false, Math.max(0, sample));
  }

  function follow(now: number): void {
    const before = chasing.value;
    chasing.value = chase.state(now);
    const { last } = chase;
    if (!how.value.follow || !last || scene.work !== 'scene') return;
    hears.value = toTimecode(Math.max(0, Math.floor(last.frame)), last.rate);
    if (chasing.value === 'lost') {
      if (before !== 'lost' && driven) {
        run(false);
        driven = false;
      }
      return;
    }
    if (chasing.value !== 'locked' || !fits(last.rate.name)) return;
    const there = chase.positionAt(now)!;
    const sample = sampleAt(there);
    if (last.direction < 0 || sample < 0 || sample >= (scene.current?.length ?? 0)) {
      // Backward, and outside of the scene, it waits there in silence.
      if (driven) run(false, Math.max(0, sample));
      driven = false;
      return;
    }
    const heard = transport.playing ? transport.soundingAt(now) : undefined;
    if (heard !== undefined) off.value = there - frameAt(heard);
    if (now - settled < SETTLES) return;
    if (driven && heard !== undefined && Math.abs(off.value) <= OFF) {
      judged = true;
      return;
    }
    if (driven && heard !== undefined && !judged && Math.abs(off.value) < 12) lead += off.value;
    judged = false;
    driven = true;
    settled = now;
    run(true, Math.max(0, sampleAt(there + lead)), null, 1);
  }

  // Telling
  let sent: number | undefined;
  function tell(now: number): void {
    if (!how.value.send || !scene.current || scene.work !== 'scene') {
      sent = undefined;
      return;
    }
    const { rate } = told.value;
    const from = transport.playing ? transport.soundingAt(now) : undefined;
    if (from === undefined) {
      if (sent !== undefined) {
        link.drop();
        link.send(fullFrame(frameAt(transport.position), rate));
      }
      sent = undefined;
      return;
    }
    const here = frameAt(from);
    const perMs = (transport.speed * scene.current.sampleRate) / 1000 / perFrame.value;
    const until = here + AHEAD * perMs;
    // Elsewhere than what was sent led to: it jumped.
    if (sent === undefined || Math.abs(sent - here) > Math.abs(AHEAD * perMs) + 1) {
      link.drop();
      link.send(fullFrame(here, rate));
      // Eights begin on even frames.
      sent = transport.speed < 0 ? Math.floor(here / 2) * 2 - 0.25 : Math.ceil(here / 2) * 2;
    }
    for (const n of quartersBetween(sent, until)) {
      link.send(quarterFrame(n, rate), now + (n / 4 - here) / perMs);
      sent = (n + Math.sign(perMs)) / 4;
    }
  }

  watch(
    () => transport.playing,
    (playing) => {
      const ownWish = playing !== made;
      made = undefined;
      if (!how.value.command || !ownWish || driven || scene.work !== 'scene') return;
      if (!playing) return void link.send(machineCommand({ type: 'stop' }));
      link.send(machineCommand({ type: 'locate', frame: frameAt(transport.position), rate: told.value.rate }));
      link.send(machineCommand({ type: 'play' }));
    },
  );

  let timer: ReturnType<typeof setInterval> | undefined;
  function look(): void {
    const now = performance.now();
    follow(now);
    tell(now);
  }
  const isUsed = computed(() => state.value === 'ready' && (how.value.follow || how.value.send));
  watch(isUsed, (used) => {
    clearInterval(timer);
    timer = used ? setInterval(look, LOOK) : undefined;
    if (used) return;
    chase.reset();
    chasing.value = 'nothing';
    driven = false;
  });

  return { state, ports, how, chasing, off, fault, hears, open: () => link.open() };
});
