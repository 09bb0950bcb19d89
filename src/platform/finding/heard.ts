import type { Store } from '../store/store';

/** A day on which sounds were heard, as the clock on the wall counts days. */
export interface HeardDay {
  /** `2026-03-14`. */
  day: string;
  /** Sounds, each once. */
  count: number;
}

const dayOf = (at: number) => {
  const date = new Date(at);
  return `${date.getFullYear()}-${String(date.getMonth() + 1).padStart(2, '0')}-${String(date.getDate()).padStart(2, '0')}`;
};

/** The sounds that were heard on a day before some moment, the one heard last first. A day that is none has none. */
export async function heardOnDay(store: Store, day: string, before = Infinity): Promise<number[]> {
  const parts = /^(\d{4})-(\d{2})-(\d{2})$/.exec(day)?.slice(1).map(Number);
  if (!parts) return [];
  const [from, to] = [0, 1].map((more) => new Date(parts[0], parts[1] - 1, parts[2] + more).getTime());
  const plays = await store.plays.where('at').between(from, Math.min(to, before), true, false).toArray();
  return [...new Set(plays.reverse().map((p) => p.soundId))];
}

/** The days on which something was heard, newest first. */
export async function heardDays(store: Store): Promise<HeardDay[]> {
  const days = new Map<string, Set<number>>();
  await store.plays.orderBy('at').each(({ at, soundId }) => {
    const day = dayOf(at);
    const sounds = days.get(day);
    if (sounds) sounds.add(soundId);
    else days.set(day, new Set([soundId]));
  });
  return [...days].reverse().map(([day, sounds]) => ({ day, count: sounds.size }));
}

/** The sounds that were heard before some moment while a scene was worked on. */
export async function heardFor(store: Store, sceneId: number, before = Infinity): Promise<number[]> {
  const plays = await store.plays.where('sceneId').equals(sceneId).toArray();
  return [...new Set(plays.filter((p) => p.at < before).map((p) => p.soundId))];
}
