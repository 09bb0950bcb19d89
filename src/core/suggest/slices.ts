import { EnergyCollector, FRAME_RATE, Halver, SpectralCollector } from '@core/audio';
import { suggestAnchor } from './anchor';
import { isSpoken } from './announcement';

/** What a reel is made of: blows with short tails, sounds that go on, or both. */
export type ReelKind = 'percussive' | 'sustained' | 'mixed';

/** What cutting a reel needs to know of it; all of it is collected in one pass, a small part of what intake measures. */
export class ReelCollector {
  private readonly energy: EnergyCollector;
  private readonly halver: Halver;
  private readonly spectral: SpectralCollector;
  private at = 0;

  /** @param rate Hz */
  constructor(readonly rate: number) {
    const halvings = Math.max(0, Math.floor(Math.log2(rate / 20_000)));
    this.energy = new EnergyCollector(rate);
    this.halver = new Halver(halvings);
    this.spectral = new SpectralCollector(rate, rate / 2 ** halvings);
  }

  /** Takes the next block: one array per channel, all as long. */
  push(planes: readonly Float32Array[]): void {
    this.energy.push(planes as Float32Array[]);
    const mono = planes.length === 1 ? planes[0] : planes[0].slice();
    for (const plane of planes.slice(1)) for (let i = 0; i < mono.length; i++) mono[i] += plane[i];
    if (planes.length > 1) for (let i = 0; i < mono.length; i++) mono[i] /= planes.length;
    this.spectral.push(mono, this.halver.push(mono));
    this.at += mono.length;
  }

  /** Ends the reel. */
  finish(): void {
    this.spectral.finish();
  }

  /** How much of it is known by now, frames. */
  get frames(): number {
    return this.at;
  }

  /** Mean squares in spans of `span` frames. */
  get energies(): readonly number[] {
    return this.energy.energies;
  }

  get span(): number {
    return this.energy.span;
  }

  bandsAt(frame: number): Int16Array {
    return this.spectral.levelsAt(frame);
  }
}

/** How a reel is cut. Times in seconds, levels in dB. */
export interface SliceSettings {
  kind: ReelKind;
  /** Two takes begin at least so far apart; as the reel's own pauses have it when absent. */
  apart?: number;
  /** What is shorter is no take. */
  shortest: number;
  /** What lies further below the loudest of the reel is silence. */
  quiet: number;
  /** Kept in front of a take, and behind it. */
  before: number;
  after: number;
  /** Tails are kept down to the noise of the reel, and not only down to `quiet` below their own peak. */
  tails: boolean;
}

/** Settings to begin with, by what the reel is made of. */
export const sliceSettings: Record<ReelKind, SliceSettings> = {
  percussive: { kind: 'percussive', shortest: 0.03, quiet: 40, before: 0.01, after: 0.05, tails: true },
  sustained: { kind: 'sustained', shortest: 0.4, quiet: 45, before: 0.05, after: 0.2, tails: true },
  mixed: { kind: 'mixed', shortest: 0.05, quiet: 45, before: 0.02, after: 0.1, tails: true },
};

/** One take of a reel. Frames. */
export interface Slice {
  start: number;
  /** Not part of it any more. */
  end: number;
  /** Where the take itself begins, behind what is kept in front of it. */
  onset: number;
  /** What would be lined up with the picture, of the reel. */
  anchor: number;
  /** Somebody says what comes, rather than a take. */
  spoken?: boolean;
}

/** Rise and fall in dB that part two takes which no silence parts, and the longest pause inside of a take, seconds. */
const parting: Record<ReelKind, { rise: number; fall: number; pause: number }> = {
  percussive: { rise: 10, fall: 8, pause: 0.12 },
  mixed: { rise: 14, fall: 14, pause: 0.45 },
  sustained: { rise: 20, fall: 20, pause: 1.5 },
};
/** Levels are smoothed over so much, seconds. */
const SMOOTH = 0.02;
/** What stands so far above the noise is sound, and no longer once it stands only half as far above it. dB */
const CLEAR = 8;
/** Takes further below the loudest of them are none: a foot on gravel, a sleeve. dB */
const LEAST = 34;
/** Two takes are never closer than this, seconds. */
const CLOSEST = 0.15;
/** Shorter pauses are all the same, seconds. */
const SHORT = 0.04;
/** Words are no further apart, those of one sentence, and its parts. Seconds */
const [WORD, SENTENCE, COMMA] = [0.2, 0.35, 0.6];
/** Pauses inside of takes are shorter than those between them by this factor at least. */
const BREAK = 2.5;

const dB = (power: number) => 10 * Math.log10(power + 1e-13);

