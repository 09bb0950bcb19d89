import type { FamilyName, RoomName, Settings, SoundPlan } from '@core/synth';
import { Random, seedOf } from '@core/synth';

/** Labels that a demo file carries, in whatever blocks its library's style asks for. */
export interface DemoLabels {
  catId?: string;
  fxName?: string;
  description?: string;
  keywords?: string[];
  licence?: string;
}

/** One file of the demo library, before it is made. */
export interface DemoFile {
  library: string;
  /** Below the library's folder. */
  path: string;
  plan: SoundPlan;
  format: 'wav' | 'aiff' | 'flac' | 'ogg';
  bits: 16 | 24;
  labels: DemoLabels;
  /** Whether the sound repeats seamlessly enough to be marked as a loop. */
  loop?: boolean;
  /** No signal at all, as a recorder leaves behind whose input was off. */
  silent?: boolean;
}

/** A kind of sound from which several takes are made, each a little other than the last. */
export interface Kind {
  family: FamilyName;
  takes: number;
  /** Shortest and longest take, seconds. */
  seconds: readonly [number, number];
  settings?: Settings;
  /** Settings that vary from take to take: lowest and highest. */
  spread?: Readonly<Record<string, readonly [number, number]>>;
  room?: RoomName;
  channels?: 1 | 2 | 4;
  rate?: number;
  peak?: number;
}

/** The plan of one take of a kind, made from its name alone. */
export function planTake(kind: Kind, name: string, take: number): SoundPlan {
  const seed = seedOf(`${name}#${take}`);
  // Each take has its own place within the kind's ranges.
  const share = (salt: string) => new Random(seedOf(`${salt}/${name}/${take}`)).next();
  const settings: Record<string, number> = { ...kind.settings };
  for (const [key, [low, high]] of Object.entries(kind.spread ?? {})) settings[key] = low + (high - low) * share(key);
  const [short, long] = kind.seconds;
  return {
    family: kind.family,
    settings,
    seed,
    rate: kind.rate ?? 48000,
    seconds: Math.round((short + (long - short) * share('seconds')) * 100) / 100,
    channels: kind.channels ?? 2,
    room: kind.room,
    pan: (share('pan') - 0.5) * 0.5,
    peak: (kind.peak ?? 0.8) * (0.7 + 0.3 * share('peak')),
  };
}
