import type { Breakpoint } from '@core/effects';
import { changeOf, type Change } from '@core/library';
import {
  curveAt,
  curvesOf,
  mainTrack,
  raised,
  recorded,
  thinned,
  type CurveOf,
  type LineEffect,
  type MainLine,
  type Track,
} from '@core/scene';
import { RATE } from '@platform/index';
import { useDebounceFn } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, ref, watch } from 'vue';
import { tell } from '../shell/notice';
import { useScene } from './scene';
import { useTransport } from './transport';

type Points = readonly Breakpoint[];
type Row = Track | LineEffect;

/** A hand rests that did nothing for so long. Milliseconds. */
const QUIET = 350;
/** Seconds in which a value goes back to what it was where a hand let go of it. */
const BACK = 0.1;
/** Part of a value's range by which a recorded curve may be off what the hand did. */
const OFF = 0.004;

const keyOf = ({ table, id, key }: Pick<CurveOf, 'table' | 'id' | 'key'>) => `${table} ${id} ${key}`;

/** A row with other points for one of its values; without any, where there are none. */
function pointsWith({ points }: Row, key: string, own: Points): Row['points'] {
  const { [key]: _, ...others } = points ?? {};
  const all = own.length > 0 ? { ...others, [key]: own } : others;
  return Object.keys(all).length > 0 ? all : undefined;
}

