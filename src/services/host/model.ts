import type { HostAction, HostItem, HostPiece, HostRefusal, HostState, HostTrack, HostTransport } from '@core/schemas';

/** Something was not done; says why. */
export class HostRefused extends Error {
  override name = 'HostRefused';

  constructor(
    readonly why: HostRefusal,
    reason: string,
  ) {
    super(reason);
  }
}

/** What became of an ask. */
export interface HostDone {
  step?: number;
  items?: number[];
  /** What was done and where, in words. */
  said: string;
}

/** A change that can be taken back: each item as it was and as it is; absent where it was not there, or is there no more. */
interface Step {
  id: number;
  label: string;
  by: string;
  items: { before?: HostItem; after?: HostItem }[];
  /** Tracks that were made for it. */
  tracks: number[];
}

/** A session as it is kept. */
export interface KeptSession {
  version: 1;
  next: number;
  tracks: HostTrack[];
  items: HostItem[];
  selected: number;
  steps: Step[];
  /** Bytes of files by their sums. */
  files: Record<string, number>;
  /** What was answered to asks, the newest last: those that come again are answered as before. */
  done: [string, HostDone][];
}

/** What a session is from the beginning. */
export interface SessionForm {
  name: string;
  rate: number;
  bits: 16 | 24;
  fps: string;
  startFrame: number;
  /** Bytes of files that it may hold. */
  allowed: number;
}

/** So many steps can be taken back, and so many answers are remembered. */
const [STEPS, ANSWERS] = [200, 500];
const TRACKS = ['Track 1', 'Track 2', 'Track 3', 'Track 4'];

const isSame = (a: HostItem | undefined, b: HostItem | undefined): boolean => JSON.stringify(a) === JSON.stringify(b);
const plural = (n: number, thing: string) => (n === 1 ? `1 ${thing}` : `${n} ${thing}s`);

/** A session of tracks with pieces of files on them, and a transport. It knows nothing of how asks come in. */
export class Session {
  private readonly kept: KeptSession;
  private cursor = 0;
  private range: { start: number; end: number } | undefined;
  private busy = '';
  private running: HostTransport = { playing: false, at: 0, time: 0 };

  constructor(
    readonly form: SessionForm,
    kept?: KeptSession,
  ) {
    this.kept = kept ?? {
      ...{ version: 1, next: TRACKS.length + 1, items: [], selected: 1, steps: [], files: {}, done: [] },
      tracks: TRACKS.map((name, i) => ({ id: i + 1, name })),
    };
  }

  get state(): HostState {
    const { name, rate, bits, fps, startFrame, allowed } = this.form;
    const { tracks, items, selected, steps } = this.kept;
    return {
      ...{ name, rate, bits, fps, startFrame, tracks, items, selected, cursor: this.cursor },
      ...(this.range ? { range: this.range } : {}),
      steps: steps.map(({ id, label, by }) => ({ id, label, by })),
      ...{ used: this.used, allowed },
      ...(this.busy ? { busy: this.busy } : {}),
    };
  }

  /** All of it, to be kept. */
  get whole(): KeptSession {
    return this.kept;
  }

  get transport(): HostTransport {
    return this.running;
  }

  /** Where it is. @param now milliseconds of its clock */
  positionAt(now: number): number {
    const { playing, at, time } = this.running;
    return playing ? at + ((now - time) * this.form.rate) / 1000 : at;
  }

  get used(): number {
    return Object.values(this.kept.files).reduce((sum, bytes) => sum + bytes, 0);
  }

  /** What an ask was answered that came before; undefined for a new one. */
  answered(id: string): HostDone | undefined {
    return this.kept.done.find(([known]) => known === id)?.[1];
  }

  /** Takes back what could not be kept. */
  revert(id: string): void {
    const done = this.answered(id);
    if (done?.step !== undefined && this.kept.steps.at(-1)?.id === done.step) this.undo();
    this.kept.done = this.kept.done.filter(([known]) => known !== id);
  }

  // Files
  has = (sum: string): boolean => Object.hasOwn(this.kept.files, sum);