/** Levels of a reel, smoothed, with what its noise is and how loud it gets. */
function levelsOf({ energies, span, rate }: ReelCollector) {
  const width = Math.max(1, Math.round((SMOOTH * rate) / span));
  const levels = new Float32Array(energies.length);
  let sum = 0;
  // Each looks ahead, so that a level stands where its sound begins.
  for (let i = energies.length - 1; i >= 0; i--) {
    sum += energies[i] - (energies[i + width] ?? 0);
    levels[i] = dB(Math.max(0, sum) / width);
  }
  const sorted = levels.slice().sort();
  const at = (share: number) => sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? -130;
  return { levels, noise: Math.max(-110, at(0.08)), top: at(1) };
}

/** A stretch that stands clear of silence, in spans. */
interface Stretch {
  from: number;
  to: number;
  peak: number;
}

function stretchesOf(levels: Float32Array, enter: number, leave: number): Stretch[] {
  const found: Stretch[] = [];
  let open: Stretch | undefined;
  for (let i = 0; i < levels.length; i++) {
    const level = levels[i];
    if (open) {
      if (level > open.peak) open.peak = level;
      if (level >= leave) continue;
      open.to = i;
      found.push(open);
      open = undefined;
    } else if (level >= enter) open = { from: i, to: i, peak: level };
  }
  if (open) found.push({ ...open, to: levels.length });
  return found;
}

/** Parts a stretch where it falls and rises again by so much. */
function parted(levels: Float32Array, stretch: Stretch, { rise, fall }: { rise: number; fall: number }): Stretch[] {
  const parts: Stretch[] = [];
  let from = stretch.from;
  let peak = -Infinity;
  let low = Infinity;
  let lowAt = from;
  for (let i = stretch.from; i < stretch.to; i++) {
    const level = levels[i];
    if (level > peak && low === Infinity) peak = level;
    else if (level <= low && peak - level >= fall) {
      low = level;
      lowAt = i;
    } else if (low < Infinity && level >= low + rise) {
      parts.push({ from, to: lowAt, peak });
      from = lowAt;
      peak = level;
      low = Infinity;
    }
  }
  parts.push({ from, to: stretch.to, peak });
  return parts;
}

/**
 * The pause that tells takes from what happens inside of one: where the pauses of a reel fall into short and long ones.
 * @param least what is shorter is as short as this; @param most the longest inside of a take. Spans, as what is returned
 */
function pauseOf(stretches: readonly Stretch[], spoken: readonly Stretch[], least: number, most: number): number {
  const pauses = stretches.slice(1).flatMap((s, i) => {
    const { to } = stretches[i];
    // Where somebody speaks in between, it is no pause.
    return spoken.some((g) => g.from >= to && g.to <= s.from) ? [] : Math.max(least, s.from - to);
  });
  pauses.sort((a, b) => a - b);
  let [best, pause] = [BREAK, 0];
  // At least two lie between takes, and takes that have pauses have them as a rule.
  for (let i = Math.max(1, Math.ceil(pauses.length / 3)); i <= pauses.length - 2 && pauses[i - 1] <= most; i++) {
    const ratio = pauses[i] / pauses[i - 1];
    if (ratio > best) [best, pause] = [ratio, Math.sqrt(pauses[i] * pauses[i - 1])];
  }
  return pause;
}

/**
 * Where a take begins: the instant from which on it stands clear of what was there before, to a span of the energies.
 * @param from the earliest; @param clear from here on its smoothed level is that of sound; @param to where it is under way
 */
function beginning(energies: readonly number[], from: number, clear: number, to: number, quietest: number): number {
  let peak = 0;
  for (let i = from; i < to; i++) if (energies[i] > peak) peak = energies[i];
  // Between 12 dB above what was there and 45 dB under the peak, whichever is more.
  const least = Math.max(quietest * 16, peak * 10 ** -4.5);
  let at = clear;
  while (at < to - 1 && energies[at] < least) at++;
  for (let i = at - 1, under = 0; i >= from && under < 5; i--) {
    if (energies[i] >= least) [at, under] = [i, 0];
    else under++;
  }
  return at;
}

/** Groups of stretches that belong together, by the pause before each next one and the distance of their beginnings. */
function grouped(stretches: readonly Stretch[], pause: number, apart: number): Stretch[] {
  const groups: Stretch[] = [];
  for (const next of stretches) {
    const last = groups.at(-1);
    const joined = last && (next.from - last.to < pause || next.from - last.from < apart);
    if (joined) Object.assign(last, { to: next.to, peak: Math.max(last.peak, next.peak) });
    else groups.push({ ...next });
  }
  return groups;
}

