import { changeOf, type Change } from '@core/library';
import type { Track } from '@core/scene';
import { useDebounceFn } from '@vueuse/core';
import { useScene } from './scene';

// What is done with tracks; those of a group take gain, mute and solo together.

/** Tracks that change with one: those of its group, or it alone. */
export function groupOf(of: Track): Track[] {
  const { tracks } = useScene().state;
  const own = tracks.find((t) => t.id === of.id) ?? of;
  return own.group ? tracks.filter((t) => t.group === own.group) : [own];
}

/** A value of a track, and of those of its group: a gain changes by as much, a switch is set. */
function follow(
  of: Track,
  after: Pick<Partial<Track>, 'gain' | 'mute' | 'solo'>,
): { track: Track; after: Partial<Track> }[] {
  const { gain, ...rest } = after;
  const own = useScene().state.tracks.find((t) => t.id === of.id) ?? of;
  const by = gain === undefined ? undefined : gain - own.gain;
  return groupOf(of).map((track) => ({
    track,
    after: {
      ...rest,
      ...(by === undefined ? {} : { gain: Math.max(-60, Math.min(12, Math.round((track.gain + by) * 10) / 10)) }),
    },
  }));
}

/** Sets gain, mute or solo of a track and of its group, as one edit. */
export async function setTracks(
  of: Track,
  label: string,
  after: Pick<Partial<Track>, 'gain' | 'mute' | 'solo'>,
): Promise<void> {
  const scene = useScene();
  await scene.edit(
    label,
    follow(of, after).map((t) => changeOf('tracks', t.track, { ...t.after })),
  );
  scene.trackDraft = new Map();
}

/** A hand rests that did nothing for so long. Milliseconds. */
const QUIET = 350;

/** Lets a gain be heard while a hand is still on it. */
function draftGain(of: Track, gain: number): void {
  useScene().trackDraft = new Map(follow(of, { gain }).map((t) => [t.track.id, { ...t.track, ...t.after }]));
}

let turned: { of: Track; gain: number } | undefined;
async function settleGain(): Promise<void> {
  const last = turned;
  turned = undefined;
  if (last) await setTracks(last.of, `Gain of ${last.of.name}`, { gain: last.gain });
}
const settled = useDebounceFn(settleGain, QUIET);

/** Turns the gain of a track: heard at once, and one edit once the hand rests. */
export function turnGain(of: Track, gain: number): void {
  if (turned && turned.of.id !== of.id) void settleGain();
  turned = { of, gain };
  draftGain(of, gain);
  void settled();
}

/** Puts tracks into an order. */
export async function orderTracks(wanted: readonly Track[]): Promise<void> {
  await useScene().edit(
    'Order the tracks',
    wanted.map((t, order) => changeOf('tracks', t, { order })),
  );
}

/** Removes a track with its cues. */
export async function removeTrack(of: Track): Promise<void> {
  const scene = useScene();
  const gone = scene.cues.filter((c) => c.trackId === of.id);
  if (gone.some((c) => c.id === scene.cueId)) scene.cueId = undefined;
  const changes = gone.map((c): Change => ({ table: 'cues', id: c.id, before: { ...c } }));
  await scene.edit(`Remove ${of.name}`, [...changes, { table: 'tracks', id: of.id, before: { ...of } }]);
}
