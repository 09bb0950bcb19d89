import { stretchedRegion, stretchOf } from '@core/audio';
import {
  differences,
  emptyPlan,
  LOOKED,
  needsOf,
  type Audition,
  type Command,
  type GraphPlan,
  type Note,
  type Status,
  type Struck,
} from '@core/engine';
import type { Remote } from 'comlink';
import { transfer } from 'comlink';
import workletUrl from './engine.worklet.ts?worker&url';
import { materialId, type AudioLoader, type PlayPlan, type Loadable } from './loader';
import { loadablePlan, type LoadablePlan } from './scene-items';
import { StretchedIds } from './stretch';

/** Output and scenes run at this rate. */
export const RATE = 48000;

/** Frames of the neighbours of a row that are loaded before they are asked for: a second and a half. */
const READY = 1.5;
/** Seconds that are loaded when a sound is asked for; more follows while it plays. */
const SOON = 10;
/** A key or click so long ago led to something else. Milliseconds. */
const LATE = 1000;
/** Seconds of a sound that are loaded when a key plays it. */
const AHEAD = 60;
/** Decoded bytes up to which all of a scene is held; of a larger one what lies about the playhead. */
const SCENE_ROOM = 240 << 20;
/** Seconds of a larger scene that are held before and behind its playhead, and where its loop begins; and how far it runs until more is loaded. */
const [BEHIND, BEFORE, ROUND, RUN] = [5, 60, 20, 15];
/** Seconds beside a loop that its joining looks at; more than the engine's seam. */
const JOINED = 0.1;

/** What is known of the audio output. */
export interface Output {
  state: string;
  /** Hz */
  rate: number;
  /** Seconds that the browser and the device add behind the engine. */
  base: number;
  device: number;
  /** Seconds by its own clock. */
  time: number;
}

/** What cannot be made ready is told of when somebody plays it. */
const notYet = () => undefined;

/** What makes the lines of one plan those of another; its clips are struck one by one. */
const linesOnly = (before: GraphPlan, after: GraphPlan) =>
  differences({ ...before, clips: emptyPlan.clips }, { ...after, clips: emptyPlan.clips });

/** What is said when there is no engine to say it. */
const silent = (playId: number, turn: number, position: number): Status => ({
  playId,
  keys: [],
  scene: { turn, playing: false, position, speed: 1, missing: 0, late: [] },
  peaks: [0, 0],
  began: true,
});

/** The engine in its AudioWorklet, and the worker that feeds it. Started by the first gesture, as browsers ask. */
export class Player {
  private context: AudioContext | undefined;
  private node: AudioWorkletNode | undefined;
  private starting: Promise<void> | undefined;
  private waiting: Command[] = [];
  /** Rises with every sound that is asked for; see `Status.playId`. */
  playId = 0;
  /** What sounds of an item, and how many times as long as the sound it is. */
  private sounding: { item: Loadable; length: number } | undefined;
  /** The scene as it was handed over last: a new output needs it again. */
  private scene: LoadablePlan = { plan: emptyPlan, items: new Map() };
  private loop: { start: number; end: number } | null = null;
  /** Where the scene was when it was loaded last; undefined where all of it is held. Samples. */
  private fedAt: number | undefined;
  private feeding = 0;
  /** Where the scene was last. Samples */
  private position = 0;
  private backward = false;
  /** Rises with every time that the scene is run, stopped or moved; see `Status.scene`. */
  turn = 0;
  /** Where the scene was when the engine said so last. */
  private clock: { time: number; position: number; speed: number } | undefined;
  private voices = 32;
  private metering: { on: boolean; insert?: number } = { on: false };
  private inputAt = -Infinity;
  /** What was asked for last, and when. Milliseconds since 1970 */
  private pressed: { playId: number; at: number; item: Loadable } | undefined;
  private readonly stretched = new StretchedIds();
  /** The build that keys play, with all that may be struck of it. */
  private build: LoadablePlan & { plain: readonly Loadable[] } = { plan: emptyPlan, items: new Map(), plain: [] };
  private strikes: { limit: number; gives: 'first' | 'quietest' } = { limit: 16, gives: 'first' };

