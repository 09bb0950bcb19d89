import { Material } from './material';
import type { Mix } from './mix';
import { renderMix } from './mix';
import { Notes } from './notes';
import type { Audition, Note } from './voice';
import { BLOCK, Voice } from './voice';

/** What a host tells the engine; plain data, so that it can cross a message port. */
export type Command =
  | { type: 'material'; id: number; rate: number; frames: number; channels: number }
  | { type: 'chunk'; id: number; index: number; planes: Float32Array[] }
  | { type: 'forget'; id: number }
  | { type: 'keep'; id: number; from: number; to: number }
  | { type: 'play'; id: number; audition: Audition; playId?: number }
  | { type: 'adjust'; audition: Omit<Audition, 'from'> }
  | { type: 'stop' }
  | { type: 'note'; key: number; id: number; audition: Audition; note: Note }
  | { type: 'note off'; key: number }
  | { type: 'notes off' }
  | { type: 'voices'; limit: number }
  | { type: 'mix'; mix: Mix }
  | { type: 'transport'; playing: boolean; position?: number; loop?: { start: number; end: number } | null }
  | { type: 'capture'; frames: number };

/** What the engine is doing. */
export interface Status {
  /** That of the newest `play` that it knows of: what it says of an audition is older than any later one. */
  playId: number;
  /** The auditioned material and the frame it is at; undefined when nothing is auditioned. */
  audition?: { id: number; frame: number; waiting: boolean };
  /** Keys that sound. */
  keys: number[];
  scene: { playing: boolean; position: number; missing: number };
  /** Highest magnitude left and right since the last status. */
  peaks: [number, number];
  /** True once, when the current audition has given its first sample. */
  began: boolean;
  /** When the block with that sample was rendered, by the clock of a host that has one. Milliseconds since 1970. */
  firstAt?: number;
  /** The first frames that sounded after a `capture` command, once they are complete. */
  captured?: Float32Array[];
}

type KeyDown = Extract<Command, { type: 'note' }>;

interface Capture {
  planes: Float32Array[];
  at: number;
  /** Whether something was asked to play since the capture was: what sounded before is not meant. */
  asked: boolean;
  /** Whether a key was played since. */
  sounds: boolean;
}

/** Auditions and plays scenes, block by block. Knows no browser: a worklet hosts it for listening, tests host it for truth. */
export class Engine {
  private readonly materials = new Map<number, Material>();
  private voice: Voice | undefined;
  private voiceId = 0;
  private playId = 0;
  /** What is to play as soon as its material is known: audio comes by another way than commands, and may come later. */
  private asked: { id: number; audition: Audition } | undefined;
  private readonly dying: Voice[] = [];
  private readonly notes = new Notes();
  /** Keys that are down and whose sound is not known yet. */
  private readonly early = new Map<number, KeyDown>();
  private mix: Mix = { cues: [] };
  /** The mix before the last change, faded out over one block so that a swapped cue does not click. */
  private oldMix: { mix: Mix; position: number } | undefined;
  private playing = false;
  private position = 0;
  private loop: { start: number; end: number } | null = null;
  private missing = 0;
  private peaks: [number, number] = [0, 0];
  private began = false;
  private begun = 0;
  private capture: Capture | undefined;
  private captured: Float32Array[] | undefined;
  private readonly old = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
  private readonly fresh = [new Float32Array(BLOCK), new Float32Array(BLOCK)];

  /** @param rate Hz of the output, which is also the rate of scene positions */
  constructor(readonly rate: number) {}

  /** Does what a command says. */
  handle(command: Command): void {
    switch (command.type) {
      case 'material':
        if (!this.materials.has(command.id)) {
          this.materials.set(command.id, new Material(command.rate, command.frames, command.channels));
        }
        if (this.asked?.id === command.id) this.play(command.id, this.asked.audition);
        for (const [key, early] of this.early) {
          if (early.id !== command.id) continue;
          this.early.delete(key);
          this.press(early);
        }
        return;
      case 'chunk':
        this.materials.get(command.id)?.put(command.index, command.planes);
        return;
      case 'forget':
        this.materials.delete(command.id);
        return;
      case 'keep':
        this.materials.get(command.id)?.keepOnly(command.from, command.to);
        return;
      case 'play':
        this.playId = command.playId ?? this.playId;
        return this.play(command.id, command.audition);
      case 'adjust':
        if (this.asked) this.asked.audition = { ...this.asked.audition, ...command.audition };
        return this.voice?.adjust(command.audition);
      case 'stop':
        this.asked = undefined;
        return this.cut();
      case 'note':
        return this.press(command);
      case 'note off':
        this.early.delete(command.key);
        return this.notes.off(command.key);
      case 'notes off':
        this.early.clear();
        return this.notes.end();
      case 'voices':
        this.notes.limit = command.limit;
        return;
      case 'mix':
        if (this.playing) this.oldMix ??= { mix: this.mix, position: this.position };
        this.mix = command.mix;
        return;
      case 'transport':
        return this.transport(command);
      case 'capture':
        this.capture = {
          planes: [new Float32Array(command.frames), new Float32Array(command.frames)],
          at: 0,
          asked: false,
          sounds: false,
        };
    }
  }

