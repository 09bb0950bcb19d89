import {
  MOST_ASKED,
  validators,
  type ExchangeEntry,
  type LookupAnswer,
  type NearAnswer,
  type PrintText,
  type Publication,
  type PublishAsk,
  type PublisherFacts,
} from '@core/schemas';
import { isShowable } from '@core/files';
import type { PictureRef } from '@core/library';
import { sumOf } from '../files/sum';
import { Elsewhere, posted, type Service } from './service';

/** An exchange of labels, whichever stands behind it. */
export interface LabelExchange {
  /** What is known of a publisher; undefined where nobody has that name. @throws Elsewhere */
  publisher(name: string): Promise<PublisherFacts | undefined>;
  /** What a publisher says of sounds that are the very ones. @param since the revision after which it was said */
  lookUp(
    publisher: string,
    hashes: readonly string[],
    told: (share: number) => void,
    since?: number,
  ): Promise<LookupAnswer>;
  /** What a publisher says of the same recordings, however they were coded; by their places in `prints`. */
  lookNear(
    publisher: string,
    prints: readonly PrintText[],
    told: (share: number) => void,
  ): Promise<Map<number, ExchangeEntry>>;
  /** A picture that is told of a sound, checked by its sum. @throws Elsewhere */
  picture(ref: PictureRef): Promise<Blob>;
  /** Publishes. @param sign makes the signature of bytes, as base64url */
  publish(ask: PublishAsk, sign: (bytes: Uint8Array<ArrayBuffer>) => Promise<string>): Promise<Publication>;
}

/** An exchange by its protocol, see docs/services.md. */
export class Exchange implements LabelExchange {
  constructor(private readonly service: Service) {}

  async publisher(name: string): Promise<PublisherFacts | undefined> {
    try {
      return await this.service.answer<PublisherFacts>(
        `v1/publishers/${encodeURIComponent(name)}`,
        validators.publisherFacts,
      );
    } catch (error) {
      if (error instanceof Elsewhere && error.message.startsWith('Nobody publishes')) return undefined;
      throw error;
    }
  }

  async lookUp(
    publisher: string,
    hashes: readonly string[],
    told: (share: number) => void,
    since?: number,
  ): Promise<LookupAnswer> {
    const answers: LookupAnswer[] = [];
    for (let at = 0; at === 0 || at < hashes.length; at += MOST_ASKED.hashes) {
      const ask = {
        publisher,
        hashes: hashes.slice(at, at + MOST_ASKED.hashes),
        ...(since === undefined ? {} : { since }),
      };
      answers.push(
        await this.service.answer<LookupAnswer>('v1/lookup', validators.lookupAnswer, posted(JSON.stringify(ask))),
      );
      told(Math.min(1, (at + MOST_ASKED.hashes) / hashes.length));
    }
    const [first] = answers;
    return {
      ...first,
      entries: answers.flatMap((a) => a.entries),
      withdrawn: answers.flatMap((a) => a.withdrawn),
    };
  }

  async lookNear(
    publisher: string,
    prints: readonly PrintText[],
    told: (share: number) => void,
  ): Promise<Map<number, ExchangeEntry>> {
    const found = new Map<number, ExchangeEntry>();
    for (let from = 0; from < prints.length; from += MOST_ASKED.prints) {
      const ask = { publisher, prints: prints.slice(from, from + MOST_ASKED.prints) };
      const answer = await this.service.answer<NearAnswer>(
        'v1/near',
        validators.nearAnswer,
        posted(JSON.stringify(ask)),
      );
      // What was not asked for is no answer.
      for (const { at, entry } of answer.found) if (at < ask.prints.length) found.set(from + at, entry);
      told(Math.min(1, (from + MOST_ASKED.prints) / prints.length));
    }
    return found;
  }

  async picture({ sha256, mime, size }: PictureRef): Promise<Blob> {
    const answer = await this.service.ask(`v1/pictures/${sha256}`);
    const blob = (await answer.blob()).slice(0, size + 1, mime);
    const bytes = new Uint8Array(await blob.arrayBuffer());
    if (blob.size !== size || (await sumOf(blob)) !== sha256 || !isShowable(bytes))
      throw new Elsewhere('The exchange sent another picture than it told of.');
    return blob;
  }

  async publish(ask: PublishAsk, sign: (bytes: Uint8Array<ArrayBuffer>) => Promise<string>): Promise<Publication> {
    const bytes = new TextEncoder().encode(JSON.stringify(ask));
    return this.service.answer<Publication>(
      'v1/publish',
      validators.publication,
      posted(bytes, { 'X-Signature': await sign(bytes) }),
    );
  }
}