  constructor(
    private readonly loader: Remote<AudioLoader>,
    private readonly onStatus: (status: Status) => void,
    private readonly onError: (error: Error) => void,
    /** Told how long it took from a key or click to the first block of what it played. ms */
    private readonly onLatency: (ms: number, item: Loadable) => void = () => undefined,
  ) {
    for (const type of ['keydown', 'pointerdown'] as const)
      addEventListener(type, (event) => (this.inputAt = event.timeStamp), { capture: true });
  }

  /** When the key or click came that led to what is asked for; now where none did. Milliseconds since 1970 */
  private asked(): number {
    const { inputAt } = this;
    this.inputAt = -Infinity;
    const now = performance.now();
    return performance.timeOrigin + (now - inputAt < LATE ? inputAt : now);
  }

  /** Makes the engine ready; may be called any number of times. One that could not begin is tried anew at the next call. */
  start(): Promise<void> {
    return (this.starting ??= this.begin().catch((error: Error) => {
      this.end();
      throw new Error(
        `the audio output could not be opened (${error.message}). Check the output device, then play again`,
      );
    }));
  }

  private async begin(): Promise<void> {
    const context = (this.context = new AudioContext({ sampleRate: RATE, latencyHint: 'interactive' }));
    // A device that fails or is taken away: what is asked for next opens the one that is there then.
    context.addEventListener('error', () => this.context === context && this.end());
    context.onstatechange = () => {
      if (this.context !== context) return;
      if (context.state === 'closed') this.end();
      // After sleep, or when another program had the device for itself.
      else if ((context.state as string) === 'interrupted') void context.resume().catch(() => this.end());
    };
    await context.audioWorklet.addModule(workletUrl);
    this.node = new AudioWorkletNode(context, 'cormorant-engine', { numberOfInputs: 0, outputChannelCount: [2] });
    this.node.onprocessorerror = () => this.end();
    const { port1, port2 } = new MessageChannel();
    this.node.port.postMessage({ type: 'connect', port: port1 }, [port1]);
    await this.loader.connect(transfer(port2, [port2]));
    this.node.port.onmessage = (event: MessageEvent<Status>) => this.hear(event.data);
    this.node.connect(context.destination);
    this.node.port.postMessage({ type: 'voices', limit: this.voices } satisfies Command);
    this.node.port.postMessage({ type: 'meters', ...this.metering } satisfies Command);
    const changes = differences(emptyPlan, this.scene.plan);
    this.node.port.postMessage({ type: 'graph', changes, anew: true } satisfies Command);
    this.tellBuild({ type: 'build', changes: linesOnly(emptyPlan, this.build.plan), anew: true });
    this.tellBuild({ type: 'strikes', ...this.strikes });
    // Another output has nothing of its sounds yet, and knows nothing of where the scene is.
    const { position, loop, turn } = this;
    this.node.port.postMessage({ type: 'transport', playing: false, position, loop, turn } satisfies Command);
    void this.feed(this.fedAt ?? 0);
    void this.feedBuild();
    for (const command of this.waiting) this.node.port.postMessage(command);
    this.waiting = [];
  }

  /** Lets go of an output that is of no more use; the next thing that is played opens another. */
  private end(): void {
    const { context } = this;
    this.context = this.node = this.starting = undefined;
    this.waiting = [];
    if (context && context.state !== 'closed') void context.close().catch(() => undefined);
    this.onStatus(silent(this.playId, this.turn, this.position));
  }

  private send(command: Command): void {
    void this.start().catch(this.onError);
    if (this.context?.state === 'suspended') void this.context.resume().catch(() => this.end());
    if (this.node) this.node.port.postMessage(command);
    else this.waiting.push(command);
  }