  private play(id: number, audition: Audition): void {
    this.cut();
    const material = this.materials.get(id);
    this.asked = material ? undefined : { id, audition };
    if (!material) return;
    this.voice = new Voice(material, audition, this.rate);
    this.voiceId = id;
    this.began = false;
    if (this.capture) this.capture.asked = true;
  }

  /** A key is played. One whose sound nothing is known of yet begins once it is, if it is still down then. */
  private press(command: KeyDown): void {
    const { key, id, audition, note } = command;
    const material = this.materials.get(id);
    if (!material) return void this.early.set(key, command);
    this.notes.on(key, new Voice(material, audition, this.rate, note));
    if (this.capture) this.capture.sounds = true;
  }

  private cut(): void {
    if (!this.voice) return;
    this.voice.release();
    if (!this.voice.done) this.dying.push(this.voice);
    this.voice = undefined;
  }

  private transport(command: Extract<Command, { type: 'transport' }>): void {
    const jump = command.position !== undefined && command.position !== this.position;
    if (this.playing && (jump || !command.playing)) this.oldMix = { mix: this.mix, position: this.position };
    if (command.position !== undefined) this.position = command.position;
    if (command.loop !== undefined) this.loop = command.loop;
    this.playing = command.playing;
    if (this.capture && command.playing) this.capture.asked = true;
  }

  /** Fills a stereo block of at most {@link BLOCK} frames. */
  render(left: Float32Array, right: Float32Array): void {
    const count = left.length;
    const out = [left, right];
    left.fill(0);
    right.fill(0);
    this.renderVoices(out, count);
    this.renderScene(out, count);
    for (let c = 0; c < 2; c++) {
      for (let i = 0; i < count; i++) this.peaks[c] = Math.max(this.peaks[c], Math.abs(out[c][i]));
    }
    if (this.capture) this.keep(this.capture, out, count);
  }

  private renderVoices(out: Float32Array[], count: number): void {
    for (let v = this.dying.length - 1; v >= 0; v--) {
      this.dying[v].render(out, count);
      if (this.dying[v].done || this.dying[v].waiting) this.dying.splice(v, 1);
    }
    this.notes.render(out, count);
    const { voice } = this;
    if (!voice) return;
    const before = voice.frame;
    voice.render(out, count);
    // One of no length has been heard as soon as it is asked for.
    if ((voice.frame !== before || voice.done) && !this.began) {
      this.began = true;
      this.begun++;
    }
    if (voice.done) this.voice = undefined;
  }

  private renderScene(out: Float32Array[], count: number): void {
    const { fresh, old, oldMix } = this;
    if (!this.playing && !oldMix) return;
    for (const plane of [...fresh, ...old]) plane.fill(0);
    if (oldMix) renderMix(oldMix.mix, this.materials, this.rate, oldMix.position, old, count);
    if (this.playing) {
      this.missing = 0;
      for (let at = 0; at < count;) {
        const until = this.loop && this.position < this.loop.end ? this.loop.end : Infinity;
        const part = Math.min(count - at, until - this.position);
        const views = fresh.map((p) => p.subarray(at, at + part));
        this.missing += renderMix(this.mix, this.materials, this.rate, this.position, views, part);
        this.position += part;
        at += part;
        if (this.loop && this.position === this.loop.end) this.position = this.loop.start;
      }
    }
    this.oldMix = undefined;
    for (let c = 0; c < 2; c++) {
      for (let i = 0; i < count; i++) {
        const rise = oldMix ? (i + 1) / count : 1;
        out[c][i] += fresh[c][i] * rise + old[c][i] * (1 - rise);
      }
    }
  }

  private keep(capture: Capture, out: Float32Array[], count: number): void {
    // It starts with the first block in which what was asked for moves, not with the silence before.
    const moves = (capture.sounds && this.notes.begun) || (capture.asked && (this.began || this.playing));
    if (capture.at === 0 && !moves) return;
    const part = Math.min(count, capture.planes[0].length - capture.at);
    capture.planes.forEach((plane, c) => plane.set(out[c].subarray(0, part), capture.at));
    capture.at += part;
    if (capture.at === capture.planes[0].length) {
      this.captured = capture.planes;
      this.capture = undefined;
    }
  }

  /** How many auditions have given their first sample so far. */
  get beginnings(): number {
    return this.begun;
  }

  /** What it is doing; resets the peaks. */
  status(): Status {
    const { voice, peaks, captured } = this;
    this.peaks = [0, 0];
    this.captured = undefined;
    const began = this.began;
    return {
      playId: this.playId,
      audition: voice && { id: this.voiceId, frame: voice.frame, waiting: voice.waiting },
      keys: this.notes.keys,
      scene: { playing: this.playing, position: this.position, missing: this.missing },
      peaks,
      began,
      captured,
    };
  }
}
