import { contourCode, measuredText, teamSoundOf, thinnedContour } from '@core/elsewhere';
import type { ByteSource } from '@core/files';
import { nameOf, type Sound, type TagNames } from '@core/library';
import type { TeamSound } from '@core/schemas';
import { createSHA256 } from 'hash-wasm';
import { Elsewhere } from '../elsewhere/service';
import type { SharedLibraries } from '../elsewhere/team';
import { hasContent, keepFetched } from '../files/fetched';
import { describeFile } from '../audio/reader';
import { fileNameOf } from '../files/file-name';
import { fileSource, openFile, serverUrl } from '../files/roots';
import { fileOfPart } from '../out/file-maker';
import { READ, sumOf } from '../files/sum';
import { tagNames, type Progress } from '../labelling/desk';
import { FACTS_VERSION, type RootRecord, type Store } from '../store/store';

/** Something that was left out, and why. */
export interface LeftOut {
  path: string;
  reason: string;
}

/** What came of adding sounds. */
export interface SharedSounds {
  /** Their ids here and there. */
  added: { id: number; there: number }[];
  /** Bytes that were sent; the rest was there already. */
  bytes: number;
  left: LeftOut[];
  /** Whether it was ended before all of it was done. */
  ended: boolean;
}

/** A sound whose file is there: as it is there, and the path that it has. */
interface Sent {
  sound: Sound;
  path: string;
  file: { sha256: string; size: number };
}

/** The file that a sound goes with: its own, or one that is made of a part of a longer file, in a folder by that one's name. */
async function fileFor(
  root: RootRecord,
  sound: Sound,
  tags: TagNames,
): Promise<Omit<Sent, 'file'> & { source: ByteSource }> {
  const { path, excerpt, format } = sound;
  if (!excerpt) return { source: await openFile(root, path, sound.size), sound, path };
  const source = fileSource(await fileOfPart(root, sound, tags), path);
  const from = (excerpt.start / format.rate).toFixed(3);
  const own = `${path.replace(/\.[^./]*$/, '')}/${fileNameOf(`${nameOf(sound)} ${from} s.wav`)}`;
  return { source, sound: { ...sound, format: (await describeFile(source)).format }, path: own };
}

/** Sounds that are added at once. */
const PART = 50;

/** Adds sounds to libraries of a team, and fetches files of theirs. */
export class Sender {
  private ended = false;

  constructor(readonly store: Store) {}

  /** Ends what is under way after what is in hand. */
  end(): void {
    this.ended = true;
  }

  /**
   * Adds sounds with their labels and what was measured of them. What was begun before is gone on with: bytes that are there are not sent again.
   * @throws Elsewhere where the server cannot be reached, or has no room: what was added until then is there
   */
  async add(team: SharedLibraries, library: number, ids: readonly number[], progress: Progress): Promise<SharedSounds> {
    this.ended = false;
    const roots = new Map((await this.store.roots.toArray()).map((r) => [r.id, r as RootRecord]));
    const told: SharedSounds = { added: [], bytes: 0, left: [], ended: false };
    for (let from = 0; from < ids.length && !this.ended; from += PART) {
      const part = ids.slice(from, from + PART);
      const sounds = (await this.store.sounds.bulkGet([...part])) as (Sound | undefined)[];
      const sent: Sent[] = [];
      let named: Promise<TagNames> | undefined;
      const tags = () => (named ??= tagNames(this));
      for (const [i, sound] of sounds.entries()) {
        if (this.ended) break;
        const root = sound && roots.get(sound.rootId);
        if (!sound || !root) continue;
        progress((from + i) / ids.length, sound.path);
        try {
          const { source, ...own } = await fileFor(root, sound, await tags());
          const { file, bytes } = await this.send(team, library, source);
          told.bytes += bytes;
          sent.push({ ...own, file });
        } catch (error) {
          // What is said of one file leaves the others alone; all else ends it.
          if (error instanceof Elsewhere && ![400, 409].includes(error.status ?? 0)) throw error;
          told.left.push({ path: sound.path, reason: (error as Error).message });
        }
      }
      await this.addPart(team, library, roots, sent, told);
    }
    told.ended = this.ended;
    return told;
  }

