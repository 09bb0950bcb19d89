import {
  allows,
  caughtUp,
  contourOf,
  measuredFrom,
  pendingOf,
  soundFrom,
  tagsTold,
  type TagIds,
} from '@core/elsewhere';
import { changeOf, EditConflict, tagByName, type Change, type Sound, type Tag } from '@core/library';
import type { TeamChanges, TeamEdit, TeamMeasured, TeamRow } from '@core/schemas';
import type { Catalogue } from '../catalogue/catalogue';
import { Elsewhere } from '../elsewhere/service';
import type { SharedLibraries } from '../elsewhere/team';
import { eachSound, tagNames, type Progress } from '../labelling/desk';
import { teamLock, underLock } from '../store/locks';
import {
  FACTS_VERSION,
  type FactsRecord,
  type Intake,
  type PeaksRecord,
  type RootRecord,
  type Store,
} from '../store/store';

type TeamRoot = RootRecord & Required<Pick<RootRecord, 'team'>>;

/** What following needs of the catalogue, be it here or in another worker. */
export type TeamCatalogue = {
  [K in 'apply' | 'applyMeasured' | 'newIds']: (
    ...given: Parameters<Catalogue[K]>
  ) => Promise<Awaited<ReturnType<Catalogue[K]>>>;
};

/** What came of following a library. */
export interface Followed {
  /** Sounds that are new here, were changed there, and are there no more. */
  added: number;
  changed: number;
  gone: number;
  /** Sounds whose labels were sent there. */
  sent: number;
  /** Sounds whose labels were changed here and not sent, as one may not change them there. */
  kept: number;
  /** Sounds of which somebody has to choose between two labels. */
  conflicts: number[];
  /** Sounds of which what was measured is to be fetched; all that lack it where that is not known yet. */
  unmeasured: number[] | undefined;
}

/** How often a page is worked out anew where somebody edits meanwhile; how often edits go round until all agree. */
const [TRIES, ROUNDS] = [8, 4];
/** Sounds of which what was measured is asked for at once. */
const MEASURED = 100;

/** Follows libraries of a team: takes over what changed there, and sends what was changed here. */
export class Follower {
  /** Of each library, sounds that wait for somebody's choice. */
  private readonly open = new Map<number, Set<number>>();

  constructor(
    readonly store: Store,
    private readonly catalogue: TeamCatalogue,
  ) {}

  /**
   * Brings a library and this catalogue together. Nobody else does that for the same library meanwhile.
   * @param touched sounds that were changed here since the last time; all are looked at where that is not known
   * @param person who one is: what somebody else changed here waits until they sign in again
   * @throws Elsewhere where the server cannot be reached, or one may not see the library any more: what came until then is kept
   */
  follow(
    team: SharedLibraries,
    rootId: number,
    touched: readonly number[] | undefined,
    progress: Progress,
    person?: string,
  ): Promise<Followed> {
    return underLock(teamLock(rootId), async () => {
      const told: Followed = { added: 0, changed: 0, gone: 0, sent: 0, kept: 0, conflicts: [], unmeasured: [] };
      const fresh: number[] = [];
      const isFirst = !this.open.has(rootId);
      // Where nothing of it is here yet, nothing was changed here.
      const isNew = (await this.root(rootId)).team.revision === 0;
      const isOther = person !== undefined && (await this.handOver(rootId, person));
      let mine = isNew ? [] : isFirst || isOther ? undefined : touched;
      for (let round = 0; round < ROUNDS; round++) {
        await this.catchUp(team, rootId, told, fresh, progress);
        const sent = await this.send(team, rootId, mine, told);
        if (sent.length === 0) break;
        mine = sent;
      }
      told.unmeasured = isFirst ? undefined : fresh;
      told.conflicts = [...(this.open.get(rootId) ?? [])];
      return told;
    });
  }

