import { fromDb, fullShape } from '@core/audio';
import type { KeyEvent } from '@core/engine';
import { changeOf, type Sound, additionOf } from '@core/library';
import {
  cuesOfTake,
  deal,
  Dealer,
  drawnTo,
  emptyPad,
  endsWithKey,
  FIRST_NOTE,
  hardnessOf,
  letGo,
  nextTake,
  padKeys,
  PADS,
  passes,
  placeTakes,
  removeTake,
  strokeGain,
  struckCue,
  swapSound,
  takeOf,
  type Cue,
  type Pad,
  type Take,
} from '@core/scene';
import { RATE } from '@platform/index';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { things } from '../shared/controls/format';
import { usePlayedKeys } from '../shared/controls/played-keys';
import { tell } from '../shell/notice';
import { useInstrument } from './instrument';
import { useIntake } from './intake';
import { useLibrary } from './library';
import { useOutput } from './output';
import { usePrefs } from './prefs';
import { useScene } from './scene';
import { useTransport } from './transport';
import { catalogue } from './workers';

/** Sounds that a pad holds at the most, and how many of each are made ready to sound at once. */
const [MOST, READY] = [300, 24];
/** Ids of cues that are not kept yet, and the keys by which the engine knows strokes. */
const [UNKEPT, STROKES] = [1_990_000_000, 1000];

const codes = [...padKeys.keys()];
export const padNames = [...padKeys.values()];

/** A key that is down, or was. */
interface Stroke {
  slot: number;
  key: number;
  since: number;
  cue: Cue;
  ends: boolean;
}