  /** Files that nothing needs any more, neither what stands there nor what could be taken back. */
  private idle(): string[] {
    const needed = new Set(this.kept.items.map((i) => i.file));
    for (const { items } of this.kept.steps)
      for (const { before, after } of items) for (const i of [before, after]) if (i) needed.add(i.file);
    return Object.keys(this.kept.files).filter((sum) => !needed.has(sum));
  }

  /** Sees to it that there is room. @returns files that were let go of for it. @throws HostRefused */
  room(bytes: number): string[] {
    const idle = this.idle();
    const free = () => this.form.allowed - this.used;
    const dropped: string[] = [];
    for (const sum of idle) {
      if (free() >= bytes) break;
      delete this.kept.files[sum];
      dropped.push(sum);
    }
    if (free() < bytes) {
      const mega = (n: number) => `${(n / 1e6).toFixed(1)} MB`;
      throw new HostRefused(
        'full',
        `It is full: ${mega(bytes)} are needed, and ${mega(Math.max(0, free()))} are free.`,
      );
    }
    return dropped;
  }

  took(sum: string, bytes: number): void {
    this.kept.files[sum] = bytes;
  }

  // Doing
  /**
   * Does what it is asked to.
   * @param id of the ask; one that was done before is not done again
   * @param now milliseconds of its clock
   * @throws HostRefused; then nothing was changed
   */
  act(id: string, action: HostAction, by: string, now: number): HostDone {
    const before = this.answered(id);
    if (before) return before;
    if (this.busy && !['busy', 'play', 'stop', 'locate'].includes(action.do)) throw new HostRefused('busy', this.busy);
    const done = this.doing(action, by, now);
    this.kept.done.push([id, done]);
    this.kept.done.splice(0, this.kept.done.length - ANSWERS);
    return done;
  }

  private doing(action: HostAction, by: string, now: number): HostDone {
    switch (action.do) {
      case 'place':
        return this.place(action, by);
      case 'trim':
        return this.trim(action, by);
      case 'move': {
        const item = this.item(action.item);
        this.trackAt(action.track);
        return this.change('Move', by, [{ before: item, after: { ...item, at: action.at, track: action.track } }]);
      }
      case 'remove':
        return this.change(
          `Remove ${plural(action.items.length, 'item')}`,
          by,
          [...new Set(action.items)].map((id) => ({ before: this.item(id) })),
        );
      case 'undo':
        return this.undo(action.step);
      case 'track':
        this.addTrack(action.name);
        return { said: `There is a track ${action.name} now.` };
      case 'select':
        this.kept.selected = this.trackAt(action.track).id;
        return { said: '' };
      case 'range':
        if (action.range && action.range.end <= action.range.start)
          throw new HostRefused('bad', 'A range ends behind its beginning.');
        this.range = action.range ?? undefined;
        return { said: '' };
      case 'busy':
        this.busy = action.why;
        return { said: '' };
      default:
        return this.move(action, now);
    }
  }

  private move(action: Extract<HostAction, { do: 'play' | 'stop' | 'locate' }>, now: number): HostDone {
    const playing = action.do === 'play' || (action.do === 'locate' && this.running.playing);
    const here = Math.round(this.positionAt(now));
    const at = action.do === 'locate' ? action.at : action.do === 'play' && !this.running.playing ? this.cursor : here;
    this.running = { playing, at, time: now };
    if (!playing || action.do === 'locate') this.cursor = at;
    return { said: '' };
  }

  private item(id: number): HostItem {
    const item = this.kept.items.find((i) => i.id === id);
    if (!item) throw new HostRefused('gone', 'That item is not there any more.');
    return item;
  }

  private trackAt(id: number): HostTrack {
    const track = this.kept.tracks.find((t) => t.id === id);
    if (!track) throw new HostRefused('gone', 'That track is not there any more.');
    return track;
  }

  private addTrack(name: string): HostTrack {
    if (this.kept.tracks.length >= 10_000) throw new HostRefused('full', 'It holds no more tracks.');
    const track = { id: this.kept.next++, name };
    this.kept.tracks.push(track);
    return track;
  }