  private hear(status: Status): void {
    const { pressed } = this;
    if (pressed && status.playId === pressed.playId && status.firstAt !== undefined) {
      this.pressed = undefined;
      this.onLatency(Math.max(0, status.firstAt - pressed.at), pressed.item);
    }
    const { playing, position } = status.scene;
    if (playing && this.fedAt !== undefined && Math.abs(position - this.fedAt) > RUN * RATE) void this.feed(position);
    const { time, scene } = status;
    if (scene.turn === this.turn) this.position = position;
    this.clock =
      playing && time !== undefined && scene.turn === this.turn
        ? { time, position: position - (scene.latency ?? 0) * scene.speed, speed: scene.speed }
        : undefined;
    this.onStatus(this.inSound(status));
  }

  /** What is known of the output; undefined before anything was played. */
  get output(): Output | undefined {
    const { context } = this;
    if (!context) return undefined;
    const { state, sampleRate, baseLatency, outputLatency, currentTime } = context;
    return { state, rate: sampleRate, base: baseLatency, device: outputLatency, time: currentTime };
  }

  /** The place that the engine tells of, in frames of the sound. */
  private inSound(status: Status): Status {
    const { audition } = status;
    if (!audition || !this.sounding || audition.id !== materialId(this.sounding.item)) return status;
    const { item, length } = this.sounding;
    return { ...status, audition: { ...audition, id: item.sound.id, frame: audition.frame / length } };
  }

  /** An item as its shape stretches it, and what is to be played of that. */
  private shaped<T extends Omit<Audition, 'from'>>(item: Loadable, audition: T): { item: Loadable; audition: T } {
    const stretch = stretchOf(audition.shape);
    if (!stretch) return { item, audition };
    const id = this.stretched.of(item.sound.id, stretch);
    const region = stretchedRegion(audition.region, stretch);
    return { item: { ...item, stretched: { id, stretch } }, audition: { ...audition, region } };
  }

  private fetch(item: Loadable, from: number, to: number, back = false): Promise<void> {
    return this.start().then(() => this.loader.load(item, from, to, back));
  }
  /** The same for what is wanted now: a failure is told. */
  private load(item: Loadable, from: number, to: number, back = false): Promise<void> {
    return this.fetch(item, from, to, back).catch(this.onError);
  }

  /** Plays a sound at once; the rest of it loads while it sounds. Frames are those of the sound, however it is stretched. */
  play(plain: Loadable, asked: Audition): void {
    const { item, audition } = this.shaped(plain, asked);
    const { region, loop, shape } = audition;
    const length = stretchOf(shape)?.length ?? 1;
    this.sounding = { item, length };
    // The last frame of a sound is the last one however long it is.
    const last = asked.from === asked.region.end - 1;
    const from = last ? region.end - 1 : Math.min(Math.round(asked.from * length), region.end - 1);
    this.send({ type: 'play', id: materialId(item), audition: { ...audition, from }, playId: ++this.playId });
    this.pressed = { playId: this.playId, at: this.asked(), item: plain };
    const { rate } = item.sound.format;
    const soon = SOON * rate * Math.max(1, shape?.speed ?? 1);
    // What a loop joins its end with lies before its beginning; how anything begins depends on what lies there.
    const joined = loop ? JOINED * rate : LOOKED;
    if (shape?.direction === 'backward')
      void this.load(item, Math.max(region.start, from - soon), from + joined + 1, true);
    else void this.load(item, Math.max(0, from - joined), Math.min(region.end, from + soon));
  }

  /** Loads the beginnings of sounds that may be asked for next, each as it would be played. */
  async prepare(next: { item: Loadable; audition: Omit<Audition, 'from'> }[]): Promise<void> {
    for (const { item: plain, audition: asked } of next) {
      const { item, audition } = this.shaped(plain, asked);
      const { start, end } = audition.region;
      const length = READY * item.sound.format.rate;
      if (audition.shape?.direction === 'backward')
        await this.fetch(item, Math.max(start, end - length), end + LOOKED, true).catch(notYet);
      else await this.fetch(item, start - LOOKED, Math.min(end, start + length)).catch(notYet);
    }
  }

