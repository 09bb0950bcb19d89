/** How many backups of each age are kept: the newest of as many hours, days and weeks. */
const KEPT = [
  { span: 3_600_000, count: 4 },
  { span: 86_400_000, count: 7 },
  { span: 7 * 86_400_000, count: 5 },
] as const;
/** Whatever happens, so many of the newest stay. */
const LEAST = 2;

/** A backup that was written by itself. */
export interface KeptBackup {
  /** In the browser's own storage, or with the server, beside it. */
  where: 'browser' | 'server';
  /** When it was written. Milliseconds since 1970. */
  at: number;
  bytes: number;
  /** Whose it is, and how many edits that library had seen; unknown of old ones. */
  library?: string;
  revision?: number;
}

/**
 * Chooses which backups stay: of each of the last hours, days and weeks that have any, the newest.
 * @param most bytes of all together; the oldest go first
 * @returns those that go
 */
export function outdated<B extends Pick<KeptBackup, 'at' | 'bytes'>>(backups: readonly B[], most: number): B[] {
  const newest = [...backups].sort((a, b) => b.at - a.at);
  const stays = new Set(newest.slice(0, LEAST));
  for (const { span, count } of KEPT) {
    const seen = new Set<number>();
    for (const backup of newest) {
      const period = Math.floor(backup.at / span);
      if (seen.has(period)) continue;
      if (seen.size === count) break;
      seen.add(period);
      stays.add(backup);
    }
  }
  let bytes = 0;
  return newest.filter((backup, i) => {
    if (!stays.has(backup)) return true;
    bytes += backup.bytes;
    return i >= LEAST && bytes > most;
  });
}
