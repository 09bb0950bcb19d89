import { fromDb, fullShape, isPlain } from '@core/audio';
import type { Breakpoint } from '@core/effects';
import { effectOf } from '@core/effects';
import { XMLBuilder, XMLParser, XMLValidator } from 'fast-xml-parser';
import type { Incoming } from './incoming';
import { effectsOf, inOrder, type Lines, type Track } from './lines';
import { spanOf, timecodeAt, type Cue, type Marker, type Scene } from './scene';

// DAWproject 1.0, an open exchange format (MIT): a ZIP archive with `project.xml`, `metadata.xml` and the audio.

/** A file of the archive that a cue plays. */
export interface ProjectMedia {
  /** Below the archive's top. */
  path: string;
  channels: number;
  /** Hz */
  rate: number;
  frames: number;
  /** The frame of the file that sounds where the cue begins. */
  from: number;
}

/** Whether a cue plays its file as it is, but for level and fades: what is reversed, faster or stretched is rendered beside. */
export const playsAsIs = ({ shape }: Pick<Cue, 'shape'>): boolean =>
  isPlain({ ...fullShape(shape), gain: 0, fadeIn: 0, fadeOut: 0 });

/** Colours of tracks and clips, as the dark theme has them. */
const colours = { sky: '#7db7dd', coral: '#ea6f56', moss: '#a3c265', plum: '#bd9fe3' } as const;

type Node = Record<string, unknown>;
/** Seconds to a billionth: far below a sample of any rate. */
const seconds = (samples: number, rate: number) => (samples / rate).toFixed(9).replace(/\.?0+$/, '');
const plain = (n: number) => Number(n.toPrecision(12)).toString();
const attributes = (all: Record<string, string | number | undefined>): Node =>
  Object.fromEntries(Object.entries(all).flatMap(([key, v]) => (v === undefined ? [] : [[`@${key}`, String(v)]])));

/** Seconds between two points of a volume curve: straight between them in level is not straight in magnitude. */
const STEP = 0.1;

/** A curve of levels in dB as points in magnitude. */
function levels(points: readonly Breakpoint[], rate: number): { at: number; value: number }[] {
  const out: { at: number; value: number }[] = [];
  points.forEach((point, i) => {
    const next = points[i + 1];
    const steps =
      next && next.value !== point.value ? Math.min(600, Math.ceil((next.at - point.at) / (STEP * rate))) : 1;
    for (let n = 0; n < steps; n++) {
      const share = n / steps;
      const value = next ? point.value + share * (next.value - point.value) : point.value;
      out.push({ at: next ? point.at + share * (next.at - point.at) : point.at, value: fromDb(value) });
    }
  });
  return out;
}

/** Hands out ids; what was asked for by the same name before is the same. */
function ids() {
  const given = new Map<string, string>();
  return (name: string): string => {
    const id = given.get(name) ?? `id${given.size}`;
    given.set(name, id);
    return id;
  };
}

/**
 * Writes a scene as the `project.xml` of a DAWproject archive: tracks and buses with gain, place, colour, mute, solo and sends, volume and pan
 * curves, clips with fades, gain and place, markers. Times are seconds from the scene's first frame.
 * @param mediaOf the file of a cue; a cue without one is left out
 * @param version of what writes it
 */
