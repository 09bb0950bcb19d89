import {
  ARTWORK,
  compared,
  pictureCompared,
  printText,
  publisherKey,
  takenFrom,
  toldKeys,
  type Choice,
  type Choices,
  type Compared,
  type FieldState,
} from '@core/elsewhere';
import { textsOf, valuesFrom, type PictureRef, type Sound } from '@core/library';
import type { ExchangeEntry, Publication, PublicKey, PublishAsk, PublisherFacts } from '@core/schemas';
import type { LabelExchange } from '../elsewhere/exchange';
import { tellablePicture, toldPicture } from '../elsewhere/pictures';
import { MOST_PICTURE } from '@core/schemas';
import { FACTS_VERSION, type RootRecord } from '../store/store';
import { carryOut, eachSound, tables, tagNames, type Desk, type Plan, type Progress } from './desk';

/** A sound of which the publisher says something. */
export interface LookedUp {
  id: number;
  /** `exact`: the very audio. `near`: the same recording, coded or cut otherwise. */
  match: 'exact' | 'near';
  fields: Compared[];
}

/** What came of looking sounds up. */
export interface LookedUpAll {
  /** As the publisher writes its name; nothing where nobody has that name. */
  publisher?: string;
  revision: number;
  rows: LookedUp[];
  /** Sounds of which the publisher says nothing. */
  unknown: number[];
  /** Sounds that are not measured yet, and so have no fingerprint. */
  unmeasured: number[];
  /** Sounds of which the publisher says nothing any more. */
  withdrawn: number[];
  counts: Record<FieldState, number>;
  /** Values that their fields cannot hold, and why: they are left out. */
  faults: { id: number; message: string }[];
}

/** Sounds whose fingerprints are read at once. */
const PART = 500;

interface Asked {
  sound: Sound;
  /** By what the publisher is asked for it: as it was known there before, or by its own audio. */
  hash: string;
  toldBefore: boolean;
}

/** Looks labels up by the sounds themselves, shows what they would change, and puts on what is wanted. */
export class LookUp {
  private known = new Map<number, ExchangeEntry>();
  private rows: LookedUp[] = [];
  private publisher = '';
  private revision = 0;
  private exchange: LabelExchange | undefined;

  constructor(private readonly desk: Desk) {}

  /**
   * Asks an exchange what a publisher says of sounds. Of those that were looked up before, only what changed since is sent.
   * @throws Elsewhere where it cannot be had
   */
  async look(exchange: LabelExchange, name: string, ids: readonly number[], progress: Progress): Promise<LookedUpAll> {
    progress(0, 'Reading fingerprints');
    const all: Asked[] = [];
    const unmeasured: number[] = [];
    await eachSound(this.desk, ids, (sound) => {
      if (sound.hash === undefined) return void unmeasured.push(sound.id);
      const toldBefore = sound.told !== undefined && publisherKey(sound.told.publisher) === publisherKey(name);
      all.push({ sound, toldBefore, hash: toldBefore ? sound.told!.hash : sound.hash });
    });
    const facts = await exchange.publisher(name);
    this.known = new Map();
    this.rows = [];
    this.exchange = exchange;
    const nothing = { new: 0, guessed: 0, corrected: 0, edited: 0, same: 0 };
    const ofNone = {
      revision: 0,
      rows: [],
      unknown: all.map((a) => a.sound.id),
      unmeasured,
      withdrawn: [],
      counts: nothing,
      faults: [],
    };
    if (!facts) return ofNone;
    [this.publisher, this.revision] = [facts.publisher, facts.revision];
    progress(0.2, `Asking ${facts.publisher}`);
    const { withdrawn, unknown } = await this.ask(exchange, facts, all, progress);
    progress(0.9, 'Comparing');
    const tags = await tagNames(this.desk);
    const counts: Record<FieldState, number> = { ...nothing };
    const faults: LookedUpAll['faults'] = [];
    for (const { sound, hash } of all) {
      const entry = this.known.get(sound.id);
      if (!entry) continue;
      const keys = toldKeys(Object.keys(entry.labels));
      const before = hash === sound.told?.hash ? sound.told.labels : undefined;
      const told = compared(textsOf(sound, keys, tags), entry.labels, sound.from, before);
      const fields = told.filter(({ key, theirs }) => {
        const value = valuesFrom({ [key]: theirs });
        if ('fault' in value) faults.push({ id: sound.id, message: value.fault });
        return !('fault' in value);
      });
      fields.push(...pictureCompared(hash === sound.told?.hash ? sound : { ...sound, told: undefined }, entry.artwork));
      for (const { state } of fields) counts[state]++;
      this.rows.push({ id: sound.id, match: entry.hash === sound.hash ? 'exact' : 'near', fields });
    }
    return {
      publisher: facts.publisher,
      revision: facts.revision,
      rows: this.rows,
      unknown,
      unmeasured,
      withdrawn,
      counts,
      faults,
    };
  }

