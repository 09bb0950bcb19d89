import type { Audition, Command, Mix, Status } from '@core/engine';
import type { Remote } from 'comlink';
import { transfer } from 'comlink';
import workletUrl from './engine.worklet.ts?worker&url';
import type { AudioLoader, Followed, Loadable } from './loader';

/** Output and scenes run at this rate. */
export const RATE = 48000;

/** Frames of the neighbours of a row that are loaded before they are asked for: a second and a half. */
const READY = 1.5;
/** Seconds that are loaded when a sound is asked for; more follows while it plays. */
const SOON = 10;
/** Seconds beside a loop that its joining looks at; more than the engine's seam. */
const JOINED = 0.1;

/** The engine in its AudioWorklet, and the worker that feeds it. Started by the first gesture, as browsers ask. */
export class Player {
  private context: AudioContext | undefined;
  private node: AudioWorkletNode | undefined;
  private starting: Promise<void> | undefined;
  private waiting: Command[] = [];
  /** Rises with every sound that is asked for; see `Status.turn`. */
  turn = 0;

  constructor(
    private readonly loader: Remote<AudioLoader>,
    private readonly onStatus: (status: Status) => void,
    private readonly onError: (error: Error) => void,
  ) {}

  /** Makes the engine ready; may be called any number of times. */
  start(): Promise<void> {
    return (this.starting ??= this.begin());
  }

  private async begin(): Promise<void> {
    this.context = new AudioContext({ sampleRate: RATE, latencyHint: 'interactive' });
    await this.context.audioWorklet.addModule(workletUrl);
    this.node = new AudioWorkletNode(this.context, 'cormorant-engine', { numberOfInputs: 0, outputChannelCount: [2] });
    const { port1, port2 } = new MessageChannel();
    this.node.port.postMessage({ type: 'connect', port: port1 }, [port1]);
    await this.loader.connect(transfer(port2, [port2]));
    this.node.port.onmessage = (event: MessageEvent<Status>) => this.onStatus(event.data);
    this.node.connect(this.context.destination);
    for (const command of this.waiting) this.node.port.postMessage(command);
    this.waiting = [];
  }

  private send(command: Command): void {
    void this.start().catch(this.onError);
    if (this.context?.state === 'suspended') void this.context.resume();
    if (this.node) this.node.port.postMessage(command);
    else this.waiting.push(command);
  }

  private load(item: Loadable, from: number, to: number, back = false): Promise<void> {
    return this.start()
      .then(() => this.loader.load(item, from, to, back))
      .catch(this.onError);
  }

  /** Plays a sound at once; the rest of it loads while it sounds. */
  play(item: Loadable, audition: Audition): void {
    this.send({ type: 'play', id: item.sound.id, audition, turn: ++this.turn });
    const { from, region, loop, shape } = audition;
    const { rate } = item.sound.format;
    const soon = SOON * rate * Math.max(1, shape?.speed ?? 1);
    // What a loop joins its end with lies before its beginning.
    const joined = loop ? JOINED * rate : 0;
    if (shape?.direction === 'backward')
      void this.load(item, Math.max(region.start, from - soon), from + joined + 1, true);
    else void this.load(item, Math.max(0, from - joined), Math.min(region.end, from + soon));
  }

  /** Loads the beginnings of sounds that may be asked for next. */
  async prepare(items: Loadable[]): Promise<void> {
    for (const item of items) {
      const from = 0;
      await this.load(item, from, from + READY * item.sound.format.rate);
    }
  }

  /** Loads ahead of a playing sound. */
  follow(item: Loadable, frame: number, followed: Followed): void {
    void this.loader.follow(item, frame, followed).catch(this.onError);
  }

  /** Changes region, loop, gain or shape of what sounds. */
  adjust(audition: Omit<Audition, 'from'>): void {
    this.send({ type: 'adjust', audition });
  }

  /** Ends the audition; it dies away in five milliseconds. */
  stop(): void {
    this.send({ type: 'stop' });
  }

  /** Hands the engine a scene; its sounds are loaded whole. */
  async setMix(mix: Mix, items: Loadable[]): Promise<void> {
    this.send({ type: 'mix', mix });
    for (const item of items) await this.load(item, 0, item.sound.format.frames);
  }

  /** Runs, stops or moves the scene. Positions in samples at {@link RATE}. */
  transport(playing: boolean, position?: number, loop?: { start: number; end: number } | null): void {
    this.send({ type: 'transport', playing, position, loop });
  }

  /** Records the first frames of what sounds next, for checking what was rendered; see `Status.captured`. */
  capture(frames: number): void {
    this.send({ type: 'capture', frames });
  }
}