  /** Leaves to whoever followed it before what they changed and did not send. @returns whether that was somebody else */
  private async handOver(rootId: number, person: string): Promise<boolean> {
    const root = await this.root(rootId);
    const { person: before, waiting = [] } = root.team;
    if (before === person) return false;
    const names = await tagNames(this);
    const known = new Set(waiting.flatMap((w) => w.sounds));
    const left: number[] = [];
    if (before !== undefined)
      await eachSound(
        this,
        (await this.store.sounds.where('rootId').equals(rootId).primaryKeys()) as number[],
        (sound) => {
          if (!known.has(sound.id) && pendingOf(sound, names)) left.push(sound.id);
        },
      );
    // What waited for the one who comes back is theirs to send again.
    const others = waiting.filter((w) => w.person !== person);
    const all = before !== undefined && left.length > 0 ? [...others, { person: before, sounds: left }] : others;
    const change = changeOf('roots', root, {
      'team.person': person,
      'team.waiting': all.length > 0 ? all : undefined,
    });
    if (change) {
      const edit = { label: `Follow ${root.name} as ${person}`, at: Date.now(), by: 'team', changes: [change] };
      await this.catalogue.apply({ ...edit, undoable: false, precondition: 'match' });
    }
    return true;
  }

  private async root(rootId: number): Promise<TeamRoot> {
    const root = await this.store.roots.get(rootId);
    if (!root?.team) throw new Error('This library is not here any more.');
    return root as TeamRoot;
  }

  private async catchUp(
    team: SharedLibraries,
    rootId: number,
    told: Followed,
    fresh: number[],
    progress: Progress,
  ): Promise<void> {
    let intakeId = 0;
    for (let more = true; more;) {
      const root = await this.root(rootId);
      const { library, list, revision } = root.team;
      const page = await (list === undefined ? team.changes(library, revision) : this.listed(team, root, list)).catch(
        (error: unknown) => {
          if (!(error instanceof Elsewhere) || error.status !== 404) throw error;
          throw new Elsewhere(`${root.name} is not there any more, or not for you. What is here of it stays.`);
        },
      );
      ({ more } = page);
      // A server that says that there is more, and tells nothing, is not asked without end.
      if (page.changed.length + page.gone.length === 0 && page.revision === revision) return;
      for (let turn = 1; ; turn++) {
        try {
          intakeId = await this.take(root, page, intakeId, told, fresh);
          break;
        } catch (error) {
          if (!(error instanceof EditConflict || (error as Error).name === 'EditConflict') || turn === TRIES)
            throw error;
        }
      }
      progress(0, `${root.name}: ${told.added + told.changed} sounds`);
    }
  }

  /** What changed of a library of which one hears no more than what is in a list. */
  private async listed(
    team: SharedLibraries,
    { id, team: { library, revision } }: TeamRoot,
    list: number,
  ): Promise<TeamChanges> {
    const rows = (await team.listSounds(list)).flatMap((s) => (s.library === library ? [s.row] : []));
    const here = (await this.store.sounds.where('rootId').equals(id).toArray()) as Sound[];
    const known = new Map(here.map((s) => [s.team?.id, s]));
    const told = new Set(rows.map((r) => r.id));
    return {
      revision: Math.max(revision, ...rows.map((r) => r.revision)),
      more: false,
      // One that was put into the list again is there again.
      changed: rows.filter(
        (r) => r.revision > revision || known.get(r.id)?.fields.state === 'Missing' || !known.has(r.id),
      ),
      gone: here.flatMap((s) => (s.team && !told.has(s.team.id) && s.fields.state !== 'Missing' ? [s.team.id] : [])),
    };
  }