  /** Finds what is said of each sound: what was known before and has not changed, what is found by its audio, and by likeness. */
  private async ask(exchange: LabelExchange, { publisher }: PublisherFacts, all: readonly Asked[], progress: Progress) {
    const withdrawn: number[] = [];
    const before = all.filter((a) => a.toldBefore);
    const fresh = all.filter((a) => !a.toldBefore);
    if (before.length > 0) {
      const since = Math.min(...before.map((a) => a.sound.told!.revision));
      const hashes = [...new Set(before.map((a) => a.hash))];
      const changed = await exchange.lookUp(publisher, hashes, () => undefined, since);
      const byHash = new Map(changed.entries.map((e) => [e.hash, e]));
      const gone = new Set(changed.withdrawn);
      for (const { sound, hash } of before) {
        const { revision, labels, artwork } = sound.told!;
        const same = { hash, revision, labels: { ...labels }, ...(artwork ? { artwork } : {}) };
        if (gone.has(hash)) withdrawn.push(sound.id);
        else this.known.set(sound.id, byHash.get(hash) ?? same);
      }
    }
    const told = (share: number) => progress(0.2 + 0.3 * share, `Asking ${publisher}`);
    const hashes = [...new Set(fresh.map((a) => a.hash))];
    const exact = hashes.length > 0 ? await exchange.lookUp(publisher, hashes, told) : { entries: [] };
    const byHash = new Map(exact.entries.map((e) => [e.hash, e]));
    const rest: Asked[] = [];
    for (const asked of fresh) {
      const entry = byHash.get(asked.hash);
      if (entry) this.known.set(asked.sound.id, entry);
      else rest.push(asked);
    }
    for (let from = 0; from < rest.length; from += PART) {
      const part = rest.slice(from, from + PART);
      const records = await this.desk.store.facts.bulkGet(part.map((a) => a.sound.id));
      const printed = records.flatMap((r, i) =>
        r?.version === FACTS_VERSION ? [{ of: part[i], print: printText(r) }] : [],
      );
      const found = await exchange.lookNear(
        publisher,
        printed.map((p) => p.print),
        () => undefined,
      );
      for (const [at, entry] of found) this.known.set(printed[at].of.sound.id, entry);
      progress(0.5 + (0.4 * (from + part.length)) / rest.length, `Asking ${publisher} by likeness`);
    }
    return { withdrawn, unknown: rest.filter((a) => !this.known.has(a.sound.id)).map((a) => a.sound.id) };
  }

