import { BLOCK, copyBlock } from '@core/effects';
import { Graph, type GraphChange, type Meters } from './graph';
import { Material } from './material';
import { Notes } from './notes';
import { Shuttle } from './shuttle';
import { Strokes, type StrikeCommand, type GaveWay } from './strokes';
import type { Audition, Note } from './voice';
import { Voice } from './voice';

/** What a host tells the engine; plain data, so that it can cross a message port. */
export type Command =
  | { type: 'material'; id: number; rate: number; frames: number; channels: number }
  | { type: 'chunk'; id: number; index: number; planes: Float32Array[] }
  | { type: 'forget'; id: number }
  | { type: 'drop'; id: number; chunks: number[] }
  | { type: 'play'; id: number; audition: Audition; playId?: number }
  | { type: 'adjust'; audition: Omit<Audition, 'from'> }
  | { type: 'stop' }
  | { type: 'note'; key: number; id: number; audition: Audition; note: Note }
  | { type: 'note off'; key: number }
  | { type: 'notes off' }
  | { type: 'voices'; limit: number }
  | StrikeCommand
  | { type: 'mover'; id: number; share: number }
  | { type: 'graph'; changes: GraphChange[]; anew?: boolean }
  | {
      type: 'transport';
      playing: boolean;
      position?: number;
      loop?: { start: number; end: number } | null;
      /** Times real time, backward when negative; as it was when absent. */
      speed?: number;
      /** Rises with each; see `Status.scene`. */
      turn?: number;
    }
  | { type: 'meters'; on: boolean; insert?: number }
  | { type: 'capture'; frames: number };

/** What the engine is doing. */
export interface Status {
  /** That of the newest `play` that it knows of: what it says of an audition is older than any later one. */
  playId: number;
  /** The auditioned material and the frame it is at; undefined when nothing is auditioned. */
  audition?: { id: number; frame: number; waiting: boolean };
  /** Keys that sound. */
  keys: number[];
  /** Strokes that gave way since the last status. */
  gave?: readonly GaveWay[];
  /**
   * `turn`: that of the newest `transport` that it knows of: what it says of the scene is older than any later one. `missing`: blocks so far in which a clip lacked its audio; `late`: the clips of which that was so since the
   * last status.
   */
  scene: {
    turn: number;
    playing: boolean;
    position: number;
    speed: number;
    missing: number;
    late: number[];
    /** Samples by which what is heard lies behind the position, as effects that look ahead hold it back. */
    latency?: number;
  };
  /** Highest magnitude left and right since the last status. */
  peaks: [number, number];
  /** Levels inside of the scene, while somebody watches them. */
  meters?: Meters;
  /** True once, when the current audition has given its first sample. */
  began: boolean;
  /** When the block with that sample was rendered, by the clock of a host that has one. Milliseconds since 1970. */
  firstAt?: number;
  /** When the position of the scene leaves the engine, by the clock of its output. Seconds; set by a host that has one. */
  time?: number;
  /** The first frames that sounded after a `capture` command, once they are complete. */
  captured?: Float32Array[];
}

type KeyDown = Extract<Command, { type: 'note' }>;

interface Capture {
  planes: Float32Array[];
  at: number;
  /** What was asked to play since the capture was: what sounded before is not meant. */
  asked?: 'audition' | 'scene';
  /** Whether a key was played since. */
  sounds: boolean;
}

/** Blocks of what rings on that are rendered with each block that is heard, until it may play. */
const AHEAD = 16;
/** For so long the scene waits where it begins for audio that is on its way, so that no attack is lost. Seconds. */
const PATIENCE = 0.5;

