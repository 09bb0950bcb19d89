import { stretchedFrames, type Direction, type Stretch } from '@core/audio';
import { CHUNK, type Command } from '@core/engine';
import type { Sound } from '@core/library';
import type { SoundReader } from './reader';
import { openSound } from './reader';
import { openFile } from '../files/roots';
import type { RootRecord } from '../store/store';
import { stretched } from './stretch';

/** Where a sound lies, for whoever has to load it. */
export interface Loadable {
  sound: Pick<Sound, 'id' | 'path' | 'size' | 'format'>;
  root: RootRecord;
  /** Length and pitch changed apart: what is loaded then, and its frames, are those of the outcome, under an id of its own. */
  stretched?: { id: number; stretch: Stretch };
}

/** Under which id the engine knows what is loaded. */
export const materialId = (item: Loadable): number => item.stretched?.id ?? item.sound.id;

/** What is loaded, as long as it is once it is stretched. */
function formatOf({ sound, stretched }: Loadable): Sound['format'] {
  return { ...sound.format, frames: stretchedFrames(sound.format.frames, stretched?.stretch) };
}

/** What is played of a sound, and which way. */
export interface PlayPlan {
  region: { start: number; end: number };
  direction: Direction;
}

/** A part of an item that somebody needs: it stays until they need something else. Frames of what is loaded. */
export interface Lease {
  item: Loadable;
  start: number;
  end: number;
}

interface Held {
  item: Loadable;
  reader: Promise<SoundReader>;
  /** Chunks that were sent, or are being read. */
  chunks: Set<number>;
}

/** Seconds that are loaded ahead of the ear. */
const AHEAD = 60;
/** Sounds longer than this are held in part only. Seconds. */
const LONG = 240;
/** Decoded bytes after which the longest unused sounds are let go. */
const ROOM = 600 << 20;

const bytesOf = (held: Held) => held.chunks.size * CHUNK * 4 * held.item.sound.format.channels;

/** Loads sounds for the engine, in a worker, straight into the worklet's port: nothing passes through the window. */
export class AudioLoader {
  private port: MessagePort | undefined;
  private readonly held = new Map<number, Held>();
  /** What each owner needs. */
  private readonly leases = new Map<string, readonly Lease[]>();

  /** Takes the port whose other end the engine reads: a new engine, which has nothing yet. */
  connect(port: MessagePort): void {
    this.port?.close();
    this.port = port;
    this.held.clear();
  }

  /** Says what an owner needs from now on, in place of what it needed before: that is let go of only when nobody needs it any more. */
  lease(owner: string, leases: readonly Lease[]): void {
    this.leases.set(owner, leases);
  }

  /** Chunks of an item that nobody needs. */
  private free({ item, chunks }: Held): number[] {
    const id = materialId(item);
    const own = [...this.leases.values()].flat().filter((l) => materialId(l.item) === id);
    return [...chunks].filter((c) => !own.some((l) => (c + 1) * CHUNK > l.start && c * CHUNK < l.end));
  }

  /** What is held for the engine: sounds, and bytes of their decoded audio. */
  holding(): { sounds: number; bytes: number } {
    const all = [...this.held.values()];
    return { sounds: all.length, bytes: all.reduce((sum, h) => sum + bytesOf(h), 0) };
  }

  private post(command: Command): void {
    if (command.type !== 'chunk') return this.port?.postMessage(command);
    this.port?.postMessage(
      command,
      command.planes.map((p) => p.buffer),
    );
  }

  private hold(item: Loadable): Held {
    const { sound } = item;
    const id = materialId(item);
    let held = this.held.get(id);
    if (held) {
      // Moved to the end: the map's order is the order of use.
      this.held.delete(id);
      this.held.set(id, held);
      return held;
    }
    // What it was stretched to before is of no more use.
    if (item.stretched)
      for (const [other, old] of this.held)
        if (old.item.stretched && old.item.sound.id === sound.id && this.free(old).length === old.chunks.size)
          this.drop(other);
    const reader = openFile(item.root, sound.path, sound.size)
      .then((source) => openSound(source, sound.format))
      .then((plain) => stretched(plain, item.stretched?.stretch));
    held = { item, reader, chunks: new Set() };
    this.held.set(id, held);
    const { rate, frames, channels } = formatOf(item);
    this.post({ type: 'material', id, rate, frames, channels });
    return held;
  }

  /**
   * Loads frames `from` to `to` of a sound, those nearest to `from` first.
   * @param back those nearest to `to` first, for what is played backward
   * @throws Error with the reason in words for the user when the file cannot be read
   */
  async load(item: Loadable, from: number, to: number, back = false): Promise<void> {
    const held = this.hold(item);
    let reader: SoundReader;
    try {
      reader = await held.reader;
    } catch (error) {
      this.drop(materialId(item));
      throw error;
    }
    const last = Math.min(to, formatOf(item).frames);
    const first = Math.floor(Math.max(0, from) / CHUNK);
    const count = Math.max(0, Math.ceil(last / CHUNK) - first);
    for (let n = 0; n < count; n++) {
      const c = back ? first + count - 1 - n : first + n;
      if (held.chunks.has(c)) continue;
      held.chunks.add(c);
      try {
        const planes = await reader.read(c * CHUNK, CHUNK);
        this.post({
          type: 'chunk',
          id: materialId(item),
          index: c,
          planes: planes.map((p) => (p.byteLength === p.buffer.byteLength ? p : p.slice())),
        });
      } catch (error) {
        held.chunks.delete(c);
        throw error;
      }
    }
    this.makeRoom(materialId(item));
  }

  /** Keeps a playing sound loaded ahead of where it is, and lets go of what lies far behind in long ones. */
  async follow(item: Loadable, frame: number, { region, direction }: PlayPlan): Promise<void> {
    const { rate, frames } = formatOf(item);
    const ahead = AHEAD * rate;
    if (direction !== 'backward') await this.load(item, frame, Math.min(region.end, frame + ahead));
    if (direction !== 'forward') await this.load(item, Math.max(region.start, frame - ahead), frame, true);
    if (frames < LONG * rate) return;
    // A loop jumps back: its beginning stays.
    const short = region.end - region.start < LONG * rate;
    const from = short ? region.start : frame - (direction === 'forward' ? 1 : 2) * ahead;
    const to = short ? region.end : frame + (direction === 'backward' ? 1 : 2) * ahead;
    const held = this.held.get(materialId(item));
    if (!held) return;
    this.lease('audition', [{ item, start: from, end: to }]);
    this.letGo(held, this.free(held));
  }

  private letGo({ item, chunks }: Held, free: readonly number[]): void {
    if (free.length === 0) return;
    for (const c of free) chunks.delete(c);
    this.post({ type: 'drop', id: materialId(item), chunks: [...free] });
  }

  private drop(id: number): void {
    if (!this.held.delete(id)) return;
    this.post({ type: 'forget', id });
  }

  private makeRoom(keep: number): void {
    let total = this.holding().bytes;
    for (const [id, held] of this.held) {
      if (total <= ROOM) return;
      if (id === keep) continue;
      const before = bytesOf(held);
      const free = this.free(held);
      if (free.length === held.chunks.size) this.drop(id);
      else this.letGo(held, free);
      total -= before - (this.held.has(id) ? bytesOf(held) : 0);
    }
  }
}