  /**
   * Puts on what is wanted, as one edit; what was taken is remembered, so that a correction is known as one.
   * @param chosen by sound and field, where somebody chose for one
   * @returns how many sounds changed
   */
  async take(
    choices: Choices,
    chosen: Readonly<Record<number, Record<string, Choice>>>,
    progress: Progress,
  ): Promise<number> {
    await tables(this.desk);
    const plans: Plan[] = [];
    const pictures = new Map<string, PictureRef>();
    await eachSound(
      this.desk,
      this.rows.map((r) => r.id),
      (sound, i) => {
        const { fields } = this.rows[i];
        const { hash, revision, labels, artwork } = this.known.get(sound.id)!;
        const { [ARTWORK]: picture, ...texts } = takenFrom(fields, choices, chosen[sound.id]);
        const values = valuesFrom(texts);
        const told = {
          ...{ publisher: this.publisher, hash, revision: Math.max(revision, this.revision), labels },
          ...(artwork ? { artwork } : {}),
        };
        if (picture !== undefined && artwork) pictures.set(artwork.sha256, artwork);
        if (!('fault' in values))
          plans.push({ sound, values, more: { told, ...(picture === undefined ? {} : { picture: artwork }) } });
      },
      (share) => progress(share * 0.5, 'Working out what changes'),
    );
    progress(0.6, 'Keeping the changes');
    const day = new Date().toISOString().slice(0, 10);
    const by = `exchange ${this.publisher}, ${day}` as const;
    const label = `Label ${plans.length} sounds as ${this.publisher} does`;
    const changed = await carryOut(this.desk, plans, by, { label, by });
    // They are here from then on; one that cannot be had now is asked for when it is to be seen.
    for (const ref of pictures.values()) await toldPicture(this.exchange!, ref).catch(() => undefined);
    return changed;
  }
}

/** What publishing would say of one sound. */
export interface ToPublish {
  id: number;
  state: 'added' | 'changed' | 'same';
  /** Fields of which something else is said than before. */
  keys: string[];
}

/** What publishing would do. */
export interface PublishPlan {
  /** What is known of the publisher; nothing where nobody has that name yet. */
  facts?: PublisherFacts;
  rows: ToPublish[];
  counts: Record<ToPublish['state'], number>;
  /** Sounds without a fingerprint, or of which there is nothing to say. */
  unmeasured: number[];
  unlabelled: number[];
  /** Sounds whose artwork is not told: it cannot be read, or there are more pictures than go at once. */
  unpictured: number[];
  /** Sounds of which nothing more would be said, where all of these were taken back. */
  published: number;
}

type Entry = PublishAsk['entries'][number];

const signing = { name: 'ECDSA', hash: 'SHA-256' } as const;

/** Bytes as base64. */
function base64(bytes: Uint8Array): string {
  let text = '';
  for (let at = 0; at < bytes.length; at += 0x8000) text += String.fromCharCode(...bytes.subarray(at, at + 0x8000));
  return btoa(text);
}