  /** Loads ahead of what plays. */
  follow(frame: number, { region, direction }: PlayPlan, shape: Audition['shape']): void {
    if (!this.sounding) return;
    const { item, length } = this.sounding;
    const followed = { region: stretchedRegion(region, stretchOf(shape)), direction };
    void this.loader.follow(item, Math.round(frame * length), followed).catch(this.onError);
  }

  /** Changes region, loop, gain or shape of what sounds. @param frame where it is, should it have to be made anew */
  adjust(plain: Loadable, frame: number, asked: Omit<Audition, 'from'>): void {
    const { item, audition } = this.shaped(plain, asked);
    if (this.sounding && materialId(item) === materialId(this.sounding.item)) this.send({ type: 'adjust', audition });
    else this.play(plain, { ...asked, from: Math.round(frame) });
  }

  /** Plays a sound by a key, beside whatever sounds already. */
  press(plain: Loadable, key: number, audition: Omit<Audition, 'from'>, note: Note): void {
    const { item, audition: own } = this.shaped(plain, audition);
    const { start, end } = own.region;
    const speed = (own.shape?.speed ?? 1) * note.ratio;
    const long = AHEAD * item.sound.format.rate * Math.max(1, speed);
    const back = own.shape?.direction === 'backward';
    if (back) void this.load(item, Math.max(start, end - long), end + LOOKED, true);
    else void this.load(item, start - LOOKED, Math.min(end, start + long));
    this.send({ type: 'note', key, id: materialId(item), audition: { ...own, from: back ? end - 1 : start }, note });
  }

  /** A key goes up; what it plays dies away. */
  lift(key: number): void {
    this.send({ type: 'note off', key });
  }

  /** Ends all that keys play. */
  liftAll(): void {
    this.send({ type: 'notes off' });
  }

  /** How many keys sound at once at the most. */
  setVoices(limit: number): void {
    this.voices = limit;
    this.node?.port.postMessage({ type: 'voices', limit } satisfies Command);
  }

  /** Ends the audition; it dies away in five milliseconds. */
  stop(): void {
    this.send({ type: 'stop' });
  }

  /** Hands the engine a scene, as what has changed of it; its sounds are loaded, those of a long one about where it plays. */
  async setScene(plan: GraphPlan, items: readonly Loadable[], position: number): Promise<void> {
    const { plan: before } = this.scene;
    this.scene = loadablePlan(plan, items, this.stretched);
    const changes = differences(before, this.scene.plan);
    if (changes.length > 0) this.send({ type: 'graph', changes });
    await this.feed(position);
  }

  /** Loads what the scene needs about a position, what comes first first. */
  private async feed(position: number): Promise<void> {
    const { plan, items } = this.scene;
    const turn = ++this.feeding;
    const whole = needsOf(plan, RATE, -Infinity, Infinity);
    const bytesOf = new Map<number, number>();
    for (const { material } of whole) {
      const format = items.get(material)?.sound.format;
      if (format) bytesOf.set(material, format.frames * format.channels * 4);
    }
    const long = [...bytesOf.values()].reduce((sum, b) => sum + b, 0) > SCENE_ROOM;
    this.fedAt = long ? position : undefined;
    const at = (from: number, to: number) => needsOf(plan, RATE, from, to);
    const { loop } = this;
    const needs = long
      ? [
          ...(this.backward
            ? at(position - BEFORE * RATE, position + BEHIND * RATE)
            : at(position, position + BEFORE * RATE)),
          ...(loop ? at(loop.start, loop.start + ROUND * RATE) : []),
          ...at(position - BEHIND * RATE, position),
        ]
      : [...at(position, Infinity), ...at(-Infinity, position)];
    const leases = needs.flatMap(({ material, start, end }) => {
      const item = items.get(material);
      return item ? { item, start, end } : [];
    });
    await this.start().catch(this.onError);
    await this.loader.lease('scene', leases);
    for (const { item, start, end } of leases) {
      if (turn !== this.feeding) return;
      await this.load(item, start, end);
    }
  }

  /** What the engine is told of a build once it is there: who only looks at one does not start it. */
  private tellBuild(command: Command): void {
    this.node?.port.postMessage(command);
  }