/** Whose absence nobody asks for. */
const unasked = new Set<number>();

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
  /** The build that keys play, whatever scene runs. */
  private readonly strokes: Strokes;
  /** Keys that are down and whose sound is not known yet. */
  private readonly early = new Map<number, KeyDown>();
  private graph: Graph;
  /** Where the scene was before a jump or stop, and how fast: it goes on from there for one block, and fades. */
  private left: { position: number; speed: number } | undefined;
  private readonly shuttle: Shuttle;
  private speed = 1;
  private turn = 0;
  /** Samples of what rings on that are to be rendered, unheard, before it plays. */
  private ahead = 0;
  /** Samples for which it still waits for audio where it begins; and the clips whose audio was waited for in vain. */
  private patience = 0;
  private readonly lacks = new Set<number>();
  private vain: ReadonlySet<number> = new Set();
  /** The insert whose levels are watched; 0 where it is lines alone, undefined where nobody watches. */
  private watched: number | undefined;
  private playing = false;
  private position = 0;
  private loop: { start: number; end: number } | null = null;
  private missing = 0;
  private readonly late = new Set<number>();
  private peaks: [number, number] = [0, 0];
  private began = false;
  private begun = 0;
  private capture: Capture | undefined;
  private captured: Float32Array[] | undefined;
  private readonly old = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
  private readonly fresh = [new Float32Array(BLOCK), new Float32Array(BLOCK)];

  /** @param rate Hz of the output, which is also the rate of scene positions */
  constructor(readonly rate: number) {
    this.strokes = new Strokes(rate, this.materials);
    this.graph = new Graph(rate, this.materials);
    this.shuttle = new Shuttle(this.graph);
  }

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
      case 'drop':
        this.materials.get(command.id)?.drop(command.chunks);
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
      case 'mover':
        this.strokes.turn(command.id, command.share);
        return this.graph.movers.turn(command.id, command.share);
      case 'build':
      case 'strike':
      case 'strike off':
      case 'strikes off':
      case 'strikes':
        if (command.type === 'strike' && this.capture) this.capture.sounds = true;
        return this.strokes.handle(command);
      case 'graph':
        if (command.anew) {
          this.shuttle.reset((this.graph = new Graph(this.rate, this.materials)));
          this.graph.watch(this.watched !== undefined, this.watched);
        }
        return this.graph.apply(command.changes, this.playing);
      case 'transport':
        return this.transport(command);
      case 'meters':
        this.watched = command.on ? (command.insert ?? 0) : undefined;
        return this.graph.watch(command.on, command.insert);
      case 'capture':
        this.capture = {
          planes: [new Float32Array(command.frames), new Float32Array(command.frames)],
          at: 0,
          sounds: false,
        };
    }
  }

  private play(id: number, audition: Audition): void {
    this.cut();
    // Also where its audio is still on its way: what was heard before it says nothing of it.
    this.began = false;
    const material = this.materials.get(id);
    this.asked = material ? undefined : { id, audition };
    if (!material) return;
    this.voice = new Voice(material, audition, this.rate);
    this.voiceId = id;
    if (this.capture) this.capture.asked = 'audition';
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
    this.turn = command.turn ?? this.turn;
    // Stopped, it begins at its own speed again.
    const speed = command.playing ? (command.speed ?? this.speed) : 1;
    const turns = this.playing && speed !== this.speed;
    const begins = command.playing && (jump || turns || !this.playing);
    if (this.playing && (jump || turns || !command.playing)) this.left = { position: this.position, speed: this.speed };
    this.speed = speed;
    // Between two samples there is no frame to stop at.
    if (speed === 1) this.position = Math.round(this.position);
    if (command.position !== undefined) this.position = command.position;
    if (command.loop !== undefined) this.loop = command.loop;
    this.playing = command.playing;
    if (begins) {
      this.ahead = speed === 1 ? Math.min(this.graph.tail, this.position) : 0;
      this.patience = speed === 1 ? PATIENCE * this.rate : 0;
    }
    if (this.capture && command.playing) this.capture.asked = 'scene';
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
    if (this.strokes.render(count)) {
      const { out: struck } = this.strokes;
      for (let c = 0; c < 2; c++) for (let i = 0; i < count; i++) out[c][i] += struck[c][i];
    }
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
    const { fresh, old, left, graph } = this;
    // Whether it plays or not: where it begins, effects that are made of sounds are whole.
    const fed = graph.feed();
    if (!this.playing && !left) return;
    if (left) {
      if (left.speed === 1) {
        graph.render(left.position, count);
        copyBlock(graph.out, old, count);
      } else this.shuttle.render(old, count, left.position, left.speed, unasked);
      graph.reset();
      this.shuttle.reset();
      this.left = undefined;
    }
    const waits = this.playing && this.patience > 0 && this.waits(count, fed);
    for (let n = 0; this.playing && !waits && this.ahead > 0 && n < AHEAD; n++) {
      const part = Math.min(BLOCK, this.ahead);
      graph.render(this.position - this.ahead, part);
      this.ahead -= part;
    }
    const plays = this.playing && !waits && this.ahead === 0;
    if (plays && this.speed === 1) this.renderParts(count);
    else if (plays) this.renderFast(count);
    for (let c = 0; c < 2; c++) {
      for (let i = 0; i < count; i++) {
        const rise = left ? (i + 1) / count : 1;
        if (plays) out[c][i] += fresh[c][i] * rise;
        if (left) out[c][i] += old[c][i] * (1 - rise);
      }
    }
  }

  /** Whether the scene cannot begin yet, as audio that sounds where it begins has not arrived, or an effect is not whole. */
  private waits(count: number, fed: boolean): boolean {
    const { graph, lacks } = this;
    if (fed) return (this.patience -= count) > 0;
    lacks.clear();
    graph.render(this.position, count, lacks);
    graph.reset();
    let hopes = false;
    for (const id of lacks) hopes ||= !this.vain.has(id);
    this.patience = hopes ? this.patience - count : 0;
    if (hopes && this.patience <= 0) this.vain = new Set(lacks);
    else if (lacks.size === 0) this.vain = unasked;
    return this.patience > 0;
  }

  /** The next samples of the scene, coming round where the loop ends. */
  private renderParts(count: number): void {
    const { fresh, graph, loop } = this;
    let lacking = 0;
    for (let at = 0; at < count;) {
      const until = loop && this.position < loop.end ? loop.end : Infinity;
      const part = Math.min(count - at, until - this.position);
      lacking += graph.render(this.position, part, this.late);
      for (let c = 0; c < 2; c++) {
        const made = graph.out[c];
        for (let i = 0; i < part; i++) fresh[c][at + i] = made[i];
      }
      this.position += part;
      at += part;
      if (loop && this.position === loop.end) this.position = loop.start;
    }
    if (lacking > 0) this.missing++;
  }

  /** The same at another speed; where the scene begins it stops. */
  private renderFast(count: number): void {
    const { loop, speed } = this;
    const before = this.position;
    if (this.shuttle.render(this.fresh, count, before, speed, this.late) > 0) this.missing++;
    this.position += count * speed;
    if (loop && before < loop.end && this.position >= loop.end) this.position = loop.start;
    else if (loop && before > loop.start && this.position <= loop.start) this.position = loop.end;
    else if (this.position <= 0 && speed < 0) {
      this.left = { position: this.position, speed };
      this.position = 0;
      this.playing = false;
      this.speed = 1;
    } else return;
    this.shuttle.reset();
  }

  private keep(capture: Capture, out: Float32Array[], count: number): void {
    // It starts with the first block in which what was asked for moves, not with the silence before.
    const moves =
      (capture.sounds && (this.notes.begun || this.strokes.keys.length > 0)) ||
      (capture.asked === 'audition' && this.began) ||
      (capture.asked === 'scene' && this.playing && this.patience <= 0 && this.ahead === 0);
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
    const late = this.late.size > 0 ? [...this.late] : [];
    this.late.clear();
    const began = this.began;
    const { gave } = this.strokes;
    if (gave.length > 0) this.strokes.gave = [];
    return {
      playId: this.playId,
      audition: voice && { id: this.voiceId, frame: voice.frame, waiting: voice.waiting },
      keys: [...this.notes.keys, ...this.strokes.keys],
      ...(gave.length > 0 ? { gave } : {}),
      scene: {
        turn: this.turn,
        playing: this.playing,
        position: Math.round(this.position),
        speed: this.speed,
        missing: this.missing,
        late,
        latency: this.graph.latency,
      },
      peaks,
      meters: this.graph.meters(),
      began,
      captured,
    };
  }
}