/** Bytes as base64url. */
function base64url(bytes: ArrayBuffer): string {
  const text = base64(new Uint8Array(bytes));
  return text.replace(/\+/g, '-').replace(/\//g, '_').replace(/=+$/, '');
}

/** Publishes labels of sounds: what would be said is seen first. */
export class LabelPublisher {
  private entries: Entry[] = [];
  private hashes: string[] = [];
  private after = 0;
  private name = '';
  /** Pictures of what was planned, by their sums. */
  private readonly pictures = new Map<string, Uint8Array>();

  constructor(private readonly desk: Desk) {}

  /** Pictures in the files of sounds, by sound. What a sound was told by somebody else is not told on. */
  private async picturesOf(sounds: readonly Sound[], progress: Progress): Promise<Map<number, PictureRef>> {
    const roots = new Map((await this.desk.store.roots.toArray()).map((r) => [r.id, r as RootRecord]));
    const found = new Map<number, PictureRef>();
    for (const [i, sound] of sounds.entries()) {
      const root = roots.get(sound.rootId);
      const picture = root && (await tellablePicture(root, sound));
      progress(0.5 + (0.4 * i) / sounds.length, 'Reading artwork');
      const fits = this.pictures.size < MOST_PICTURE.count || this.pictures.has(picture?.ref.sha256 ?? '');
      if (!picture || !fits) continue;
      this.pictures.set(picture.ref.sha256, picture.bytes);
      found.set(sound.id, picture.ref);
    }
    return found;
  }

  /** Works out what publishing sounds would say that is not said yet. @param withArtwork whether the pictures in their files are told, too */
  async plan(
    exchange: LabelExchange,
    name: string,
    ids: readonly number[],
    progress: Progress,
    withArtwork = false,
  ): Promise<PublishPlan> {
    progress(0, 'Reading labels');
    const facts = await exchange.publisher(name);
    this.name = facts?.publisher ?? name.trim();
    this.after = facts?.revision ?? 0;
    const tags = await tagNames(this.desk);
    const rows: (ToPublish & { entry: Entry })[] = [];
    const [unmeasured, unlabelled]: [number[], number[]] = [[], []];
    const sounds: Sound[] = [];
    await eachSound(this.desk, ids, (sound) => void sounds.push(sound));
    for (let from = 0; from < sounds.length; from += PART) {
      const part = sounds.slice(from, from + PART);
      const records = await this.desk.store.facts.bulkGet(part.map((s) => s.id));
      part.forEach((sound, i) => {
        const record = records[i];
        if (sound.hash === undefined || record?.version !== FACTS_VERSION) return void unmeasured.push(sound.id);
        const texts = textsOf(sound, toldKeys(Object.keys(sound.fields)), tags);
        const labels = Object.fromEntries(Object.entries(texts).filter(([, text]) => text !== ''));
        if (labels.fxName === undefined && labels.description === undefined && labels.catId === undefined)
          return void unlabelled.push(sound.id);
        rows.push({
          id: sound.id,
          state: 'added',
          keys: [],
          entry: { hash: sound.hash, print: printText(record), labels },
        });
      });
      progress((0.5 * (from + part.length)) / sounds.length, 'Reading labels');
    }
    const hashes = [...new Set(rows.map((r) => r.entry.hash))];
    const there = facts && hashes.length > 0 ? await exchange.lookUp(name, hashes, () => undefined) : { entries: [] };
    const said = new Map(there.entries.map((e) => [e.hash, e]));
    this.pictures.clear();
    const told = new Set(rows.map((r) => r.id));
    const artwork = withArtwork
      ? await this.picturesOf(
          sounds.filter((s) => told.has(s.id)),
          progress,
        )
      : undefined;
    const seen = new Set<string>();
    const counts = { added: 0, changed: 0, same: 0 };
    const own = rows.filter(({ entry }) => !seen.has(entry.hash) && seen.add(entry.hash));
    for (const row of own) {
      const before = said.get(row.entry.hash);
      const { labels } = row.entry;
      const keys = toldKeys([...Object.keys(labels), ...Object.keys(before?.labels ?? {})]);
      row.keys = keys.filter((key) => labels[key] !== before?.labels[key]);
      // What is told of a picture stays where there is none to tell, or it cannot be read now: it is taken back with the labels alone.
      const picture = artwork?.get(row.id) ?? before?.artwork;
      if (picture) row.entry.artwork = picture;
      if (picture?.sha256 !== before?.artwork?.sha256) row.keys.push(ARTWORK);
      row.state = !before ? 'added' : row.keys.length > 0 ? 'changed' : 'same';
      counts[row.state]++;
    }
    this.entries = own.filter((r) => r.state !== 'same').map((r) => r.entry);
    this.hashes = own.filter((r) => said.has(r.entry.hash)).map((r) => r.entry.hash);
    return {
      ...(facts ? { facts } : {}),
      rows: own.map(({ id, state, keys }) => ({ id, state, keys })),
      ...{ counts, unmeasured, unlabelled, published: this.hashes.length },
      unpictured: artwork
        ? sounds.filter((s) => told.has(s.id) && s.artwork && !artwork.has(s.id)).map((s) => s.id)
        : [],
    };
  }

  /** Publishes what was planned, or takes back what is published of it. @param key the pair by which the name is published */
  async publish(
    exchange: LabelExchange,
    key: { private: CryptoKey; public: PublicKey },
    note: string,
    what: 'say' | 'take back',
  ): Promise<Publication> {
    const [entries, withdrawn] = what === 'say' ? [this.entries, []] : [[], this.hashes];
    const at = new Date().toISOString();
    const named = new Set(entries.map((e) => e.artwork?.sha256));
    const pictures = [...this.pictures].filter(([sha256]) => named.has(sha256));
    const ask: PublishAsk = {
      ...{ publisher: this.name, key: key.public, after: this.after, at, note, entries, withdrawn },
      ...(pictures.length > 0
        ? { pictures: pictures.map(([sha256, bytes]) => ({ sha256, data: base64(bytes) })) }
        : {}),
    };
    return exchange.publish(ask, async (bytes) => base64url(await crypto.subtle.sign(signing, key.private, bytes)));
  }
}