  /** Hands the engine a build that keys play: its lines, and as clips all that may be struck of it. */
  async setBuild(plan: GraphPlan, items: readonly Loadable[]): Promise<void> {
    const { plan: before } = this.build;
    this.build = { ...loadablePlan(plan, items, this.stretched), plain: items };
    this.tellBuild({ type: 'build', changes: linesOnly(before, this.build.plan) });
    if (this.node) await this.feedBuild();
  }

  private async feedBuild(): Promise<void> {
    const { plan, items } = this.build;
    const leases = needsOf(plan, RATE, -Infinity, Infinity).flatMap(({ material, start, end }) => {
      const item = items.get(material);
      return item ? { item, start, end: Math.min(end, start + AHEAD * item.sound.format.rate) } : [];
    });
    await this.loader.lease('build', leases);
    for (const { item, start, end } of leases) {
      if (this.build.plan !== plan) return;
      await this.load(item, start, end);
    }
  }

  /** A key strikes the build. */
  strike(struck: Struck): void {
    const asked = new Map(struck.clips.map((c, i) => [i, c]));
    const { plan } = loadablePlan({ lines: new Map(), clips: asked }, this.build.plain, this.stretched);
    const clips = [...plan.clips].map(([i, c]) => ({ ...struck.clips[i], ...c }));
    this.send({ type: 'strike', ...struck, clips });
  }

  /** A key of the build goes up. @param lasts whether what it struck plays on */
  unstrike(key: number, lasts: boolean): void {
    this.send({ type: 'strike off', key, lasts });
  }

  /** Turns a mover that hands turn. @param share 0 to 1 */
  turnMover(id: number, share: number): void {
    this.node?.port.postMessage({ type: 'mover', id, share } satisfies Command);
  }

  /** Ends all strokes. */
  unstrikeAll(): void {
    this.send({ type: 'strikes off' });
  }

  /** How many strokes sound at once at the most, and which gives way to one more. */
  setStrikes(limit: number, gives: 'first' | 'quietest'): void {
    this.strikes = { limit, gives };
    this.tellBuild({ type: 'strikes', limit, gives });
  }

  /** Runs, stops or moves the scene. Positions in samples at {@link RATE}. @param speed times real time, backward when negative */
  transport(playing: boolean, position?: number, loop?: { start: number; end: number } | null, speed?: number): void {
    if (loop !== undefined) this.loop = loop;
    if (position !== undefined) this.position = position;
    this.backward = playing && (speed ?? (this.backward ? -1 : 1)) < 0;
    this.send({ type: 'transport', playing, position, loop, speed, turn: ++this.turn });
    // What was said of where it is, is not so any more.
    this.clock = undefined;
    if (position !== undefined && this.fedAt !== undefined) void this.feed(position);
  }

  /**
   * Where the scene is that is heard at a moment, with all that lies between the engine and the ear taken into account.
   * @param at milliseconds of `performance.now`
   * @returns samples; undefined while it stands, and until the output has told where it is
   */
  soundingAt(at: number): number | undefined {
    const { clock, context } = this;
    if (!clock || !context) return undefined;
    const { contextTime, performanceTime } = context.getOutputTimestamp();
    // Some outputs tell nothing of the kind before they have played for a while.
    const heard = contextTime
      ? contextTime + (at - performanceTime!) / 1000
      : context.currentTime - context.outputLatency - context.baseLatency + (at - performance.now()) / 1000;
    return clock.position + (heard - clock.time) * RATE * clock.speed;
  }

  /** Whether levels inside of the scene are told; see `Status.meters`. @param insert the effect whose levels before and after are, too */
  meters(on: boolean, insert?: number): void {
    this.metering = { on, insert };
    // Nobody has to hear anything to look at levels: an output that is not open yet is told when it is.
    this.node?.port.postMessage({ type: 'meters', on, insert } satisfies Command);
  }

  /** Records the first frames of what sounds next, for checking what was rendered; see `Status.captured`. */
  capture(frames: number): void {
    this.send({ type: 'capture', frames });
  }
}