  /** Takes a page over, as one edit. @throws EditConflict where somebody edits the same meanwhile */
  private async take(
    root: TeamRoot,
    { changed: rowsTold, gone, revision }: TeamChanges,
    intakeId: number,
    told: Followed,
    fresh: number[],
  ): Promise<number> {
    // A server that tells a sound twice makes no two of it.
    const changed = [...new Map(rowsTold.map((r) => [r.id, r])).values()];
    const rows = await this.known(root.id, [...changed.map((r) => r.id), ...gone]);
    const names = await tagNames(this);
    const { changes, tagId } = await this.tags(changed);
    const others = changed.filter((r) => !rows.has(r.id));
    let intake = intakeId;
    if (others.length > 0) {
      const before = intake === 0 ? undefined : ((await this.store.intakes.get(intake)) as Intake);
      if (before) changes.push(changeOf('intakes', before, { added: before.added + others.length })!);
      else {
        [intake] = await this.catalogue.newIds('intakes', 1);
        const record: Intake = { id: intake, rootId: root.id, started: Date.now(), added: others.length };
        changes.push({ table: 'intakes', id: intake, after: { ...record } });
      }
    }
    const ids = others.length > 0 ? await this.catalogue.newIds('sounds', others.length) : [];
    const now = Date.now();
    const peaks: PeaksRecord[] = [];
    others.forEach((row, i) => {
      const sound = soundFrom(row, { id: ids[i], rootId: root.id, intakeId: intake, now }, tagId);
      changes.push({ table: 'sounds', id: sound.id, after: { ...sound } });
      if (row.contour) peaks.push({ id: sound.id, ...contourOf(contourFacts(row)) });
    });
    let differ = 0;
    for (const row of changed) {
      const sound = rows.get(row.id);
      const change = sound && caughtUp(sound, row, names, tagId);
      if (!change) continue;
      differ++;
      changes.push(change);
      this.note(root.id, sound.id, (change.after!.team as Sound['team'] | undefined) ?? sound.team);
    }
    let went = 0;
    for (const id of gone) {
      const sound = rows.get(id);
      const change = sound && changeOf('sounds', sound, { 'fields.state': 'Missing', 'from.state': 'measured' });
      if (change) changes.push(change);
      if (change) went++;
    }
    // What is put into a list, or taken out of it, is no change of the library.
    const known = changeOf('roots', root, { 'team.revision': revision });
    if (known) changes.push(known);
    const label = `Catch up with ${root.name}`;
    await this.catalogue.applyMeasured(
      { label, at: now, by: 'team', changes, undoable: false, precondition: 'match' },
      { peaks, facts: [] },
    );
    fresh.push(...ids);
    told.added += others.length;
    told.changed += differ;
    told.gone += went;
    return intake;
  }

  /** Sounds here by their ids there. */
  private async known(rootId: number, ids: readonly number[]): Promise<Map<number, Sound>> {
    if (ids.length === 0) return new Map();
    const wanted = new Set(ids);
    const [first, last] = ids.reduce(([a, b], id) => [Math.min(a, id), Math.max(b, id)], [Infinity, 0]);
    const own = this.store.sounds.where('[rootId+team.id]');
    // Ids that lie together are read at one go.
    const rows =
      last - first < 4 * ids.length
        ? await own.between([rootId, first], [rootId, last], true, true).toArray()
        : await own.anyOf(ids.map((id) => [rootId, id])).toArray();
    return new Map((rows as Sound[]).flatMap((s) => (wanted.has(s.team!.id) ? [[s.team!.id, s]] : [])));
  }

  /** Tags that are told of and not here yet are made. */
  private async tags(rows: readonly TeamRow[]): Promise<{ changes: Change[]; tagId: TagIds }> {
    const key = (name: string) => name.trim().toLocaleLowerCase();
    const here = new Map<string, number>();
    for (const [name, tag] of tagByName((await this.store.tags.toArray()) as Tag[])) here.set(name, tag.id);
    const wanted = new Map([...tagsTold(rows)].filter((n) => !here.has(key(n))).map((n) => [key(n), n.trim()]));
    const ids = wanted.size > 0 ? await this.catalogue.newIds('tags', wanted.size) : [];
    const changes = [...wanted].map(([name, written], i): Change => {
      here.set(name, ids[i]);
      return { table: 'tags', id: ids[i], after: { id: ids[i], name: written } };
    });
    return { changes, tagId: (name) => here.get(key(name)) };
  }

