import { changeOf, removalOf } from '@core/library';
import { LOUDEST, withoutLine, type Track } from '@core/scene';
import { useDebounceFn } from '@vueuse/core';
import { tell } from '../shell/notice';
import { useCurves } from './curves';
import { useScene } from './scene';

// What is done with tracks; those of a group take gain, mute and solo together.

/** The softest gain of a line, dB. */
const SOFTEST = -60;
const inTenths = (gain: number) => Math.round(gain * 10) / 10;

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
      ...(by === undefined ? {} : { gain: Math.max(SOFTEST, Math.min(LOUDEST.track, inTenths(track.gain + by))) }),
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

/** Turns the main line up or down by as much; not when that is more than it can be turned. @returns whether it was done */
export async function levelMix(by: number, label: string): Promise<boolean> {
  const scene = useScene();
  const gain = inTenths(scene.main.gain + by);
  if (!scene.current) return false;
  if (gain > LOUDEST.main || gain < SOFTEST) {
    tell.info(
      `The main line would be at ${gain} dB, and goes from ${SOFTEST} to ${LOUDEST.main}: turn the tracks instead`,
    );
    return false;
  }
  const { points } = scene.main;
  // A curve that moves it is moved by as much.
  const moved = points?.gain && {
    points: { ...points, gain: points.gain.map((p) => ({ ...p, value: p.value + by })) },
  };
  return scene.edit(label, [changeOf('scenes', scene.current, { main: { ...scene.main, gain, ...moved } })]);
}

/** A hand rests that did nothing for so long. Milliseconds. */
const QUIET = 350;

/** What a hand is turning: gain, which a group follows, and place. */
interface Turned {
  of: Track;
  after: { gain?: number; place?: number };
}
let turned: Turned | undefined;

/** The tracks that a hand turns, as they would be. */
function turnedTracks({ of, after }: Turned): { track: Track; after: Partial<Track> }[] {
  const { gain, place } = after;
  const own = place === undefined ? {} : { place: place || undefined };
  if (gain === undefined) return [{ track: useScene().state.tracks.find((t) => t.id === of.id) ?? of, after: own }];
  return follow(of, { gain }).map((t) => (t.track.id === of.id ? { ...t, after: { ...t.after, ...own } } : t));
}

async function settle(): Promise<void> {
  const last = turned;
  turned = undefined;
  if (!last) return;
  const scene = useScene();
  const what = last.after.gain === undefined ? 'Place' : 'Gain';
  await scene.edit(
    `${what} of ${last.of.name}`,
    turnedTracks(last).map((t) => changeOf('tracks', t.track, { ...t.after })),
  );
  if (!turned) scene.trackDraft = new Map();
}
const settled = useDebounceFn(settle, QUIET);

/** Turns gain or place of a track: heard at once, and one edit once the hand rests. Where a curve moves it, all of the curve moves. */
export function turnTrack(of: Track, { ...after }: Turned['after']): void {
  const curves = useCurves();
  for (const key of ['gain', 'place'] as const)
    if (after[key] !== undefined && curves.hand({ table: 'tracks', id: of.id, key }, after[key])) delete after[key];
  if (Object.keys(after).length === 0) return;
  if (turned && turned.of.id !== of.id) void settle();
  turned = { of, after: { ...turned?.after, ...after } };
  useScene().trackDraft = new Map(turnedTracks(turned).map((t) => [t.track.id, { ...t.track, ...t.after }]));
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
  const { tracks, effects = [] } = scene.state;
  const kept = withoutLine(of, { tracks, effects });
  await scene.edit(`Remove ${of.name}`, [
    ...gone.map((c) => removalOf('cues', c)),
    ...kept.removed.map((e) => removalOf('effects', e)),
    ...kept.effects.map((e) =>
      changeOf(
        'effects',
        effects.find((old) => old.id === e.id)!,
        { line: undefined },
      ),
    ),
    ...kept.tracks.map((t) =>
      changeOf(
        'tracks',
        tracks.find((old) => old.id === t.id)!,
        { into: t.into },
      ),
    ),
    removalOf('tracks', of),
  ]);
}