  private async addPart(
    team: SharedLibraries,
    library: number,
    roots: ReadonlyMap<number, RootRecord>,
    sent: readonly Sent[],
    told: SharedSounds,
  ): Promise<void> {
    if (sent.length === 0) return;
    const tags = await tagNames(this);
    const peaks = await this.store.peaks.bulkGet(sent.map((s) => s.sound.id));
    const facts = await this.store.facts.bulkGet(sent.map((s) => s.sound.id));
    const rows = sent.map(({ sound, path, file }, i): TeamSound => {
      const contour = peaks[i] ? contourCode(thinnedContour(peaks[i].pairs)) : '';
      // Two roots may well have files of the same names.
      return teamSoundOf(sound, `${roots.get(sound.rootId)!.name}/${path}`, file, { contour, like: '' }, tags);
    });
    const added = await this.addRows(team, library, rows, told);
    for (const [i, there] of added) told.added.push({ id: sent[i].sound.id, there });
    const measured = [...added.keys()].flatMap((i) => {
      const [peak, fact] = [peaks[i], facts[i]];
      if (!peak || fact?.version !== FACTS_VERSION) return [];
      return [{ file: sent[i].file.sha256, measured: measuredText(FACTS_VERSION, peak, fact) }];
    });
    if (measured.length > 0) await team.tellMeasured(library, measured);
  }

  /** Adds rows; where one cannot be, it is found out which, and the others are added. @returns ids there, by place */
  private async addRows(
    team: SharedLibraries,
    library: number,
    rows: readonly TeamSound[],
    told: SharedSounds,
  ): Promise<Map<number, number>> {
    try {
      return new Map((await team.add(library, rows)).map((there, i) => [i, there]));
    } catch (error) {
      if (!(error instanceof Elsewhere) || ![400, 409].includes(error.status ?? 0)) throw error;
      const added = new Map<number, number>();
      for (const [i, row] of rows.entries())
        try {
          added.set(i, (await team.add(library, [row]))[0]);
        } catch (fault) {
          if (!(fault instanceof Elsewhere) || ![400, 409].includes(fault.status ?? 0)) throw fault;
          told.left.push({ path: row.path, reason: fault.message });
        }
      return added;
    }
  }

  /** Sends what of a file is not there yet. @returns how many bytes that were */
  private async send(
    team: SharedLibraries,
    library: number,
    source: ByteSource,
  ): Promise<{ file: Sent['file']; bytes: number }> {
    const { size } = source;
    const hash = await createSHA256();
    for (let at = 0; at < size; at += READ) hash.update(await source.read(at, Math.min(READ, size - at)));
    const file = { sha256: hash.digest(), size };
    let at = await team.sent(library, file);
    let bytes = 0;
    while (at < size && !this.ended) {
      const part = await source.read(at, Math.min(READ, size - at));
      if (part.length === 0) throw new Error('the file became shorter while it was sent');
      const next = await team.send(library, file, at, part as Uint8Array<ArrayBuffer>);
      // A server that takes nothing would be asked without end.
      if (next <= at) throw new Elsewhere('The team’s server took nothing of what was sent. Try again later.');
      bytes += next - at;
      at = next;
    }
    if (at < size) throw new Error('it was not sent whole; adding it again goes on from there');
    return { file, bytes };
  }

  /**
   * Fetches files whole, so that they are heard without the server. A content that is here is not fetched again.
   * @throws Elsewhere where one may not, or not so many: what was fetched until then is kept
   */
  async fetch(ids: readonly number[], progress: Progress): Promise<{ fetched: number; here: number; left: LeftOut[] }> {
    this.ended = false;
    const roots = new Map((await this.store.roots.toArray()).map((r) => [r.id, r as RootRecord]));
    const told = { fetched: 0, here: 0, left: [] as LeftOut[] };
    for (const [i, id] of ids.entries()) {
      if (this.ended) break;
      const sound = await this.store.sounds.get(id);
      const root = sound && roots.get(sound.rootId);
      if (!sound?.team || root?.kind !== 'team') continue;
      progress(i / ids.length, sound.path);
      const url = serverUrl(root, sound.path);
      if (await hasContent(sound.team.file)) {
        await keepFetched(url, sound.team.file);
        told.here++;
        continue;
      }
      const response = await fetch(url, { credentials: 'include' }).catch(() => {
        throw new Elsewhere('The team’s server cannot be reached. What was fetched before is kept.');
      });
      if (!response.ok) {
        const said = ((await response.json().catch(() => ({}))) as { error?: string }).error;
        const reason = said ?? `the server answered with ${response.status}`;
        if (response.status === 404) told.left.push({ path: sound.path, reason });
        else throw new Elsewhere(reason, undefined, response.status);
        continue;
      }
      const blob = await response.blob();
      if ((await sumOf(blob)) !== sound.team.file)
        told.left.push({
          path: sound.path,
          reason: 'what came is not the file that was added there; nothing was kept',
        });
      else {
        await keepFetched(url, sound.team.file, blob);
        told.fetched++;
      }
    }
    return told;
  }
}
