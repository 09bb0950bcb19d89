import { PrintIndex } from '@core/audio';
import { printFrom, publisherKey } from '@core/elsewhere';
import {
  MOST_ASKED,
  type ExchangeEntry,
  type LookupAnswer,
  type LookupAsk,
  type NearAnswer,
  type NearAsk,
  type PrintText,
  type Publication,
  type PublicKey,
  type PublishAsk,
  type PublisherFacts,
} from '@core/schemas';

/** What is kept of one sound of a publisher. */
export interface KeptEntry extends ExchangeEntry {
  print: PrintText;
  /** Nothing is said of it any more; `revision` tells since when. */
  withdrawn?: true;
}

/** All that is kept of a publisher. */
export interface KeptPublisher {
  publisher: string;
  key: PublicKey;
  revision: number;
  entries: KeptEntry[];
  publications: Publication[];
}

/** Why something cannot be done, in words, and as a status of HTTP. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

const sameKey = (a: PublicKey, b: PublicKey): boolean => a.x === b.x && a.y === b.y;
const sameLabels = (a: Readonly<Record<string, string>>, b: Readonly<Record<string, string>>): boolean =>
  Object.keys(a).length === Object.keys(b).length && Object.entries(a).every(([key, value]) => b[key] === value);

/** A publisher as it is asked: by exact and by robust fingerprints. */
class Publisher {
  private readonly byHash: Map<string, KeptEntry>;
  private near: { index: PrintIndex; entries: KeptEntry[] } | undefined;

  constructor(readonly kept: KeptPublisher) {
    this.byHash = new Map(kept.entries.map((e) => [e.hash, e]));
  }

  entry(hash: string): KeptEntry | undefined {
    return this.byHash.get(hash);
  }

  find(print: PrintText): KeptEntry | undefined {
    if (!this.near) {
      const entries = this.kept.entries.filter((e) => !e.withdrawn);
      this.near = { entries, index: new PrintIndex(entries.map((e) => printFrom(e.print))) };
    }
    const at = this.near.index.find(printFrom(print));
    return at === undefined ? undefined : this.near.entries[at];
  }
}

const shown = ({ hash, revision, labels, artwork }: KeptEntry): ExchangeEntry => ({
  ...{ hash, revision, labels },
  ...(artwork ? { artwork } : {}),
});

/** What publishers say of sounds, by the sounds themselves. Knows nothing of how it is asked, and keeps nothing by itself. */
export class Exchange {
  private readonly publishers: Map<string, Publisher>;

  constructor(kept: readonly KeptPublisher[]) {
    this.publishers = new Map(kept.map((k) => [publisherKey(k.publisher), new Publisher(k)]));
  }

  get size(): number {
    return this.publishers.size;
  }

  private named(publisher: string): Publisher {
    const found = this.publishers.get(publisherKey(publisher));
    if (!found) throw new Refused(`Nobody publishes here under the name “${publisher.slice(0, 60)}”.`, 404);
    return found;
  }

  /** What is known of a publisher. @throws Refused where there is none of that name */
  facts(name: string): PublisherFacts {
    const { publisher, revision, key, publications, entries } = this.named(name).kept;
    return { publisher, revision, key, publications, sounds: entries.filter((e) => !e.withdrawn).length };
  }

  /** What a publisher says of sounds that are the very ones. @throws Refused */
  lookUp({ publisher: name, hashes, since = 0 }: LookupAsk): LookupAnswer {
    if (hashes.length > MOST_ASKED.hashes) throw new Refused('Ask of fewer sounds at once.', 413);
    const publisher = this.named(name);
    const found = [...new Set(hashes)].flatMap((h) => publisher.entry(h) ?? []).filter((e) => e.revision > since);
    return {
      publisher: publisher.kept.publisher,
      revision: publisher.kept.revision,
      entries: found.filter((e) => !e.withdrawn).map(shown),
      withdrawn: found.filter((e) => e.withdrawn).map((e) => e.hash),
    };
  }

  /** What a publisher says of sounds that are the same recordings, however they were coded. @throws Refused */
  lookNear({ publisher: name, prints }: NearAsk): NearAnswer {
    if (prints.length > MOST_ASKED.prints) throw new Refused('Ask of fewer sounds at once.', 413);
    const publisher = this.named(name);
    const found = prints.flatMap((print, at) => {
      const entry = publisher.find(print);
      return entry ? [{ at, entry: shown(entry) }] : [];
    });
    return { publisher: publisher.kept.publisher, revision: publisher.kept.revision, found };
  }

  /**
   * What becomes of a publisher by what was published; whether it was signed by the key that it names was looked at before. Nothing is changed yet.
   * @throws Refused where another key began the name, or somebody published since
   */
  publish(ask: PublishAsk): { kept: KeptPublisher; publication: Publication } {
    const before = this.publishers.get(publisherKey(ask.publisher))?.kept;
    if (before && !sameKey(before.key, ask.key))
      throw new Refused(
        `“${before.publisher}” is published by somebody else: only the key that began it may go on.`,
        403,
      );
    const revision = before?.revision ?? 0;
    if (ask.after !== revision)
      throw new Refused(
        `“${ask.publisher}” is at revision ${revision} by now; look at what changed, and publish again.`,
        409,
      );
    const entries = new Map(before?.entries.map((e) => [e.hash, e]));
    const counts = { added: 0, changed: 0, withdrawn: 0 };
    for (const hash of ask.withdrawn) {
      const old = entries.get(hash);
      if (!old || old.withdrawn) continue;
      counts.withdrawn++;
      const { artwork: _, ...rest } = old;
      entries.set(hash, { ...rest, labels: {}, revision: revision + 1, withdrawn: true });
    }
    for (const { hash, print, labels, artwork } of ask.entries) {
      const old = entries.get(hash);
      const isSame = old && sameLabels(old.labels, labels) && old.artwork?.sha256 === artwork?.sha256;
      if (isSame && !old.withdrawn) continue;
      if (old && !old.withdrawn) counts.changed++;
      else counts.added++;
      entries.set(hash, { hash, print, labels, revision: revision + 1, ...(artwork ? { artwork } : {}) });
    }
    if (counts.added + counts.changed + counts.withdrawn === 0)
      throw new Refused('All of this is published already.', 409);
    const publication: Publication = { revision: revision + 1, at: ask.at, note: ask.note, ...counts };
    const kept: KeptPublisher = {
      ...{ publisher: before?.publisher ?? ask.publisher.trim(), key: ask.key, revision: revision + 1 },
      entries: [...entries.values()],
      publications: [...(before?.publications ?? []), publication],
    };
    return { kept, publication };
  }

  /** Whether anybody tells of a picture. */
  tells(sha256: string): boolean {
    return [...this.publishers.values()].some(({ kept }) => kept.entries.some((e) => e.artwork?.sha256 === sha256));
  }

  /** Puts a publisher in its place, once it is kept. */
  take(kept: KeptPublisher): void {
    this.publishers.set(publisherKey(kept.publisher), new Publisher(kept));
  }
}
