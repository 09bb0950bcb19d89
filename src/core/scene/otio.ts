import type { Track } from './lines';
import type { Colour } from '@core/schemas';
import type { Cue, Marker, Scene } from './scene';
import { spanOf, timeReference } from './scene';

type Json = Record<string, unknown>;

/** An OpenTimelineIO schema object. */
function object(schema: string, name: string, rest: Json): Json {
  return { OTIO_SCHEMA: schema, metadata: {}, name, ...rest };
}

const time = (value: number, rate: number) => ({ OTIO_SCHEMA: 'RationalTime.1', rate, value });
const range = (start: number, length: number, rate: number) => ({
  OTIO_SCHEMA: 'TimeRange.1',
  start_time: time(start, rate),
  duration: time(length, rate),
});

/** Items of one OpenTimelineIO track follow each other; cues that overlap go onto further lanes. */
function lanes(cues: Cue[], scene: Scene): Cue[][] {
  const made: { cues: Cue[]; end: number }[] = [];
  const spans = cues.map((cue) => ({ cue, ...wholeSpan(cue, scene) })).sort((a, b) => a.start - b.start);
  for (const { cue, start, end } of spans) {
    const free = made.find((lane) => lane.end <= start);
    if (free) {
      free.cues.push(cue);
      free.end = end;
    } else made.push({ cues: [cue], end });
  }
  return made.map((lane) => lane.cues);
}

/** A cue's place in whole samples, from the scene's start on. */
function wholeSpan(cue: Cue, scene: Scene): { start: number; end: number } {
  const { start, end } = spanOf(cue, scene.sampleRate);
  return { start: Math.max(0, Math.ceil(start)), end: Math.max(1, Math.ceil(end)) };
}

function clip(cue: Cue, scene: Scene, fileOf: (cue: Cue) => string): Json {
  const { start, end } = wholeSpan(cue, scene);
  const ratio = cue.rate / scene.sampleRate;
  const rate = scene.sampleRate;
  const sourceStart = (cue.anchor + (start - cue.at) * ratio) / ratio;
  const marker = object('Marker.2', 'anchor', { color: 'ORANGE', marked_range: range(cue.anchor / ratio, 0, rate) });
  return object('Clip.2', cue.name, {
    source_range: range(sourceStart, end - start, rate),
    enabled: !cue.mute,
    effects: [],
    markers: [marker],
    active_media_reference_key: 'DEFAULT_MEDIA',
    media_references: {
      DEFAULT_MEDIA: object('ExternalReference.1', cue.name, {
        target_url: encodeURI(fileOf(cue)),
        available_range: null,
      }),
    },
    metadata: { cormorant: { anchor_at: cue.at, gain_db: cue.gain } },
  });
}

/** The nearest of the colours that the format has for markers. */
export const markerColours: Record<Colour, string> = { sky: 'CYAN', coral: 'RED', moss: 'GREEN', plum: 'PURPLE' };

/**
 * Writes an OpenTimelineIO timeline (JSON): a track per track and lane, gaps between clips, markers on the whole, all times in samples.
 * @param all tracks in their order; @param fileOf the path or URL of a cue's sound
 */
export function writeOtio(
  scene: Scene,
  all: readonly Track[],
  cues: readonly Cue[],
  fileOf: (cue: Cue) => string,
  own: readonly Marker[] = [],
): string {
  const rate = scene.sampleRate;
  const markers = own.map(({ name, at, colour }) =>
    object('Marker.2', name, { color: colour ? markerColours[colour] : 'WHITE', marked_range: range(at, 0, rate) }),
  );
  const tracks = all.flatMap((track) => {
    const rows = lanes(
      cues.filter((c) => c.trackId === track.id),
      scene,
    );
    return (rows.length > 0 ? rows : [[]]).map((lane, n) => {
      const children: Json[] = [];
      let at = 0;
      for (const cue of lane) {
        const { start, end } = wholeSpan(cue, scene);
        if (start > at)
          children.push(object('Gap.1', '', { source_range: range(0, start - at, rate), effects: [], markers: [] }));
        children.push(clip(cue, scene, fileOf));
        at = end;
      }
      return object('Track.1', n === 0 ? track.name : `${track.name} (${n + 1})`, {
        kind: 'Audio',
        children,
        source_range: null,
        enabled: !track.mute,
        effects: [],
        markers: [],
        metadata: { cormorant: { gain_db: track.gain } },
      });
    });
  });
  const timeline = object('Timeline.1', scene.name, {
    global_start_time: time(Number(timeReference(scene)), rate),
    tracks: object('Stack.1', 'tracks', { children: tracks, source_range: null, effects: [], markers }),
  });
  return JSON.stringify(timeline, null, 2);
}