export function writeDawproject(
  scene: Scene,
  { tracks, effects }: Lines,
  cues: readonly Cue[],
  markers: readonly Marker[],
  mediaOf: (cue: Cue) => ProjectMedia | undefined,
  version: string,
): string {
  const id = ids();
  const rate = scene.sampleRate;
  const all = inOrder(tracks);
  const channelId = (line: number | undefined) =>
    id(all.some((t) => t.id === line) ? `channel ${line}` : 'channel main');
  const real = (name: string, own: string, value: number, unit: string, most: number) => ({
    ...attributes({ id: id(own), name, value: plain(value), unit, min: 0, max: most }),
  });
  const channel = (
    own: string,
    line: Pick<Track, 'gain' | 'place'> & Partial<Track>,
    role: string,
    sends: Node[] = [],
  ): Node => ({
    ...attributes({
      ...{ id: id(`channel ${own}`), role, audioChannels: 2, solo: line.solo ? 'true' : 'false' },
      destination: role === 'master' ? undefined : channelId(line.into),
    }),
    Mute: attributes({ id: id(`mute ${own}`), name: 'Mute', value: line.mute ? 'true' : 'false' }),
    Pan: real('Pan', `pan ${own}`, ((line.place ?? 0) + 1) / 2, 'normalized', 1),
    ...(sends.length > 0 ? { Sends: { Send: sends } } : {}),
    Volume: real('Volume', `volume ${own}`, fromDb(line.gain), 'linear', 4),
  });
  const sendsOf = (track: Track): Node[] =>
    effectsOf(track.id, effects)
      .filter((e) => e.kind === 'send' && e.line !== undefined)
      .map((e) => ({
        ...attributes({ id: id(`send ${e.id}`), destination: channelId(e.line), type: 'post' }),
        Enable: attributes({ id: id(`on ${e.id}`), name: 'Enable', value: e.on ? 'true' : 'false' }),
        Volume: real(
          'Send',
          `sent ${e.id}`,
          fromDb(e.values.gain ?? effectOf('send')?.params.find((p) => p.key === 'gain')?.initial ?? 0),
          'linear',
          4,
        ),
      }));
  const structure = all.map((t) => ({
    ...attributes({ id: id(`track ${t.id}`), name: t.name, contentType: t.bus ? undefined : 'audio', loaded: 'true' }),
    ...attributes({ color: t.colour && colours[t.colour] }),
    Channel: channel(String(t.id), t, t.bus ? 'submix' : 'regular', sendsOf(t)),
  }));
  const main = {
    ...attributes({ id: id('track main'), name: 'Main', contentType: 'audio', loaded: 'true' }),
    Channel: channel('main', scene.main ?? { gain: 0 }, 'master'),
  };

  function clip(cue: Cue): Node[] {
    const media = mediaOf(cue);
    if (!media) return [];
    const { start, end } = spanOf(cue, rate);
    const shape = fullShape(cue.shape);
    const gain = cue.gain + shape.gain;
    const audio = {
      ...attributes({ id: id(`audio ${cue.id}`), channels: media.channels, sampleRate: media.rate, algorithm: 'raw' }),
      ...attributes({ duration: seconds(media.frames, media.rate) }),
      File: attributes({ path: media.path }),
    };
    const still = (expression: string, unit: string, value: number) => ({
      ...attributes({ id: id(`${expression} ${cue.id}`), unit }),
      Target: attributes({ expression }),
      RealPoint: attributes({ time: 0, value: plain(value), interpolation: 'hold' }),
    });
    const points = [
      ...(gain === 0 ? [] : [still('gain', 'linear', fromDb(gain))]),
      ...(cue.place ? [still('pan', 'normalized', (cue.place + 1) / 2)] : []),
    ];
    return [
      {
        ...attributes({ time: seconds(start, rate), duration: seconds(end - start, rate), name: cue.name }),
        ...attributes({
          playStart: seconds(media.from, media.rate),
          contentTimeUnit: 'seconds',
          fadeTimeUnit: 'seconds',
        }),
        ...attributes({
          fadeInTime: plain(cue.fadeIn),
          fadeOutTime: plain(cue.fadeOut),
          enable: cue.mute ? 'false' : 'true',
        }),
        ...attributes({ color: cue.colour && colours[cue.colour] }),
        ...(points.length === 0
          ? { Audio: audio }
          : { Lanes: { ...attributes({ id: id(`lanes ${cue.id}`) }), Audio: audio, Points: points } }),
      },
    ];
  }
  const curve = (own: string, unit: string, points: readonly { at: number; value: number }[]) => ({
    ...attributes({ id: id(`curve ${own}`), unit }),
    Target: attributes({ parameter: id(own) }),
    RealPoint: points.map((p) =>
      attributes({ time: seconds(p.at, rate), value: plain(p.value), interpolation: 'linear' }),
    ),
  });
  const lanes = all.map((t) => {
    const curves = [
      ...(t.points?.gain?.length ? [curve(`volume ${t.id}`, 'linear', levels(t.points.gain, rate))] : []),
      ...(t.points?.place?.length
        ? [
            curve(
              `pan ${t.id}`,
              'normalized',
              t.points.place.map((p) => ({ at: p.at, value: (p.value + 1) / 2 })),
            ),
          ]
        : []),
    ];
    const own = cues.filter((c) => c.trackId === t.id).sort((a, b) => a.at - b.at);
    return {
      ...attributes({ id: id(`lane ${t.id}`), track: id(`track ${t.id}`) }),
      Clips: { ...attributes({ id: id(`clips ${t.id}`) }), Clip: own.flatMap(clip) },
      ...(curves.length > 0 ? { Points: curves } : {}),
    };
  });
  const project = {
    '?xml': { '@version': '1.0', '@encoding': 'UTF-8' },
    Project: {
      ...attributes({ version: '1.0' }),
      Application: attributes({ name: 'Cormorant', version }),
      Transport: {
        Tempo: attributes({ id: id('tempo'), name: 'Tempo', value: 60, unit: 'bpm', min: 20, max: 666 }),
        TimeSignature: attributes({ id: id('signature'), numerator: 4, denominator: 4 }),
      },
      Structure: { Track: [...structure, main] },
      Arrangement: {
        ...attributes({ id: id('arrangement') }),
        Lanes: { ...attributes({ id: id('lanes'), timeUnit: 'seconds' }), Lanes: lanes },
        ...(markers.length > 0
          ? {
              Markers: {
                ...attributes({ id: id('markers'), timeUnit: 'seconds' }),
                Marker: markers.map((m) =>
                  attributes({ time: seconds(m.at, rate), name: m.name, color: m.colour && colours[m.colour] }),
                ),
              },
            }
          : {}),
      },
    },
  };
  return new XMLBuilder({
    format: true,
    suppressEmptyNode: true,
    suppressBooleanAttributes: false,
    ignoreAttributes: false,
    attributeNamePrefix: '@',
  }).build(project);
}