  private note(rootId: number, id: number, team: Sound['team']): void {
    const open = this.open.get(rootId) ?? new Set();
    this.open.set(rootId, open);
    if (team?.conflicts) open.add(id);
    else open.delete(id);
  }

  /** Sends what was changed here. @returns the sounds that were sent */
  private async send(
    team: SharedLibraries,
    rootId: number,
    touched: readonly number[] | undefined,
    told: Followed,
  ): Promise<number[]> {
    const { team: of } = await this.root(rootId);
    const names = await tagNames(this);
    const waits = new Set((of.waiting ?? []).flatMap((w) => w.sounds));
    const edits: TeamEdit[] = [];
    const ids: number[] = [];
    if (!this.open.has(rootId)) this.open.set(rootId, new Set());
    const all = touched ?? ((await this.store.sounds.where('rootId').equals(rootId).primaryKeys()) as number[]);
    await eachSound(this, all, (sound) => {
      if (sound.rootId !== rootId) return;
      this.note(rootId, sound.id, sound.team);
      if (sound.fields.state === 'Missing' || waits.has(sound.id)) return;
      const edit = pendingOf(sound, names);
      if (!edit) return;
      edits.push(edit);
      ids.push(sound.id);
    });
    if (of.list !== undefined || !allows(of.right, 'add')) {
      told.kept = edits.length;
      return [];
    }
    if (edits.length === 0) return [];
    const { conflicts, gone } = await team.edit(of.library, edits);
    told.sent += edits.length - new Set([...conflicts.map((c) => c.id), ...gone]).size;
    return ids;
  }

  /** Sounds of a root of which nothing was measured. */
  private async waiting(rootId: number): Promise<number[]> {
    const ids = (await this.store.sounds.where('rootId').equals(rootId).primaryKeys()) as number[];
    const there = new Set(await this.store.facts.where('id').anyOf(ids).primaryKeys());
    return ids.filter((id) => !there.has(id));
  }

  /**
   * Takes over what whoever added sounds measured of them. Following does not wait for that.
   * @param ids those that are asked for; all that lack it when absent
   * @returns of how many it was there
   */
  async measure(
    team: SharedLibraries,
    rootId: number,
    ids: readonly number[] | undefined,
    progress: Progress,
  ): Promise<number> {
    const { team: of, name } = await this.root(rootId);
    const all = ids ?? (await this.waiting(rootId));
    let count = 0;
    for (let at = 0; at < all.length; at += MEASURED) {
      const part = new Map<number, number>();
      await eachSound(
        this,
        all.slice(at, at + MEASURED),
        (sound) => void (sound.team && part.set(sound.team.id, sound.id)),
      );
      const told =
        part.size > 0 ? await team.measured(of.library, [...part.keys()], of.list) : new Map<number, TeamMeasured>();
      const peaks: PeaksRecord[] = [];
      const facts: FactsRecord[] = [];
      for (const [id, measured] of told) {
        if (measured.version !== FACTS_VERSION) continue;
        try {
          const read = measuredFrom(measured);
          peaks.push({ id: part.get(id)!, ...read.peaks });
          facts.push({ id: part.get(id)!, version: FACTS_VERSION, ...read.arrays });
        } catch {
          // What is cut short counts as not measured.
        }
      }
      count += facts.length;
      if (facts.length > 0)
        await this.catalogue.applyMeasured(
          { label: 'Measure', at: Date.now(), changes: [], undoable: false },
          { peaks, facts },
        );
      progress(Math.min(1, (at + MEASURED) / all.length), name);
    }
    return count;
  }
}

const contourFacts = ({ contour, format }: TeamRow) => ({
  contour,
  seconds: format.frames / format.rate,
  rate: format.rate,
});