/** Values that run along the timeline: which one a lane shows, and what hands do to them. */
export const useCurves = defineStore('curves', () => {
  const scene = useScene();
  const transport = useTransport();
  /** The curve that each track's lane shows, by the track's id. */
  const shown = ref<Record<number, string>>({});
  /** The value that a hand turned last. */
  const touched = ref<string>();
  /** Whether what hands turn while the scene runs is recorded. */
  const recording = ref(false);

  const lineName = (id: number) => scene.lines.find((t) => t.id === id)?.name;
  const of = (track: Track): CurveOf[] => curvesOf(track, scene.effects, lineName);
  function shownOn(track: Track): CurveOf | undefined {
    const key = shown.value[track.id];
    return key === undefined ? undefined : of(track).find((c) => keyOf(c) === key);
  }
  function show(track: Track, curve: CurveOf | undefined): void {
    const { [track.id]: _, ...others } = shown.value;
    shown.value = curve ? { ...others, [track.id]: keyOf(curve) } : others;
  }

  const main = computed(() => mainTrack(scene.current?.id ?? 0, scene.main));
  /** Lines that have no lane of their own: buses, and the main one. */
  const others = computed(() => [...scene.lines.filter((t) => t.bus), main.value]);
  /** Those of them of which a curve is shown. */
  const beside = computed(() => others.value.filter((line) => shownOn(line)));

  const lineOf = (id: number): Track | undefined =>
    id === main.value.id ? main.value : scene.lines.find((t) => t.id === id);
  const rows = ({ table }: CurveOf): readonly Row[] =>
    table === 'main' ? [main.value] : table === 'tracks' ? scene.lines : scene.effects;
  /** The main line as it is kept. */
  const mainOf = ({ gain, place, points }: Pick<Track, 'gain' | 'place' | 'points'>): MainLine => ({
    gain,
    ...(place === undefined ? {} : { place }),
    ...(points === undefined ? {} : { points }),
  });
  /** What changes of a row as it was before a hand took hold of it. */
  function change({ table, id }: CurveOf, to: (row: Row) => Row['points']): Change | undefined {
    const { tracks, effects = [] } = scene.state;
    if (table === 'main') {
      const before = mainTrack(0, scene.current!.main ?? { gain: 0 });
      return changeOf('scenes', scene.current!, { main: mainOf({ ...before, points: to(before) }) });
    }
    const row = (table === 'tracks' ? tracks : effects).find((r) => r.id === id);
    return row && changeOf(table, row, { points: to(row) });
  }
  const rowOf = (curve: CurveOf): Row | undefined => rows(curve).find((r) => r.id === curve.id);
  /** The curve as it is now: with what a hand has not let go of. */
  function now(curve: CurveOf): CurveOf {
    const points = rowOf(curve)?.points?.[curve.key];
    return { ...curve, points: points ?? [] };
  }

  function lay(curve: CurveOf, row: Row): void {
    if (curve.table === 'main') scene.mainDraft = mainOf(row as Track);
    else if (curve.table === 'tracks') scene.trackDraft = new Map([...scene.trackDraft, [curve.id, row as Track]]);
    else scene.effectDraft = new Map([...scene.effectDraft, [curve.id, row as LineEffect]]);
  }
  function lift(curve: CurveOf): void {
    const without = <T>(map: ReadonlyMap<number, T>) => new Map([...map].filter(([id]) => id !== curve.id));
    if (curve.table === 'main') scene.mainDraft = undefined;
    else if (curve.table === 'tracks') scene.trackDraft = without(scene.trackDraft);
    else scene.effectDraft = without(scene.effectDraft);
  }

  /** Has a curve heard and seen as a hand has it, which has not let go yet. */
  function draft(curve: CurveOf, points: Points): void {
    const row = rowOf(curve);
    if (row) lay(curve, { ...row, points: pointsWith(row, curve.key, points) });
  }
  const changed = (curve: CurveOf, points: Points): Change | undefined =>
    change(curve, (row) => pointsWith(row, curve.key, points));
  /** Keeps a curve, as a step that can be taken back. */
  async function keep(label: string, curve: CurveOf, points: Points): Promise<void> {
    await scene.edit(label, [changed(curve, points)]);
    lift(curve);
  }

  /** What hands have done while the scene runs, by curve. */
  const passes = new Map<string, { curve: CurveOf; done: Breakpoint[] }>();
  const back = BACK * RATE;
  /** The curve with what a hand did until a sample. */
  function after({ curve, done }: { curve: CurveOf; done: Points }, until: number): Points {
    const { least, most } = curve.spec;
    return recorded(curve.points, curve.still, thinned(done, OFF * (most - least)), until, back);
  }
  function record(curve: CurveOf, value: number): void {
    const at = Math.max(0, Math.round(transport.soundingAt(performance.now()) ?? transport.position));
    const key = keyOf(curve);
    let pass = passes.get(key) ?? { curve: now(curve), done: [] };
    const last = pass.done.at(-1);
    // Having come round, the hand goes over what it did before.
    if (last && at < last.at)
      pass = { curve: { ...pass.curve, points: after(pass, scene.current?.loop?.end ?? last.at) }, done: [] };
    pass.done = [...pass.done.filter((p) => p.at < at), { at, value }];
    passes.set(key, pass);
    const row = rowOf(curve);
    if (!row) return;
    const points = pointsWith(row, curve.key, []);
    if (curve.table !== 'effects') lay(curve, { ...(row as Track), [curve.key]: value, points });
    else lay(curve, { ...(row as LineEffect), values: { ...(row as LineEffect).values, [curve.key]: value }, points });
  }
  async function finish(): Promise<void> {
    const all = [...passes.values()];
    passes.clear();
    if (all.length === 0) return;
    const until = transport.position;
    const names = all.length === 1 ? all[0].curve.name : `${all.length} values`;
    const byRow = new Map<string, { curve: CurveOf; points: Points }[]>();
    for (const pass of all) {
      const row = `${pass.curve.table} ${pass.curve.id}`;
      byRow.set(row, [...(byRow.get(row) ?? []), { curve: pass.curve, points: after(pass, until) }]);
    }
    // Several values of one row are one change of it.
    const changes = [...byRow.values()].map((own) =>
      change(own[0].curve, (row) =>
        own.reduce((points, { curve: c, points: p }) => pointsWith({ ...row, points }, c.key, p), row.points),
      ),
    );
    const kept = await scene.edit(`Record ${names}`, changes);
    for (const { curve } of all) lift(curve);
    if (kept) tell.done(`${names} recorded; Ctrl Z takes it back`);
  }
  watch(
    () => transport.playing,
    (is) => !is && void finish(),
    { flush: 'sync' },
  );

  const settled = useDebounceFn((curve: CurveOf) => {
    const { points } = now(curve);
    return keep(`${curve.name} by as much all along`, curve, points);
  }, QUIET);
  /**
   * A hand turns a value that a curve moves, or that is recorded.
   * @returns whether that was so: then nothing else has to be set
   */
  function hand(row: { table: CurveOf['table']; id: number; key: string }, value: number): boolean {
    touched.value = keyOf(row);
    const line = row.table === 'effects' ? scene.effects.find((e) => e.id === row.id)?.lineId : row.id;
    const track = line === undefined ? undefined : lineOf(line);
    const curve = track && of(track).find((c) => keyOf(c) === keyOf(row));
    if (!curve || scene.comparing) return false;
    if (recording.value && transport.playing) {
      record(curve, value);
      return true;
    }
    if (curve.points.length === 0) return false;
    draft(curve, raised(curve.points, value - curveAt(curve.points, transport.position, curve.still), curve.spec));
    void settled(curve);
    return true;
  }
  /** A value as it is at the playhead. */
  const valueNow = (points: Row['points'], key: string, still: number): number => {
    const own = points?.[key];
    return own && own.length > 0 ? curveAt(own, transport.position, still) : still;
  };

  return { shown, recording, touched, keyOf, main, others, beside, of, shownOn, show, draft, keep, hand, valueNow };
});