/** Writes the `metadata.xml` of a DAWproject archive; where the scene begins stands in its comment, as projects themselves know no timecode. */
export function writeDawprojectFacts(scene: Scene): string {
  const data = {
    '?xml': { '@version': '1.0', '@encoding': 'UTF-8' },
    MetaData: { Title: scene.name, Comment: `Begins at ${timecodeAt(scene, 0)}, at ${scene.fps} frames a second` },
  };
  return new XMLBuilder({ format: true, ignoreAttributes: false, attributeNamePrefix: '@' }).build(data);
}

/** Characters that the `project.xml` of an archive has at most. */
export const PROJECT_MOST = 64e6;
/** Elements whose children come as a list, however many there are. */
const several = new Set([
  'Track',
  'Lanes',
  'Clips',
  'Clip',
  'Points',
  'RealPoint',
  'Marker',
  'Send',
  'Device',
  'Warp',
  'Warps',
]);

const listOf = (node: unknown, name: string): Node[] => {
  const found = (node as Node | undefined)?.[name];
  return Array.isArray(found) ? (found as Node[]) : found && typeof found === 'object' ? [found as Node] : [];
};
const textOf = (node: Node | undefined, name: string): string => {
  const value = node?.[`@${name}`];
  return typeof value === 'string' ? value : '';
};
function numberOf(node: Node | undefined, name: string, otherwise: number): number {
  const value = Number(textOf(node, name) || NaN);
  return Number.isFinite(value) ? value : otherwise;
}

/**
 * Reads the `project.xml` of a DAWproject archive: its audio clips as clips of a list, its markers. Times in beats are counted at the project's
 * tempo; what follows a curve of tempo, and what is warped, is told.
 * @param name of the file, for a project that has none of its own
 * @throws Error in words when the XML is no project
 */
