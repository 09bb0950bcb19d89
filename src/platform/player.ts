import type { Audition, Command, Mix, Status } from '@core/engine';
import type { Remote } from 'comlink';
import { transfer } from 'comlink';
import workletUrl from './engine.worklet.ts?worker&url';
import type { AudioLoader, Loadable } from './loader';

/** Output and scenes run at this rate. */
export const RATE = 48000;

/** Frames of the neighbours of a row that are loaded before they are asked for: a second and a half. */
const READY = 1.5;

/** The engine in its AudioWorklet, and the worker that feeds it. Started by the first gesture, as browsers ask. */
export class Player {
  private context: AudioContext | undefined;
  private node: AudioWorkletNode | undefined;
  private starting: Promise<void> | undefined;
  private waiting: Command[] = [];

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

  private load(item: Loadable, from: number, to: number): Promise<void> {
    return this.start()
      .then(() => this.loader.load(item, from, to))
      .catch(this.onError);
  }

  /** Plays a sound at once; the rest of it loads while it sounds. */
  play(item: Loadable, audition: Audition): void {
    this.send({ type: 'play', id: item.sound.id, audition });
    void this.load(item, audition.from, Math.min(audition.region.end, audition.from + 10 * item.sound.format.rate));
  }

  /** Loads the beginnings of sounds that may be asked for next. */
  async prepare(items: Loadable[]): Promise<void> {
    for (const item of items) {
      const from = 0;
      await this.load(item, from, from + READY * item.sound.format.rate);
    }
  }

  /** Loads ahead of a playing sound. */
  follow(item: Loadable, frame: number, region: { start: number; end: number }): void {
    void this.loader.follow(item, frame, region).catch(this.onError);
  }

  /** Changes region, loop or gain of what sounds. */
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
