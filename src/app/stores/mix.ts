import { toDb } from '@core/audio';
import { effectOf } from '@core/effects';
import { MAIN } from '@core/engine';
import { changeOf, type Change, additionOf } from '@core/library';
import {
  busesFor,
  effectName,
  effectsOf,
  heardBy,
  spanOf,
  type Cue,
  type LineEffect,
  type MainLine,
  type Track,
} from '@core/scene';
import { useDebounceFn } from '@vueuse/core';
import { proxy } from 'comlink';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import type { MeasureAnswer } from '@platform/index';
import { tell } from '../shell/notice';
import { useCurves } from './curves';
import { useOutput } from './output';
import { useScene } from './scene';
import { useTransport } from './transport';
import { catalogue, startMixer } from './workers';

/** A hand rests that did nothing for so long. Milliseconds. */
const QUIET = 350;
/** How fast shown levels fall, dB a second, and for how long the highest is held, milliseconds. */
const [FALL, HELD] = [24, 3000];
const LOWEST = -60;
/** With fewer cores than this, what measures would take them from what plays. */
const FEW = 4;
/** Scenes of more seconds than this are measured only when somebody asks. */
const LONG = 600;

/** A level as it is shown: left and right, and the highest of the last three seconds. dB */
export interface Shown {
  now: [number, number];
  top: number;
  topAt: number;
}

