import { spanOf, timecodeAt, sampleToFrame, type Cue } from '@core/scene';
import {
  boxesIn,
  faded,
  gainBy,
  GAINS,
  hit,
  marksOf,
  sampleAt,
  snapped,
  trimmed,
  within,
  type Handle,
  type Sight,
  type Snapping,
} from '@core/timeline';
import { RATE } from '@platform/index';
import { computed, ref, shallowRef, type ComputedRef } from 'vue';
import { signed } from '../shared/controls/format';
import { useTransport } from '../stores/transport';
import { useHands } from '../stores/hands';
import { useScene } from '../stores/scene';
import { catalogue } from '../stores/workers';

/** Pixels within which a mark draws, and by which a hand has to move until it drags. */
const [REACH, STILL] = [7, 3];

/** What a hand holds. */
interface Held {
  handle: Handle | 'box';
  cue?: Cue;
  x: number;
  y: number;
  /** Number of the lane where it began. */
  lane: number;
  /** What changes with it, as it was. */
  base: readonly Cue[];
  snapping: Snapping;
  frames: (cue: Cue) => number;
  copies?: readonly number[];
  moved: boolean;
}

/** Cursors by what lies under the hand. */
const cursors: Record<Handle, string> = {
  body: 'grab',
  start: 'ew-resize',
  end: 'ew-resize',
  fadeIn: 'nesw-resize',
  fadeOut: 'nwse-resize',
  gain: 'ns-resize',
};

/**
 * Hands on the lanes of a timeline: no tool has to be chosen, as what is held decides what happens. While a hand moves, its outcome lies in the
 * scene's draft, so that it is seen and heard; letting go keeps it as one edit, Escape lets it be.
 * @param laneHeight pixels from one lane to the next
 * @param seek called where empty ground is clicked
 */
