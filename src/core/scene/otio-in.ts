import { checkedFile, validators, type OtioItem, type OtioTime, type OtioTimeline } from '@core/schemas';
import { frameRates } from './timecode';

/** A clip of a timeline. Samples at the rate that was asked for, from the timeline's beginning */
export interface TimelineClip {
  track: string;
  kind: 'picture' | 'sound';
  name: string;
  url: string;
  start: number;
  length: number;
  /** Where it begins in its media. Seconds */
  sourceStart: number;
  mute: boolean;
  /** What was written of a cue of ours. dB */
  gain?: number;
}

/** What an OpenTimelineIO timeline says. */
export interface TimelineRead {
  name: string;
  /** Samples from midnight; undefined where it does not say. */
  start?: number;
  clips: TimelineClip[];
  /** Middles of dissolves of the picture. */
  dissolves: number[];
  markers: { at: number; name: string; colour: string }[];
  /** What was not taken over, in words. */
  problems: string[];
}

/** Stacks within stacks; what goes deeper is no cut of anybody. */
const DEEP = 32;
/** Items that a timeline has at most. */
const MOST = 200_000;
/** Newest versions of the schemas that are read; those of later ones are read alike, and said. */
const KNOWN: Record<string, number> = { Timeline: 1, Stack: 1, Track: 1, Clip: 2, Gap: 1, Transition: 1, Marker: 2 };

const kindOf = ({ OTIO_SCHEMA: schema }: OtioItem) => schema.split('.')[0];

/** Seconds of a time; rates that are written short are those of the standards. */
function seconds({ value, rate }: OtioTime): number {
  const known = frameRates.find((r) => Math.abs(r.num / r.den - rate) < 0.005);
  return known ? (value * known.den) / known.num : value / rate;
}

/** A part of a timeline that is seen, in seconds of the timeline: what stands outside of it was cut away. */
interface Window {
  start: number;
  end: number;
}

/**
 * Reads an OpenTimelineIO timeline (JSON): tracks, stacks within them, gaps, clips of either version, transitions, markers. Items of later schema
 * versions are read as those that are known.
 * @param sampleRate that places are told in
 * @throws Error when the JSON is no timeline
 */
export function readOtio(json: string, sampleRate = 48_000): TimelineRead {
  const timeline = checkedFile<OtioTimeline>(json, validators.timeline, 'the OpenTimelineIO timeline');
  const read: TimelineRead = { name: timeline.name ?? '', clips: [], dissolves: [], markers: [], problems: [] };
  const problems = new Set<string>();
  const sample = (time: number) => Math.round(time * sampleRate);
  let items = 0;
  if (timeline.global_start_time) read.start = sample(seconds(timeline.global_start_time));

  const mediaOf = (item: OtioItem) =>
    item.media_references?.[item.active_media_reference_key ?? 'DEFAULT_MEDIA'] ?? item.media_reference ?? undefined;
  /** How long an item is by itself. */
  function lengthOf(item: OtioItem, depth: number): number {
    if (depth > DEEP) return 0;
    if (item.source_range) return Math.max(0, seconds(item.source_range.duration));
    const range = mediaOf(item)?.available_range;
    if (range) return Math.max(0, seconds(range.duration));
    const children = (item.children ?? []).filter((c) => kindOf(c) !== 'Transition').map((c) => lengthOf(c, depth + 1));
    return kindOf(item) === 'Track' ? children.reduce((sum, n) => sum + n, 0) : Math.max(0, ...children);
  }
  function marks(item: OtioItem, at: number, from: number, seen: Window): void {
    for (const { name, color, marked_range: range } of item.markers ?? []) {
      const there = at + seconds(range.start_time) - from;
      // The anchor that our own clips carry is no marker of the scene.
      if (there < seen.start || there > seen.end || (kindOf(item) === 'Clip' && name === 'anchor')) continue;
      read.markers.push({ at: sample(there), name: name ?? '', colour: color ?? '' });
    }
  }
  function visit(
    item: OtioItem,
    at: number,
    seen: Window,
    track: string,
    kind: TimelineClip['kind'],
    depth: number,
  ): void {
    if (depth > DEEP) return void problems.add(`Stacks within stacks, more than ${DEEP} deep, are left out`);
    if (++items > MOST)
      return void problems.add(`Of more than ${MOST.toLocaleString('en')} items, the rest is left out`);
    const family = kindOf(item);
    const version = Number(item.OTIO_SCHEMA.split('.')[1]);
    if (family in KNOWN && version > KNOWN[family])
      problems.add(
        `${item.OTIO_SCHEMA} is of a newer version than is known here; it is read like ${family}.${KNOWN[family]}`,
      );
    const from = item.source_range ? seconds(item.source_range.start_time) : 0;
    const own = { start: Math.max(seen.start, at), end: Math.min(seen.end, at + lengthOf(item, depth)) };
    marks(item, at, from, own);
    for (const { OTIO_SCHEMA: effect } of item.effects ?? [])
      problems.add(`“${item.name ?? ''}”: ${effect.split('.')[0]} is not taken over`);
    if (family === 'Clip') {
      if (own.end <= own.start) return;
      const media = mediaOf(item);
      const gain = (item.metadata as { cormorant?: { gain_db?: unknown } } | undefined)?.cormorant?.gain_db;
      read.clips.push({
        ...{ track, kind, name: item.name ?? '', url: media?.target_url ?? '', mute: item.enabled === false },
        ...{ start: sample(own.start), length: sample(own.end) - sample(own.start) },
        sourceStart:
          (item.source_range ? from : media?.available_range ? seconds(media.available_range.start_time) : 0) +
          own.start -
          at,
        ...(typeof gain === 'number' && Math.abs(gain) < 200 ? { gain } : {}),
      });
    } else if (family === 'Stack') {
      for (const child of item.children ?? []) visit(child, at - from, own, track, kind, depth + 1);
    } else if (family === 'Track') {
      const named = depth <= 1 ? (item.name ?? '') : track;
      const of = item.kind === 'Audio' ? 'sound' : item.kind === 'Video' ? 'picture' : kind;
      let next = at - from;
      for (const child of item.children ?? []) {
        if (kindOf(child) === 'Transition') {
          const [before, behind] = [child.in_offset, child.out_offset].map((t) => (t ? seconds(t) : 0));
          const middle = next + (behind - before) / 2;
          if (of === 'picture' && middle > own.start && middle < own.end) read.dissolves.push(sample(middle));
          continue;
        }
        visit(child, next, own, named, of, depth + 1);
        next += lengthOf(child, depth + 1);
      }
    } else if (family !== 'Gap')
      problems.add(`${item.OTIO_SCHEMA} “${item.name ?? ''}” is not known here and is left out`);
  }
  visit(timeline.tracks, 0, { start: 0, end: Infinity }, '', 'sound', 0);
  read.problems = [...problems];
  return read;
}