/** Sounds played by hand to the picture: eight pads, and the passes that were played. */
export const usePerforming = defineStore('performing', () => {
  const scene = useScene();
  const library = useLibrary();
  const intake = useIntake();
  const transport = useTransport();
  const instrument = useInstrument();
  const prefs = usePrefs();
  const { player } = useOutput();

  /** Whether the keys of the pads play, and mean nothing else meanwhile. */
  const armed = ref(false);
  /** The pad whose key of an instrument is learnt next. */
  const learning = ref<number>();
  /** What each pad plays, by its slot. */
  const pools = shallowRef<ReadonlyMap<number, readonly Sound[]>>(new Map());
  const down = shallowRef<ReadonlySet<number>>(new Set());
  /** The pass that is being played, while the picture runs. */
  const pass = shallowRef<Cue[]>();

  const pads = computed(() =>
    Array.from({ length: PADS }, (_, slot) => scene.current?.pads?.find((p) => p.slot === slot) ?? emptyPad(slot)),
  );
  const takes = computed(() => [...(scene.current?.takes ?? [])].sort((a, b) => b.id - a.id));

  /** Changes a pad, as a step that can be taken back. */
  async function setPad(label: string, slot: number, after: Partial<Pad>): Promise<void> {
    const of = scene.current;
    if (!of) return;
    const others = (of.pads ?? []).filter((p) => p.slot !== slot);
    await scene.patch(label, 'scenes', of, {
      pads: [...others, { ...pads.value[slot], ...after }].sort((a, b) => a.slot - b.slot),
    });
  }

  async function soundsOf({ source, force }: Pad): Promise<readonly Sound[]> {
    let ids: readonly number[];
    if (source.by === 'hand') ids = source.soundIds;
    else {
      const search =
        source.by === 'pull' ? { text: '', pullId: source.pullId } : { text: source.text, reach: 'words' as const };
      if (source.by === 'query' && source.text.trim() === '') return [];
      ids = [...(await catalogue.ids({ ...search, facets: {} })).slice(0, MOST)];
    }
    return (await library.need([...ids])).filter((s) => passes(s, { force }) && !library.absence(s));
  }

  let filling = 0;
  /** Asks anew what each pad holds: pulls and queries go on answering. */
  async function fill(): Promise<void> {
    const turn = ++filling;
    const all = await Promise.all(pads.value.map(async (pad) => [pad.slot, await soundsOf(pad)] as const));
    if (turn !== filling) return;
    pools.value = new Map(all);
    if (armed.value) await ready();
  }
  const used = ref(false);
  watch(
    () => [used.value, pads.value, library.revision] as const,
    ([is]) => is && void fill(),
    { immediate: true },
  );

  const manner = (sound: Sound) => {
    const { start, end, anchor, shape: own } = takeOf(sound);
    const shape = fullShape(own);
    // Heard from its anchor on: what the hand does is what is heard with it.
    const back = shape.direction === 'backward';
    const region = back
      ? { start, end: Math.max(start + 1, Math.min(end, anchor + 1)) }
      : { start: Math.min(anchor, end - 1), end };
    return { region, loop: false, gain: 0, shape };
  };

  /** Makes the sounds of all pads ready to sound at once. */
  async function ready(): Promise<void> {
    for (const pool of pools.value.values()) {
      const first = pool.slice(0, READY);
      if (first.some((s) => s.marks.anchor < 0)) await intake.ensureMeasured(first);
      const items = first.flatMap((s) => {
        const item = library.loadable(s);
        return item ? [{ item, audition: manner(s) }] : [];
      });
      await player.prepare(items);
    }
  }

  function arm(on: boolean): void {
    if (on === armed.value || (on && (!scene.current || scene.isHeld()))) return;
    armed.value = on;
    if (!on) return finish();
    instrument.armed = false;
    used.value = true;
    scene.use();
    void ready();
  }
  watch(
    () => instrument.armed,
    (is) => is && arm(false),
  );
  watch(
    () => scene.current?.id,
    () => arm(false),
    { flush: 'sync' },
  );

  const dealers = new Map<number, Dealer>();
  const strokes = new Map<string, Stroke>();
  let count = 0;

  /** The sample at which a hand was that moved at a moment. @param time as in `performance.now` */
  function instantOf(time: number): number {
    if (!transport.playing) return scene.playheadSample;
    const { reaction, withoutReaction } = prefs;
    const late = reaction && withoutReaction ? (reaction.median * RATE) / 1000 : 0;
    const heard = transport.soundingAt(time) ?? transport.position;
    const loop = scene.current?.loop;
    if (!loop || transport.position < loop.start || transport.position >= loop.end)
      return Math.max(0, heard - late * transport.speed);
    // Between two reports it may have gone round, and the hand may mean what was before that.
    const length = loop.end - loop.start;
    const inside = (heard - late * transport.speed - loop.start) % length;
    return loop.start + (inside < 0 ? inside + length : inside);
  }

  /**
   * A pad is struck. @param by what strikes it, known again when it lets go; @param hardness 0 to 1, undefined for keys that do not tell
   */
  function strike(slot: number, by: string, time: number, hardness?: number): void {
    const of = scene.current;
    const onto = scene.tracks.find((t) => t.id === pads.value[slot].trackId) ?? scene.track;
    if (!of || !onto || scene.isHeld()) return;
    lift(by, time);
    const pad = pads.value[slot];
    const dealer = dealers.get(slot) ?? new Dealer();
    dealers.set(slot, dealer);
    const sound = dealer.next(pools.value.get(slot) ?? [], hardness);
    const item = sound && library.loadable(sound);
    if (!sound || !item) return tell.info(`Pad ${padNames[slot]} has no sound that can be heard: put some on it`);
    const gain = strokeGain(pad, hardness);
    count++;
    const key = STROKES + (count % STROKES);
    // As loud as its cue will be, as far as that does not clip: what is struck goes through no limiter.
    const most = Math.max(0, -((sound.fields.truePeak as number | undefined) ?? 0));
    const level = Math.min(most, gain + onto.gain + scene.main.gain);
    player.press(item, key, manner(sound), { ratio: 1, gain: fromDb(level) });
    const where = { id: UNKEPT + count, sceneId: of.id, trackId: onto.id, gain, made: Date.now() };
    const cue = struckCue(sound, { ...where, at: instantOf(time) });
    strokes.set(by, { slot, key, since: time, cue, ends: endsWithKey(pad, sound) });
    down.value = new Set([...strokes.values()].map((s) => s.slot));
    if (transport.playing) pass.value = [...(pass.value ?? []), cue];
    scene.struck = [...scene.struck, cue];
  }

  /** What struck a pad lets go of it. */
  function lift(by: string, time: number): void {
    const stroke = strokes.get(by);
    if (!stroke) return;
    strokes.delete(by);
    down.value = new Set([...strokes.values()].map((s) => s.slot));
    const { cue, key, ends, since } = stroke;
    if (ends) player.lift(key);
    const done = ends ? letGo(cue, (time - since) / 1000) : cue;
    const put = (cues: readonly Cue[]) => cues.map((c) => (c.id === cue.id ? done : c));
    scene.struck = put(scene.struck);
    scene.played = put(scene.played);
    if (pass.value?.some((c) => c.id === cue.id)) pass.value = put(pass.value);
    else void keep(`Play ${cue.name}`, [done]);
  }

  /** Keeps what was played. @param take that it belongs to */
  async function keep(label: string, played: readonly Cue[], take?: Take): Promise<void> {
    const of = scene.current;
    if (!of) return;
    const { scope } = scene;
    const ids = await catalogue.newIds('cues', played.length);
    const cues = played.map((c, i): Cue => ({ ...c, id: ids[i], ...(take ? { take: take.id } : {}) }));
    const row = take && changeOf('scenes', of, { takes: [...(of.takes ?? []), take] });
    const made = cues.map((c) => additionOf('cues' as const, c));
    // Whoever has opened another scene meanwhile takes it back there, where it was played.
    const isHere = scene.scope === scope;
    const kept = await (isHere
      ? scene.edit(label, [row, ...made])
      : library.edit(label, [row, ...made], true, undefined, scope));
    const gone = new Set(played.map((c) => c.id));
    scene.struck = scene.struck.filter((c) => !gone.has(c.id));
    scene.played = scene.played.filter((c) => !gone.has(c.id));
    if (kept && take) tell.done(`${take.name}: ${things(cues.length, 'cue')}; Ctrl Z takes it back`);
  }

  /** The pass is over. */
  function finish(): void {
    const now = performance.now();
    for (const by of [...strokes.keys()]) lift(by, now);
    const { value: played } = pass;
    pass.value = undefined;
    if (!played || !scene.current) return;
    const take = nextTake(scene.current, Date.now());
    void keep(`Play ${take.name}`, played, take);
  }
  watch(
    () => transport.playing,
    (is) => !is && finish(),
    { flush: 'sync' },
  );
  // Having come round, what was played is heard with all the rest.
  watch(
    () => transport.position,
    (now, before) => {
      if (!pass.value || !transport.playing || now > before - RATE / 10) return;
      scene.played = pass.value;
      scene.struck = [];
    },
  );

  const release = usePlayedKeys({
    armed: () => armed.value,
    plays: (code) => padKeys.has(code),
    press: (code, time) => strike(codes.indexOf(code), code, time),
    lift,
    leave: () => arm(false),
  });
  watch(armed, (is) => !is && release());

  /** The key of an instrument that plays a pad. */
  const noteOf = (slot: number): number => prefs.padNotes[slot] ?? FIRST_NOTE + slot;
  function onKey(event: KeyEvent, time: number): boolean {
    if (event.type === 'press' && learning.value !== undefined) {
      prefs.padNotes = { ...prefs.padNotes, [learning.value]: event.key };
      learning.value = undefined;
      return true;
    }
    if (!armed.value || (event.type !== 'press' && event.type !== 'lift')) return false;
    const slot = pads.value.findIndex((p) => noteOf(p.slot) === event.key);
    if (slot < 0) return false;
    const by = `key ${event.key}`;
    if (event.type === 'press') strike(slot, by, time, hardnessOf(event.velocity));
    else lift(by, time);
    return true;
  }
  instrument.player = onKey;
  // An instrument that is gone lets nothing go any more.
  watch(
    () => instrument.instruments,
    () => {
      for (const by of [...strokes.keys()]) if (by.startsWith('key ')) lift(by, performance.now());
    },
  );

  const trackIds = () => scene.tracks.map((t) => t.id);
  /** Has a take stand in the scene, or wait beside. */
  async function setAside(take: Take, aside: boolean): Promise<void> {
    if (!scene.current) return;
    const changes = placeTakes(scene.current, scene.cues, new Map([[take.id, !aside]]), trackIds());
    await scene.edit(aside ? `Set ${take.name} aside` : `Put ${take.name} back`, changes);
  }
  /** Has one take stand in the scene instead of all others. */
  async function only(take: Take): Promise<void> {
    if (!scene.current) return;
    const wanted = new Map(takes.value.map((t) => [t.id, t.id === take.id]));
    await scene.edit(`Hear ${take.name} alone`, placeTakes(scene.current, scene.cues, wanted, trackIds()));
  }
  async function rename(take: Take, name: string): Promise<void> {
    const of = scene.current;
    if (!of) return;
    const all = (of.takes ?? []).map((t) => (t.id === take.id ? { ...t, name } : t));
    await scene.patch(`Rename ${take.name}`, 'scenes', of, { takes: all });
  }
  async function throwAway(take: Take): Promise<void> {
    if (scene.current) await scene.edit(`Throw ${take.name} away`, removeTake(scene.current, scene.cues, take.id));
  }

  /** Draws cues to events of the picture and markers. @param strength 0 to 1; @param reach seconds */
  async function draw(cues: readonly Cue[], strength: number, reach: number): Promise<void> {
    const marks = [...scene.eventMarks, ...scene.markers.map((m) => m.at)];
    if (marks.length === 0) return tell.info('There is no event of the picture and no marker to draw to');
    const drawn = drawnTo(cues, marks, strength, reach * RATE);
    if (drawn.length === 0) return tell.info('None of them is near an event or a marker');
    if (await scene.keepCues(`Draw ${things(drawn.length, 'cue')} to the picture`, drawn))
      tell.done(`${things(drawn.length, 'cue')} of ${cues.length} drawn to events and markers`);
  }

  /** Exchanges all sounds of a take for those of a pad; anchors stay. */
  async function exchange(take: Take, slot: number): Promise<void> {
    const cues = [...cuesOfTake(take, scene.cues)].sort((a, b) => a.at - b.at).filter((c) => !c.locked);
    const pool = pools.value.get(slot) ?? (await soundsOf(pads.value[slot]));
    const own = new Map((await library.need([...new Set(cues.map((c) => c.soundId))])).map((s) => [s.id, s]));
    const seats = cues.flatMap((c) => {
      const now = own.get(c.soundId);
      return now ? [{ cueId: c.id, now, pool }] : [];
    });
    const dealt = deal(seats, { random: Math.random });
    if (dealt.size === 0) return tell.info(`Pad ${padNames[slot]} has no other sounds`);
    const changes = cues.flatMap((c) => {
      const sound = dealt.get(c.id);
      return sound ? swapSound(c, sound) : [];
    });
    await scene.edit(`Exchange ${take.name} for pad ${padNames[slot]}`, changes);
  }

  return {
    armed,
    learning,
    pools,
    down,
    pass,
    pads,
    takes,
    used,
    noteOf,
    setPad,
    arm,
    strike,
    lift,
    setAside,
    only,
    rename,
    throwAway,
    draw,
    exchange,
    cuesOf: (take: Take) => cuesOfTake(take, scene.cues),
  };
});