export function useDrag(sight: ComputedRef<Sight>, laneHeight: number, seek: (x: number) => void) {
  const scene = useScene();
  const hands = useHands();
  const transport = useTransport();
  const held = shallowRef<Held>();
  const cursor = ref('default');
  /** What is changing, in words beside the hand. */
  const told = shallowRef<{ x: number; y: number; text: string }>();
  /** The box that is drawn, in pixels from the upper left corner of the lanes. */
  const box = shallowRef<{ left: number; top: number; width: number; height: number }>();

  const trackAt = (lane: number) => scene.tracks[lane];
  function under(x: number, y: number) {
    const lane = Math.floor(y / laneHeight);
    const track = trackAt(lane);
    if (!track) return { lane, found: undefined };
    const boxes = boxesIn(
      scene.heard.filter((c) => c.trackId === track.id),
      sight.value,
    );
    return { lane, found: hit(boxes, hands.selected, x, y - lane * laneHeight, sight.value.height) };
  }

  function place(event: PointerEvent | WheelEvent): { x: number; y: number } {
    const rect = (event.currentTarget as HTMLElement).getBoundingClientRect();
    return { x: event.clientX - rect.left, y: event.clientY - rect.top };
  }

  function down(event: PointerEvent): void {
    if (event.button !== 0 || !scene.current) return;
    const { x, y } = place(event);
    const { lane, found } = under(x, y);
    const track = trackAt(lane);
    if (!track) return;
    scene.trackId = track.id;
    const more = event.shiftKey || event.ctrlKey || event.metaKey;
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
    const nothing = (c: Cue) => c.end;
    const none: Snapping = { marks: new Float64Array(0), reach: 0, rate: RATE };
    if (!found) {
      held.value = {
        handle: 'box',
        x,
        y,
        lane,
        base: more ? hands.chosen : [],
        snapping: none,
        frames: nothing,
        moved: false,
      };
      return;
    }
    const { cue, handle } = found;
    if (more) return hands.toggle(cue.id);
    const ids = hands.selected.has(cue.id) ? [...hands.selected] : [cue.id];
    void hands.select(ids, cue.id);
    const moving = new Set(ids);
    const base = scene.cues.filter((c) => moving.has(c.id) && !hands.isLocked(c));
    if (!base.some((c) => c.id === cue.id)) return;
    const { loop } = scene.current;
    const others = [
      transport.position,
      0,
      ...(loop ? [loop.start, loop.end] : []),
      ...scene.markers.map((m) => m.at),
      ...scene.eventMarks,
    ];
    const copying = event.altKey && handle === 'body';
    const marks = marksOf(scene.cues, copying ? new Set() : moving, others, RATE);
    const mine: Held = {
      ...{ handle, cue: base.find((c) => c.id === cue.id)!, x, y, lane, base, frames: nothing, moved: false },
      snapping: { marks, reach: REACH / sight.value.scale, frames: scene.rate, rate: RATE },
    };
    held.value = mine;
    // Until it is known how long the sounds are, edges are not drawn out.
    void hands.lengths(base).then((frames) => (mine.frames = frames));
    if (copying) void catalogue.newIds('cues', base.length).then((fresh) => (mine.copies = fresh));
  }

  const free = (event: PointerEvent, of: Snapping): Snapping =>
    event.shiftKey || !hands.snapping ? { ...of, marks: new Float64Array(0), frames: undefined } : of;

  const at = (sample: number) =>
    scene.current ? timecodeAt(scene.current, sampleToFrame(Math.round(sample), scene.rate, RATE)) : '';
  const ms = (samples: number) => `${signed((samples / RATE) * 1000, 0)} ms`;

  /** What cues come to where the hand is, and how that is told. */
  function outcome(own: Held, event: PointerEvent, x: number, y: number): { cues: Cue[]; text: string } {
    const { handle, base } = own;
    const cue = own.cue!;
    const { scale } = sight.value;
    const snap = free(event, own.snapping);
    if (handle === 'body') {
      const wanted = snapped(cue.at + (x - own.x) / scale, snap) - cue.at;
      const by = Math.max(wanted, -Math.min(...base.map((c) => c.at)));
      const lanes = base.map((c) => scene.tracks.findIndex((t) => t.id === c.trackId));
      const step = Math.max(
        -Math.min(...lanes),
        Math.min(scene.tracks.length - 1 - Math.max(...lanes), Math.floor(y / laneHeight) - own.lane),
      );
      const cues = base.map((c, i) => ({
        ...c,
        ...(own.copies ? { id: own.copies[i] } : {}),
        at: c.at + by,
        trackId: scene.tracks[lanes[i] + step].id,
      }));
      return { cues, text: `${at(cue.at + by)}, ${ms(by)}${own.copies ? ', a copy' : ''}` };
    }
    if (handle === 'gain') {
      const by = gainBy(y - own.y, sight.value.height);
      const cues = base.map((c) => ({
        ...c,
        gain: Math.max(GAINS.least, Math.min(GAINS.most, Math.round((c.gain + by) * 10) / 10)),
      }));
      return { cues, text: `${signed(cues.find((c) => c.id === cue.id)!.gain, 1)} dB` };
    }
    const to = sampleAt(sight.value, x);
    if (handle === 'fadeIn' || handle === 'fadeOut') {
      const cues = base.map((c) => {
        if (c.id === cue.id) return faded(c, handle, to, RATE);
        const mine = faded(cue, handle, to, RATE)[handle];
        const { start, end } = spanOf(c, RATE);
        return faded(c, handle, handle === 'fadeIn' ? start + mine * RATE : end - mine * RATE, RATE);
      });
      return { cues, text: `${Math.round(cues.find((c) => c.id === cue.id)![handle] * 1000)} ms` };
    }
    const edge = handle as 'start' | 'end';
    const before = spanOf(cue, RATE)[edge];
    const by = snapped(to, snap) - before;
    const cues = base.map((c) => trimmed(c, edge, spanOf(c, RATE)[edge] + by, own.frames(c), RATE));
    const mine = cues.find((c) => c.id === cue.id)!;
    return { cues, text: `${at(spanOf(mine, RATE)[edge])}, ${ms(spanOf(mine, RATE)[edge] - before)}` };
  }

  function move(event: PointerEvent): void {
    const { x, y } = place(event);
    const own = held.value;
    if (!own) {
      const { found } = under(x, y);
      cursor.value = found ? cursors[found.handle] : 'default';
      return;
    }
    if (!own.moved && Math.hypot(x - own.x, y - own.y) <= STILL) return;
    own.moved = true;
    if (own.handle === 'box') {
      const [left, top] = [Math.min(x, own.x), Math.min(y, own.y)];
      box.value = { left, top, width: Math.abs(x - own.x), height: Math.abs(y - own.y) };
      return;
    }
    // A copy needs a name of its own first.
    if (event.altKey && own.handle === 'body' && !own.copies) return;
    const { cues, text } = outcome(own, event, x, y);
    scene.draft = new Map(cues.map((c) => [c.id, c]));
    told.value = { x, y, text };
  }

  function letGo(): void {
    held.value = undefined;
    told.value = undefined;
    box.value = undefined;
  }

  /** A drafted cue as it is kept: what the hand changed of it, and all else as it is by now. */
  function kept(cue: Cue, { base, copies }: Held): Cue {
    const before = base.find((c) => c.id === cue.id);
    const now = scene.cues.find((c) => c.id === cue.id);
    if (copies || !before || !now) return cue;
    const keys = (Object.keys(cue) as (keyof Cue)[]).filter((k) => cue[k] !== before[k]);
    return { ...now, ...Object.fromEntries(keys.map((k) => [k, cue[k]])) };
  }

  const verbs: Record<Handle, string> = {
    ...{ body: 'Move', start: 'Trim', end: 'Trim', fadeIn: 'Fade of', fadeOut: 'Fade of', gain: 'Gain of' },
  };
  async function up(event: PointerEvent): Promise<void> {
    const own = held.value;
    if (!own) return;
    const { x } = place(event);
    const drawn = box.value;
    letGo();
    if (own.handle === 'box') {
      if (!own.moved) {
        seek(x);
        if (own.base.length === 0) await hands.select([]);
        return;
      }
      const lanes = scene.tracks.slice(
        Math.floor(drawn!.top / laneHeight),
        Math.floor((drawn!.top + drawn!.height) / laneHeight) + 1,
      );
      const ids = within(
        scene.cues,
        new Set(lanes.map((t) => t.id)),
        sampleAt(sight.value, own.x),
        sampleAt(sight.value, x),
        RATE,
      );
      return hands.select([...new Set([...own.base.map((c) => c.id), ...ids])]);
    }
    if (!own.moved || scene.draft.size === 0) return;
    const cues = [...scene.draft.values()].map((c) => kept(c, own));
    await scene.keepCues(`${own.copies ? 'Copy' : verbs[own.handle]} ${hands.nameOf(cues)}`, cues);
    scene.draft = new Map();
    if (own.copies) await hands.select(own.copies, own.copies[own.base.findIndex((c) => c.id === own.cue!.id)]);
  }

  /** Lets what is held be as it was. @returns whether anything was held */
  function cancel(): boolean {
    const was = held.value !== undefined;
    letGo();
    if (was) scene.draft = new Map();
    return was;
  }

  /** The wheel over a corner changes the form of the fade. @returns whether it did */
  function turned(event: WheelEvent): boolean {
    const { x, y } = place(event);
    const { found } = under(x, y);
    if (!found || (found.handle !== 'fadeIn' && found.handle !== 'fadeOut') || !hands.selected.has(found.cue.id))
      return false;
    void hands.formBy(event.deltaY > 0 ? 1 : -1);
    return true;
  }

  return { down, move, up, cancel, turned, cursor, told, box, dragging: computed(() => held.value?.moved === true) };
}
