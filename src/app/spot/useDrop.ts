import { timecodeAt, sampleToFrame, type Cue } from '@core/scene';
import { marksOf, sampleAt, snapped, type Sight } from '@core/timeline';
import { RATE } from '@platform/index';
import { shallowRef, type ComputedRef } from 'vue';
import { bringsSounds, draggedSounds, droppedSounds } from '../shared/take/drag';
import { useTransport } from '../stores/transport';
import { useHands } from '../stores/hands';
import { useLibrary } from '../stores/library';
import { usePlacing } from '../stores/placing';
import { useScene } from '../stores/scene';

/** Pixels within which a mark draws. */
const REACH = 7;

/**
 * Sounds dragged onto the lanes of a timeline: where their anchors would land is seen, and heard while the scene runs, before they are let go of.
 * @param laneHeight pixels from one lane to the next
 */
export function useDrop(sight: ComputedRef<Sight>, laneHeight: number) {
  const scene = useScene();
  const hands = useHands();
  const transport = useTransport();
  const library = useLibrary();
  const placing = usePlacing();
  const told = shallowRef<{ x: number; y: number; text: string }>();

  function landing(event: DragEvent): { x: number; y: number; at: number; trackId: number | undefined } {
    const rect = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const [x, y] = [event.clientX - rect.left, event.clientY - rect.top];
    const marks = [transport.position, 0, ...scene.markers.map((m) => m.at), ...scene.eventMarks];
    const own = new Set(scene.pending.map((c) => c.id));
    const free = event.shiftKey || !hands.snapping;
    const at = snapped(sampleAt(sight.value, x), {
      marks: free ? new Float64Array(0) : marksOf(scene.cues, own, marks, RATE),
      reach: REACH / sight.value.scale,
      frames: free ? undefined : scene.rate,
      rate: RATE,
    });
    const lane = Math.max(0, Math.min(scene.tracks.length - 1, Math.floor(y / laneHeight)));
    return { x, y, at: Math.max(0, at), trackId: scene.tracks[lane]?.id };
  }

  /** What lands, as cues that nobody keeps: made once, then moved along. */
  let carried: { key: string; cues: readonly Cue[]; at: number } | undefined;
  /** Whatever a drag comes to within the lanes takes it: the cue that is drawn under the hand, too. */
  function enter(event: DragEvent): boolean {
    const takes = bringsSounds(event) && scene.current !== undefined && !scene.comparing;
    if (takes) event.preventDefault();
    return takes;
  }
  async function over(event: DragEvent): Promise<void> {
    if (!enter(event) || !scene.current) return;
    const { x, y, at, trackId } = landing(event);
    told.value = { x, y, text: timecodeAt(scene.current, sampleToFrame(at, scene.rate, RATE)) };
    const ids = draggedSounds();
    const key = ids.join();
    if (carried?.key !== key) {
      carried = { key, cues: [], at };
      const cues = await placing.drafted(await library.need([...ids]), at, trackId);
      // Gone again, or come with others, while these were read.
      if (carried?.key !== key) return;
      carried = { key, cues, at };
    }
    const { cues, at: from } = carried;
    const one = placing.way !== 'tracks';
    scene.pending = cues.map((c) => ({
      ...c,
      at: c.at - from + at,
      trackId: one ? (trackId ?? c.trackId) : c.trackId,
    }));
  }

  /** A drag that goes on to something within the lanes has not left them. */
  function leave(event?: DragEvent): void {
    const lanes = event?.currentTarget as HTMLElement | undefined;
    if (event?.relatedTarget instanceof Node && lanes?.contains(event.relatedTarget)) return;
    told.value = undefined;
    carried = undefined;
    scene.pending = [];
  }

  async function drop(event: DragEvent): Promise<void> {
    const ids = droppedSounds(event);
    if (!ids || !scene.current) return;
    event.preventDefault();
    const { at, trackId } = landing(event);
    leave();
    await placing.place(await library.need(ids), at, trackId);
  }
  return { enter, over, leave, drop, told };
}