/** The mix: effects of lines and their values, levels inside, and how loud all of it is. */
export const useMix = defineStore('mix', () => {
  const scene = useScene();
  const output = useOutput();
  const curves = useCurves();
  const transport = useTransport();

  const lineName = (id: number): string | undefined => scene.lines.find((t) => t.id === id)?.name;
  const nameOf = (effect: LineEffect): string => effectName(effect, lineName);

  // Levels
  const levels = shallowRef<ReadonlyMap<number, Shown>>(new Map());
  const reductions = shallowRef<ReadonlyMap<number, number>>(new Map());
  /** Before and after the chosen effect, dB. */
  const around = shallowRef<[number, number]>();
  let told = 0;
  output.onStatus(({ meters }) => {
    if (!meters) return;
    const now = performance.now();
    const fall = (Math.min(200, now - told) / 1000) * FALL;
    told = now;
    levels.value = new Map(
      meters.lines.map(([id, left, right]) => {
        const old = levels.value.get(id);
        const fallen = [left, right].map((v, c) => Math.max(LOWEST, toDb(v), (old?.now[c] ?? LOWEST) - fall)) as [
          number,
          number,
        ];
        const peak = Math.max(toDb(left), toDb(right));
        const isNew = !old || peak >= old.top || now - old.topAt > HELD;
        return [id, { now: fallen, top: isNew ? peak : old.top, topAt: isNew ? now : old.topAt }];
      }),
    );
    reductions.value = new Map(meters.reductions);
    around.value = meters.around && (meters.around.map(toDb) as [number, number]);
  });

  // Effects
  const chosenId = ref<number>();
  const chosen = computed(() => scene.effects.find((e) => e.id === chosenId.value));
  const watching = ref(false);
  watch([watching, chosenId], ([on, id]) => {
    around.value = undefined;
    output.player.meters(on, id);
  });

  let turned: { effect: LineEffect; keys: Set<string> } | undefined;
  async function settle(): Promise<void> {
    const last = turned;
    turned = undefined;
    const own = last && scene.state.effects?.find((e) => e.id === last.effect.id);
    if (own) {
      const after = Object.fromEntries([...last.keys].map((key) => [`values.${key}`, last.effect.values[key]]));
      await scene.edit(`Set ${nameOf(own)}`, [changeOf('effects', own, after)]);
    }
    if (!turned) scene.effectDraft = new Map();
  }
  const settled = useDebounceFn(settle, QUIET);
  /** Turns a value: heard at once, and one edit once the hand rests. */
  function turn(of: LineEffect, key: string, value: number): void {
    if (curves.hand({ table: 'effects', id: of.id, key }, value)) return;
    if (turned && turned.effect.id !== of.id) void settle();
    const from = turned?.effect ?? of;
    turned = {
      effect: { ...from, values: { ...from.values, [key]: value } },
      keys: new Set([...(turned?.keys ?? []), key]),
    };
    scene.effectDraft = new Map([[of.id, turned.effect]]);
    void settled();
  }

  async function change(of: LineEffect, label: string, after: Partial<LineEffect>): Promise<void> {
    await settle();
    const own = scene.state.effects?.find((e) => e.id === of.id);
    if (own) await scene.edit(label, [changeOf('effects', own, { ...after })]);
  }
  const flip = (of: LineEffect) => change(of, `${of.on ? 'Hear without' : 'Hear'} ${nameOf(of)}`, { on: !of.on });

  /** Adds an effect at the end of a line, and shows its values. */
  async function add(lineId: number, kind: string, line?: number): Promise<void> {
    if (!scene.current || scene.isHeld()) return;
    const [id] = await catalogue.newIds('effects', 1);
    const own = effectsOf(lineId, scene.state.effects ?? []);
    const effect: LineEffect = {
      ...{ id, sceneId: scene.current.id, lineId, order: (own.at(-1)?.order ?? -1) + 1, kind, on: true, values: {} },
      ...(line === undefined ? {} : { line }),
    };
    const onto = lineId === 0 ? 'the main line' : lineName(lineId);
    if (await scene.edit(`Add ${nameOf(effect)} to ${onto}`, [additionOf('effects', effect)])) chosenId.value = id;
  }
  async function remove(of: LineEffect): Promise<void> {
    await settle();
    if (chosenId.value === of.id) chosenId.value = undefined;
    const own = scene.state.effects?.find((e) => e.id === of.id);
    if (own) await scene.edit(`Take out ${nameOf(of)}`, [{ table: 'effects', id: of.id, before: { ...own } }]);
  }
  /** Exchanges it with the one before or behind it. */
  async function move(of: LineEffect, by: -1 | 1): Promise<void> {
    await settle();
    const own = effectsOf(of.lineId, scene.state.effects ?? []);
    const at = own.findIndex((e) => e.id === of.id);
    if (at + by < 0 || at + by >= own.length) return;
    own.splice(at + by, 0, ...own.splice(at, 1));
    await scene.edit(
      `Move ${nameOf(of)}`,
      own.map((e, order) => changeOf('effects', e, { order })),
    );
  }
  /**
   * Carries an effect to a place in a line, its own or another one, or a copy of it.
   * @param at how many effects of that line lie before it; behind all of them when absent
   */
  async function carry(of: LineEffect, lineId: number, at = Infinity, copies = false): Promise<void> {
    await settle();
    const own = scene.state.effects?.find((e) => e.id === of.id);
    if (!own || scene.isHeld()) return;
    const lines = { tracks: scene.lines, effects: scene.effects };
    const other = own.line;
    // What it listens to, or flows into, may not be there for another line.
    const may = own.kind === 'send' ? busesFor(lineId, lines) : heardBy(lineId, lines);
    const keeps = other === undefined || may.some((t) => t.id === other);
    if (!keeps && own.kind === 'send') return tell.info(`${nameOf(own)} would come back to where it came from`);
    const there = effectsOf(lineId, scene.state.effects ?? []);
    const onto = lineId === MAIN ? 'the main line' : lineName(lineId);
    const before = there.slice(0, Math.min(at, there.length)).filter((e) => copies || e.id !== own.id);
    const behind = there.filter((e) => !before.includes(e) && (copies || e.id !== own.id));
    const [id] = copies ? await catalogue.newIds('effects', 1) : [own.id];
    const carried: LineEffect = { ...own, id, lineId, line: keeps ? other : undefined, order: before.length };
    const moved = behind.map((e, i) => changeOf('effects', e, { order: before.length + 1 + i }));
    const kept = before.map((e, order) => changeOf('effects', e, { order }));
    const change: Change | undefined = copies
      ? { table: 'effects', id, after: withoutNothing(carried) }
      : changeOf('effects', own, { lineId, line: carried.line, order: carried.order });
    const label = copies
      ? `Copy ${nameOf(own)} to ${onto}`
      : `Move ${nameOf(own)}${own.lineId === lineId ? '' : ` to ${onto}`}`;
    if (await scene.edit(label, [change, ...kept, ...moved])) chosenId.value = id;
  }
  const withoutNothing = (row: object) => Object.fromEntries(Object.entries(row).filter(([, v]) => v !== undefined));

  /** Sets all its values to those of a preset; as it begins, where none is given. */
  async function preset(of: LineEffect, name?: string): Promise<void> {
    const values = effectOf(of.kind)?.presets?.find((p) => p.name === name)?.values ?? {};
    await change(of, name ? `${name} for ${nameOf(of)}` : `Reset ${nameOf(of)}`, { values });
  }

  // Lines
  async function addBus(): Promise<void> {
    if (!scene.current || scene.isHeld()) return;
    const taken = new Set(scene.lines.map((t) => t.name));
    let n = 1;
    while (taken.has(`Bus ${n}`)) n++;
    const [made] = await scene.newTracks(scene.current.id, [{ name: `Bus ${n}`, gain: 0, bus: true }]);
    made.order = Math.max(-1, ...scene.lines.map((t) => t.order)) + 1;
    await scene.edit('Add a bus', [additionOf('tracks', made)]);
  }
  const flowInto = (of: Track, into: number | undefined) =>
    scene.editTrack(of, `${of.name} into ${into === undefined ? 'the main line' : lineName(into)}`, { into });

  let mainTurned: MainLine | undefined;
  const mainSettled = useDebounceFn(async () => {
    const last = mainTurned;
    mainTurned = undefined;
    if (last && scene.current)
      await scene.edit('Set the main line', [changeOf('scenes', scene.current, { main: last })]);
    if (!mainTurned) scene.mainDraft = undefined;
  }, QUIET);
  /** Turns gain or place of the main line: heard at once, and one edit once the hand rests. */
  function turnMain({ ...after }: Pick<Partial<MainLine>, 'gain' | 'place'>): void {
    for (const key of ['gain', 'place'] as const)
      if (key in after && curves.hand({ table: 'main', id: MAIN, key }, after[key] ?? 0)) delete after[key];
    if (Object.keys(after).length === 0) return;
    mainTurned = { ...scene.main, ...after };
    scene.mainDraft = mainTurned;
    void mainSettled();
  }

  // How loud all of it is
  type Loud = Pick<MeasureAnswer, 'levels' | 'course'>;
  const measured = shallowRef<Loud & { buses: ReadonlyMap<number, Loud>; as: string }>();
  const progress = ref<number>();
  let end: (() => void) | undefined;
  /** What a mix would be made from. */
  const asIs = computed(() =>
    JSON.stringify([
      scene.current?.id,
      scene.current?.length,
      scene.lines,
      scene.effects,
      scene.main,
      scene.movers,
      scene.heard,
    ]),
  );
  /** Whether what was measured is the scene as it is. */
  const isFresh = computed(() => measured.value?.as === asIs.value);
  async function measure(): Promise<void> {
    const s = scene.current;
    if (!s) return;
    end?.();
    const as = asIs.value;
    const mixer = startMixer();
    end = mixer.end;
    progress.value = 0;
    try {
      const plain = JSON.parse(
        JSON.stringify({
          s,
          lines: { tracks: scene.lines, effects: scene.effects },
          cues: scene.heard,
          main: scene.main,
        }),
      ) as {
        s: typeof s;
        lines: { tracks: Track[]; effects: LineEffect[] };
        cues: Cue[];
        main: MainLine;
      };
      const items = (await scene.itemsOf(scene.heard)).map((i) => ({ sound: { ...i.sound }, root: { ...i.root } }));
      const told = proxy((share: number) => {
        if (end === mixer.end) progress.value = share;
      });
      const stopped = new Promise<undefined>((done) => {
        end = () => {
          mixer.end();
          done(undefined);
        };
      });
      const mine = end;
      // A build begins where its first layer does.
      const from = s.build
        ? Math.max(0, Math.floor(Math.min(s.build.anchor, ...plain.cues.map((c) => spanOf(c, s.sampleRate).start))))
        : 0;
      const made = await Promise.race([
        mixer.mixer.measure({ ...plain.s, main: plain.main }, plain.lines, plain.cues, items, told, from),
        stopped,
      ]);
      if (made) measured.value = { ...made, as };
      if (end === mine) progress.value = end = undefined;
    } catch (error) {
      progress.value = undefined;
      tell.error(`How loud it is could not be measured: ${(error as Error).message}`);
    } finally {
      mixer.end();
    }
  }
  function stopMeasuring(): void {
    end?.();
    end = progress.value = undefined;
  }
  /** Where there are few cores, a scene that runs has them to itself. */
  const crowded = () => transport.playing && navigator.hardwareConcurrency < FEW;
  const measureSoon = useDebounceFn(() => watching.value && !isFresh.value && !crowded() && void measure(), 1200);
  // While nobody looks, nothing has to be held against what was measured.
  watch([watching, () => watching.value && asIs.value, crowded] as const, ([on]) => {
    if (!on) stopMeasuring();
    else if (!isFresh.value && (scene.current?.length ?? 0) < LONG * (scene.current?.sampleRate ?? 0))
      void measureSoon();
  });

  return {
    ...{ levels, reductions, around, chosenId, chosen, watching, nameOf, lineName },
    ...{ turn, change, flip, add, remove, move, carry, preset, addBus, flowInto, turnMain },
    ...{ measured, isFresh, progress, measure, stopMeasuring },
  };
});