export function readDawproject(xml: string, name: string, sampleRate = 48_000): Incoming {
  if (xml.length > PROJECT_MOST) throw new Error('its project.xml is larger than any project');
  if (/<!(DOCTYPE|ENTITY)/i.test(xml)) throw new Error('its project.xml declares entities of its own and is not read');
  let project: Node | undefined;
  try {
    const parser = new XMLParser({
      ...{ ignoreAttributes: false, attributeNamePrefix: '@', parseAttributeValue: false, parseTagValue: false },
      isArray: (tag, _path, _leaf, isAttribute) => !isAttribute && several.has(tag),
      maxNestedTags: 64,
    });
    project = (parser.parse(xml) as Node).Project as Node | undefined;
  } catch (error) {
    // The parser's own words speak of itself.
    const fault = XMLValidator.validate(xml);
    const place = fault === true ? '' : ` (line ${fault.err.line})`;
    throw new Error(`its project.xml is not well-formed XML${place}`, { cause: error });
  }
  if (!project || typeof project !== 'object') throw new Error('its project.xml holds no project');
  const problems = new Set<string>();
  const read: Incoming = { name, clips: [], cuts: [], markers: [], problems: [] };
  const bpm = numberOf((project.Transport as Node | undefined)?.Tempo as Node | undefined, 'value', 120);
  const inSeconds = (value: number, unit: string) => (unit === 'beats' ? (value * 60) / bpm : value);
  const names = new Map<string, string>();
  const walkTracks = (nodes: readonly Node[]): void => {
    for (const t of nodes) {
      names.set(textOf(t, 'id'), textOf(t, 'name'));
      if (listOf(t.Channel, 'Devices').length > 0 && listOf(listOf(t.Channel, 'Devices')[0], 'Device').length > 0)
        problems.add(`${textOf(t, 'name')}: its effects are not taken over`);
      walkTracks(listOf(t, 'Track'));
    }
  };
  walkTracks(listOf(project.Structure, 'Track'));
  const arrangement = project.Arrangement as Node | undefined;
  if (arrangement?.TempoAutomation)
    problems.add('Its tempo changes; times in beats are counted at the one it begins with');

  const hex = (colour: string) => Object.entries(colours).find(([, own]) => own === colour.toLowerCase())?.[0];
  /** A clip, with the audio that it or a clip within it plays. @param at where its time counts from, in seconds; @param seen what is seen of what holds it */
  function clip(
    node: Node,
    at: number,
    seen: { start: number; end: number },
    unit: string,
    track: string,
    depth: number,
    gain: number,
    mute: boolean,
  ): void {
    if (depth > 16) return void problems.add('Clips within clips, more than 16 deep, are left out');
    const start = at + inSeconds(numberOf(node, 'time', 0), unit);
    const end = Math.min(seen.end, start + inSeconds(numberOf(node, 'duration', 0), unit));
    const content = textOf(node, 'contentTimeUnit') || unit;
    const from = inSeconds(numberOf(node, 'playStart', 0), content);
    const called = textOf(node, 'name');
    const off = mute || textOf(node, 'enable') === 'false';
    const inner = [node, ...listOf(node, 'Lanes')];
    const still = inner
      .flatMap((n) => listOf(n, 'Points'))
      .find((p) => textOf(p.Target as Node, 'expression') === 'gain');
    const value = numberOf(listOf(still, 'RealPoint')[0], 'value', 1);
    const db =
      gain + (still ? (textOf(still, 'unit') === 'decibel' ? value : 20 * Math.log10(Math.max(1e-6, value))) : 0);
    for (const n of inner) {
      if (listOf(n, 'Notes').length > 0) problems.add(`${track}: notes are not taken over`);
      for (const w of listOf(n, 'Warps')) {
        problems.add(`“${called}” is warped in time; it comes in at its own speed`);
        add(w.Audio as Node | undefined);
      }
      add(n.Audio as Node | undefined);
      for (const clips of listOf(n, 'Clips'))
        for (const c of listOf(clips, 'Clip'))
          clip(c, start - from, { start, end }, content, track, depth + 1, db, off);
    }
    function add(audio: Node | undefined): void {
      if (!audio || end <= start) return;
      const file = textOf(audio.File as Node | undefined, 'path');
      // What the one that holds it cut away at its beginning is not heard.
      const lost = Math.max(0, seen.start - start);
      const sample = (s: number) => Math.round(s * sampleRate);
      read.clips.push({
        ...{ track, name: called || file.split('/').at(-1)!, file, start: sample(start + lost), end: sample(end) },
        ...{ from: from + lost, mute: off, gain: Math.max(-120, Math.min(60, Number(db.toFixed(6)))) },
      });
    }
  }
  const walk = (lanes: Node, track: string, unit: string): void => {
    const own = textOf(lanes, 'timeUnit') || unit;
    const named = textOf(lanes, 'track') ? (names.get(textOf(lanes, 'track')) ?? track) : track;
    for (const clips of listOf(lanes, 'Clips'))
      for (const c of listOf(clips, 'Clip'))
        clip(c, 0, { start: -Infinity, end: Infinity }, textOf(clips, 'timeUnit') || own, named, 0, 0, false);
    if (listOf(lanes, 'Points').length > 0) problems.add(`${named}: curves are not taken over`);
    for (const inner of listOf(lanes, 'Lanes')) walk(inner, named, own);
  };
  for (const lanes of listOf(arrangement, 'Lanes')) walk(lanes, '', 'beats');
  for (const markers of listOf(arrangement, 'Markers')) {
    const unit = textOf(markers, 'timeUnit') || textOf(listOf(arrangement, 'Lanes')[0], 'timeUnit') || 'beats';
    for (const m of listOf(markers, 'Marker')) {
      const colour = hex(textOf(m, 'color')) as Incoming['markers'][number]['colour'];
      const at = Math.round(inSeconds(numberOf(m, 'time', 0), unit) * sampleRate);
      read.markers.push({ at, name: textOf(m, 'name') || 'Marker', ...(colour ? { colour } : {}) });
    }
  }
  return { ...read, problems: [...problems] };
}