  private place({ label, pieces, tracks: names }: Extract<HostAction, { do: 'place' }>, by: string): HostDone {
    // All is looked at before anything is changed.
    for (const piece of pieces) this.look(piece);
    if (this.kept.items.length + pieces.length > 100_000) throw new HostRefused('full', 'It holds no more items.');
    const lanes = Math.max(...pieces.map((p) => p.lane)) + 1;
    if (lanes > 1000 || (names && lanes > names.length)) throw new HostRefused('bad', 'A piece lies on no track.');
    const { tracks } = this.kept;
    const first = tracks.findIndex((t) => t.id === this.kept.selected);
    const made: number[] = [];
    const lane = (i: number): HostTrack => {
      const there = names ? tracks.find((t) => t.name === names[i]) : tracks[first + i];
      if (there) return there;
      const track = this.addTrack(names?.[i] ?? `Track ${tracks.length + 1}`);
      made.push(track.id);
      return track;
    };
    const used = new Map([...new Set(pieces.map((p) => p.lane))].sort((a, b) => a - b).map((i) => [i, lane(i)]));
    const done = this.change(
      label,
      by,
      pieces.map(({ lane: i, ...piece }) => ({ after: { id: this.kept.next++, track: used.get(i)!.id, ...piece } })),
      made,
    );
    const where = [...used.values()].map((t) => t.name);
    const on = where.length > 3 ? `${where[0]} and ${where.length - 1} more tracks` : where.join(', ');
    return { ...done, said: `${plural(pieces.length, 'item')} on ${on}.` };
  }

  private look({ file, from, length, frames, fadeIn, fadeOut, name }: HostPiece): void {
    if (!this.has(file)) throw new HostRefused('gone', `The file of ${name} was not sent, or is not held any more.`);
    if (from + length > frames) throw new HostRefused('bad', `${name} is longer than its file.`);
    if (fadeIn + fadeOut > length) throw new HostRefused('bad', `The fades of ${name} are longer than it is.`);
  }

  private trim({ item: id, at, from, length }: Extract<HostAction, { do: 'trim' }>, by: string): HostDone {
    const item = this.item(id);
    if (from + length > item.frames) throw new HostRefused('bad', 'An edge goes no further than there is of its file.');
    const fadeIn = Math.min(item.fadeIn, length);
    const after = { ...item, at, from, length, fadeIn, fadeOut: Math.min(item.fadeOut, length - fadeIn) };
    return this.change('Trim', by, [{ before: item, after }]);
  }

  private change(label: string, by: string, items: Step['items'], tracks: number[] = []): HostDone {
    const step = { id: this.kept.next++, label, by, items, tracks };
    this.put(items.map(({ before, after }) => ({ was: before, is: after })));
    this.kept.steps.push(step);
    this.kept.steps.splice(0, this.kept.steps.length - STEPS);
    return { step: step.id, items: items.flatMap(({ after }) => after?.id ?? []), said: `${label}.` };
  }

  private put(changes: { was?: HostItem; is?: HostItem }[]): void {
    const by = new Map(changes.map((c) => [(c.was ?? c.is)!.id, c]));
    const stay = this.kept.items.flatMap((i) => (by.has(i.id) ? (by.get(i.id)!.is ?? []) : i));
    const fresh = changes.flatMap(({ was, is }) => (was === undefined && is ? is : []));
    this.kept.items = [...stay, ...fresh];
  }

  private undo(id?: number): HostDone {
    const { steps } = this.kept;
    const at = id === undefined ? steps.length - 1 : steps.findIndex((s) => s.id === id);
    const step = steps.at(at);
    if (at < 0 || !step) throw new HostRefused('gone', 'There is nothing of it to take back any more.');
    const byId = new Map(this.kept.items.map((i) => [i.id, i]));
    for (const { before, after } of step.items)
      if (!isSame(byId.get((before ?? after)!.id), after))
        throw new HostRefused('gone', `“${step.label}” was changed since: take that back first.`);
    this.put(step.items.map(({ before, after }) => ({ was: after, is: before })));
    const used = new Set(this.kept.items.map((i) => i.track));
    this.kept.tracks = this.kept.tracks.filter(
      (t) => !step.tracks.includes(t.id) || used.has(t.id) || t.id === this.kept.selected,
    );
    steps.splice(at, 1);
    return { step: step.id, said: `“${step.label}” was taken back.` };
  }
}