/** Stretches in which somebody speaks; none where that is what the reel is of. */
function spokenIn(reel: ReelCollector, stretches: readonly Stretch[], spans: (seconds: number) => number): Stretch[] {
  const frame = (span: number) => Math.round((span * reel.span * FRAME_RATE) / reel.rate);
  const tell = (g: Stretch) => isSpoken((f) => reel.bandsAt(f), frame(g.from), frame(g.to));
  const sentences = grouped(stretches, spans(SENTENCE), 0);
  const whole = sentences.filter(tell);
  if (whole.length > sentences.length / 2) return [];
  // Where a take follows at once, single words of the sentence tell.
  const rest = stretches.filter((s) => !whole.some((g) => s.from >= g.from && s.to <= g.to));
  const words = grouped(rest, spans(WORD), 0);
  const sure = words.map(tell);
  const near = (i: number, j: number) =>
    sure[j] && words[Math.max(i, j)].from - words[Math.min(i, j)].to < spans(COMMA);
  const some = words.filter((_, i) => sure[i] || (near(i, i - 1) && near(i, i + 1)));
  return grouped(
    [...whole, ...some].sort((a, b) => a.from - b.from),
    spans(COMMA),
    0,
  );
}

/**
 * Cuts a reel into its takes: by silence, by onsets where tails run into the next take, and by the pauses of the reel, which tell what
 * belongs together. Where somebody says what comes, that is a slice of its own. Slices never overlap, and are in order.
 * @see Bello et al., A Tutorial on Onset Detection in Music Signals (IEEE TSAP 2005), for onsets by energy
 */
export function findSlices(reel: ReelCollector, settings: SliceSettings): Slice[] {
  const { energies, span, rate, frames } = reel;
  if (energies.length === 0) return [];
  const { levels, noise, top } = levelsOf(reel);
  if (top < -90) return [];
  const spans = (seconds: number) => Math.round((seconds * rate) / span);
  const enter = Math.max(noise + CLEAR, top - settings.quiet);
  const leave = settings.tails ? Math.max(noise + CLEAR / 2, top - settings.quiet - 10) : enter - 3;
  const clear = stretchesOf(levels, enter, leave);
  const spoken = spokenIn(reel, clear, spans);
  const isTold = (s: Stretch) => spoken.some((g) => s.from >= g.from && s.to <= g.to);
  const sounds = clear.filter((s) => !isTold(s)).flatMap((s) => parted(levels, s, parting[settings.kind]));
  const longest = spans(parting[settings.kind].pause);
  const loud = sounds.filter((s) => s.peak >= top - LEAST);
  const pause = settings.apart === undefined ? pauseOf(loud, spoken, spans(SHORT), longest) : 0;
  const takes = grouped(sounds, pause, spans(settings.apart ?? CLOSEST)).filter(
    (t) => t.peak >= top - LEAST && t.to - t.from >= spans(settings.shortest),
  );
  const all = [...takes, ...spoken].sort((a, b) => a.from - b.from);
  const before = Math.round(settings.before * rate);
  const after = Math.round(settings.after * rate);
  const onsets = all.map((take, i) => {
    const back = Math.max(i === 0 ? 0 : all[i - 1].to, take.from - spans(0.1));
    let quietest = Infinity;
    for (let k = back; k <= take.from; k++) quietest = Math.min(quietest, 10 ** (levels[k] / 10));
    const at = beginning(energies, back, take.from, Math.min(take.to, take.from + spans(0.06)), quietest);
    return Math.min(frames - 1, at * span);
  });
  // What is kept in front of a take is no part of the one before it that still sounds there.
  const starts = onsets.map((onset, i) => {
    const last = i === 0 ? 0 : Math.max(onsets[i - 1] + 1, Math.min(all[i - 1].to * span, onset));
    return Math.min(onset, Math.max(last, onset - before));
  });
  return all.map((take, i) => {
    const [onset, start] = [onsets[i], starts[i]];
    const end = Math.max(onset + 1, Math.min(starts[i + 1] ?? frames, take.to * span + after, frames));
    const slice = { start, end };
    return { ...slice, onset, anchor: anchorIn(reel, slice), ...(spoken.includes(take) ? { spoken: true } : {}) };
  });
}

/** The instant of a part of a reel that would be lined up with the picture. Frames, of the reel */
export function anchorIn({ energies, span, rate }: ReelCollector, part: { start: number; end: number }): number {
  const first = Math.floor(part.start / span);
  const own = energies.slice(first, Math.ceil(part.end / span));
  return Math.max(
    part.start,
    Math.min(part.end - 1, first * span + suggestAnchor({ energies: own, span }, rate).frame),
  );
}
