import { startOnHost } from '@core/elsewhere';
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
import { useHost } from './host';
import { useScene } from './scene';
import { useTransport } from './transport';

/** Milliseconds between two looks at where everything is, and how far ahead quarter frames are handed to the port. */
const [LOOK, AHEAD] = [25, 120];
/** Frames by which the scene may be off what it follows before it is put right; and for how many milliseconds it is left alone then, to settle. */
const [OFF, SETTLES] = [0.5, 400];

/** The link of the scene's transport with another machine, each way: over MIDI by timecode and commands, or with the session host by its own. */
export const useLink = defineStore('link', () => {
  const scene = useScene();
  const transport = useTransport();
  const host = useHost();
  const state = ref<LinkState>('unasked');
  const ports = shallowRef<{ inputs: MidiPort[]; outputs: MidiPort[] }>({ inputs: [], outputs: [] });
  /** Ports, and what goes over them. */
  const how = useLocalStorage('midi-link', {
    ...{ input: '', output: '' },
    ...{ follow: false, obey: false, send: false, command: false },
  });
  /** The same with the session host: it is followed, or it follows. */
  const withHost = useLocalStorage('host-link', { follow: false, lead: false });

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
  /** Whether it does just now what another machine made it do: it is not told of that in turn. */
  let isMade = false;
  function run(...how: Parameters<typeof transport.run>): void {
    isMade = true;
    transport.run(...how);
    isMade = false;
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
    else if (fits(command.rate.name)) run(transport.playing, Math.max(0, sampleAt(command.frame)));
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

  /** What the host was asked for and has not answered: until then it is not followed. */
  let waits = 0;
  /** The sample of the scene at which the host is, by the timecode of both; undefined while that is not known. */
  function hostAt(now: number): { sample: number; playing: boolean } | undefined {
    const [there, of, session] = [host.positionAt(now), scene.current, host.state];
    if (!there || !of || !session) return undefined;
    return { playing: there.playing, sample: ((there.at - startOnHost(of, session)) * of.sampleRate) / session.rate };
  }
  function followHost(now: number): void {
    if (scene.work !== 'scene' || waits > 0) return;
    const there = hostAt(now);
    if (!there) return lose();
    if (there.playing) return goAlong(there.sample, now);
    if (driven || Math.abs(there.sample - transport.position) >= 1) stand(Math.round(there.sample));
  }
  watch(
    () => host.transport,
    () => {
      settled = 0;
      judged = true;
    },
    { flush: 'sync' },
  );

  function lose(): void {
    if (driven) run(false);
    driven = false;
  }
  function follow(now: number): void {
    const before = chasing.value;
    chasing.value = chase.state(now);
    const { last } = chase;
    if (!how.value.follow || !last || scene.work !== 'scene') return;
    hears.value = toTimecode(Math.max(0, Math.floor(last.frame)), last.rate);
    if (chasing.value === 'lost') {
      if (before !== 'lost') lose();
      return;
    }
    if (chasing.value !== 'locked' || !fits(last.rate.name)) return;
    const sample = sampleAt(chase.positionAt(now)!);
    if (last.direction > 0) return goAlong(sample, now);
    // Backward it waits there in silence.
    if (driven) run(false, Math.max(0, sample));
    driven = false;
  }
  /** Runs as another machine does. @param sample where that one is now */
  function goAlong(sample: number, now: number): void {
    if (sample < 0 || sample >= (scene.current?.length ?? 0)) {
      // Outside of the scene, it waits there in silence.
      if (driven) run(false, Math.max(0, sample));
      driven = false;
      return;
    }
    const heard = transport.playing ? transport.soundingAt(now) : undefined;
    if (heard !== undefined) off.value = (sample - heard) / perFrame.value;
    if (now - settled < SETTLES) return;
    if (driven && heard !== undefined && Math.abs(off.value) <= OFF) {
      judged = true;
      return;
    }
    if (driven && heard !== undefined && !judged && Math.abs(off.value) < 12) lead += off.value;
    judged = false;
    driven = true;
    settled = now;
    run(true, Math.max(0, Math.round(sample + lead * perFrame.value)), null, 1);
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

  // Commanding
  /** Whether others were told to play. */
  let runs = false;
  function command(what: 'play' | 'stop' | { locate: number }): void {
    if (how.value.command) {
      const bytes =
        typeof what === 'string'
          ? machineCommand({ type: what })
          : machineCommand({ type: 'locate', frame: frameAt(what.locate), rate: told.value.rate });
      link.send(bytes);
    }
    const [of, session] = [scene.current, host.state];
    if (!withHost.value.lead || !host.isHere || !of || !session) return;
    const at =
      typeof what === 'string'
        ? 0
        : Math.round((what.locate * session.rate) / of.sampleRate) + startOnHost(of, session);
    if (at < 0) return;
    waits++;
    void host.move(typeof what === 'string' ? { do: what } : { do: 'locate', at }).then(() => waits--);
  }
  watch(
    () => transport.asked,
    ({ on, from, ran }) => {
      if (isMade) runs = on;
      if (isMade || scene.work !== 'scene') return;
      if (!on && ran && runs) command('stop');
      if (from !== undefined || (on && !ran)) command({ locate: from ?? transport.position });
      if (on && !runs) command('play');
      runs = on;
    },
    { flush: 'sync' },
  );
  watch(
    () => transport.playing,
    (playing) => {
      // It came to its end by itself.
      if (!playing && runs) command('stop');
      runs &&= playing;
    },
  );

  let timer: ReturnType<typeof setInterval> | undefined;
  function look(): void {
    const now = performance.now();
    if (withHost.value.follow) followHost(now);
    else follow(now);
    tell(now);
  }
  const isUsed = computed(
    () => (state.value === 'ready' && (how.value.follow || how.value.send)) || (host.isHere && withHost.value.follow),
  );
  watch(isUsed, (used) => {
    clearInterval(timer);
    timer = used ? setInterval(look, LOOK) : undefined;
    if (used) return;
    chase.reset();
    chasing.value = 'nothing';
    driven = false;
  });

  return { state, ports, how, withHost, chasing, off, fault, hears, open: () => link.open() };
});
