import {
  effectOf,
  movedTo,
  moverOf,
  moverValues,
  type Bend,
  type Move,
  type Mover,
  type ParamSpec,
} from '@core/effects';
import { controllerName, MAIN } from '@core/engine';
import { changeOf } from '@core/library';
import { defineStore } from 'pinia';
import { ref, shallowRef, watch } from 'vue';
import { tell } from '../shell/notice';
import { drafted } from './drafted';
import { useBuilds } from './builds';
import { useInstrument } from './instrument';
import { useMix } from './mix';
import { useOutput } from './output';
import { useScene } from './scene';

/** A value that may be moved, as it is pointed at. */
export type Target = Pick<Move, 'of' | 'id' | 'key'>;

type Spec = Pick<ParamSpec, 'label' | 'unit' | 'least' | 'most' | 'curve'>;
/** How values of lines run; those of effects are in their registry. */
const ofLines: Record<string, Spec> = {
  gain: { label: 'Level', unit: 'dB', least: -60, most: 12, curve: 'even' },
  place: { label: 'Place', unit: '', least: -1, most: 1, curve: 'even' },
};

/** What moves values of a build: kept with it, one step after another. */
export const useMovers = defineStore('movers', () => {
  const scene = useScene();
  const mix = useMix();
  const output = useOutput();
  const instrument = useInstrument();
  const builds = useBuilds();
  /** Where each is now, 0 to 1. */
  const shares = shallowRef<ReadonlyMap<number, number>>(new Map());
  output.onStatus(({ meters }) => {
    if (meters?.movers) shares.value = new Map(meters.movers);
  });
  /** The mover whose settings are open, and the one that learns its controller. */
  const openedId = ref<number>();
  const learning = ref<number>();

  /** What is known of a value; undefined where it is gone, or a choice. */
  function specOf({ of, id, key }: Target): Spec | undefined {
    if (of === 'line') return id === MAIN || scene.lines.some((t) => t.id === id) ? ofLines[key] : undefined;
    const effect = scene.effects.find((e) => e.id === id);
    const spec = effectOf(effect?.kind ?? '')?.params.find((p) => p.key === key);
    return spec?.choices ? undefined : spec;
  }
  const lineNamed = (id: number) => (id === MAIN ? 'all layers' : (mix.lineName(id) ?? 'a layer that is gone'));
  /** What a value is called: “Mix of Saturation, Tyre thud”. */
  function targetName(target: Target): string {
    const spec = specOf(target);
    if (!spec) return 'a value that is gone';
    if (target.of === 'line') return `${spec.label} of ${lineNamed(target.id)}`;
    const effect = scene.effects.find((e) => e.id === target.id)!;
    return `${spec.label} of ${mix.nameOf(effect)}, ${lineNamed(effect.lineId)}`;
  }
  /** What it is called, with what tells it from others of its kind. */
  function nameOf(mover: Mover): string {
    const { number, speed, tempo, attack, decay, seed } = moverValues(mover);
    const name = moverOf(mover.kind)?.name ?? mover.kind;
    const short = (v: number) => String(Number(v.toPrecision(3)));
    if (mover.kind === 'controller') return number === 1 ? 'Wheel (controller 1)' : controllerName(number);
    if (mover.kind === 'wave') return tempo > 0 ? `Wave, ${short(tempo)} BPM` : `Wave, ${short(speed)} a second`;
    if (mover.kind === 'drift') return `Drift ${seed}, ${short(speed)} a second`;
    if (mover.kind === 'envelope') return `Envelope, ${short(attack)} ms up, ${short(decay)} ms down`;
    if (mover.kind === 'follower')
      return mover.line === undefined ? 'Follower of nothing yet' : `Follower of ${lineNamed(mover.line)}`;
    return name;
  }

  const keep = (label: string, movers: readonly Mover[]): Promise<boolean> | undefined => {
    const of = scene.current;
    // What is drafted is part of it by now.
    scene.moverDraft = movers;
    return (
      of &&
      scene
        .edit(label, [
          changeOf('scenes', of, { movers: movers.length > 0 ? JSON.parse(JSON.stringify(movers)) : undefined }),
        ])
        .finally(() => {
          // A hand may have gone on meanwhile.
          if (scene.moverDraft === movers) scene.moverDraft = undefined;
        })
    );
  };
  const all = () => scene.movers;
  /** A step of its own, behind what a hand has turned until now. @param next of the movers as they are by then */
  async function step(label: string, next: () => readonly Mover[]): Promise<boolean> {
    await set.rest();
    return (await keep(label, next())) === true;
  }
  const withOne = (mover: Mover) => all().map((m) => (m.id === mover.id ? mover : m));

  /** Where a value stands that nobody moves. */
  function standing({ of, id, key }: Target): number {
    if (of === 'effect') {
      const effect = scene.effects.find((e) => e.id === id);
      const spec = effectOf(effect?.kind ?? '')?.params.find((p) => p.key === key);
      return effect?.values[key] ?? spec?.initial ?? 0;
    }
    const line = id === MAIN ? scene.main : scene.lines.find((t) => t.id === id);
    return (key === 'gain' ? line?.gain : line?.place) ?? 0;
  }
  /** Bounds to begin with: about where the value stands, and as far as one hears well. */
  function aroundNow(target: Target, { unit, least, most, curve }: Spec): Pick<Move, 'from' | 'to'> {
    const now = standing(target);
    const within = (v: number) => Number(Math.max(least, Math.min(most, v)).toPrecision(4));
    if (target.of === 'line' && target.key === 'gain') return { from: within(now - 18), to: within(now) };
    if (unit === '%' || target.key === 'place') return { from: least, to: most };
    if (curve === 'octaves') return { from: within(now / 4), to: within(now * 4) };
    return { from: within(now - (most - least) / 4), to: within(now + (most - least) / 4) };
  }
  /** What moves a value, and where that has it now; undefined where nothing does. */
  function movedBy(target: Target): { by: string; now: number } | undefined {
    const spec = specOf(target);
    const own = spec
      ? all().flatMap((mover) =>
          mover.moves
            .filter((m) => m.of === target.of && m.id === target.id && m.key === target.key)
            .map((move) => ({ mover, move })),
        )
      : [];
    if (!spec || own.length === 0) return undefined;
    const base = standing(target);
    const now = own.reduce(
      (sum, { mover, move }) => sum + movedTo(move, spec.curve, shares.value.get(mover.id) ?? 0) - base,
      base,
    );
    return {
      by: own.map(({ mover }) => nameOf(mover)).join(' and '),
      now: Math.max(spec.least, Math.min(spec.most, now)),
    };
  }

  /** Has a value be moved: by a mover that is there, or by a new one of a kind. */
  async function add(target: Target, by: { id: number } | { kind: string }): Promise<void> {
    if (!scene.current || scene.isHeld()) return;
    const spec = specOf(target);
    if (!spec) return tell.info('This value cannot be moved: it is one of a few choices');
    const move: Move = { ...target, ...aroundNow(target, spec), bend: 'straight' };
    if ('id' in by) {
      const known = all().find((m) => m.id === by.id);
      if (!known) return;
      if (known.moves.some((m) => m.of === target.of && m.id === target.id && m.key === target.key))
        return tell.info(`${nameOf(known)} moves ${targetName(target)} already`);
      const more = () => withOne({ ...known, moves: [...known.moves, move] });
      await step(`${nameOf(known)} moves ${targetName(target)}`, more);
      return;
    }
    const id = 1 + Math.max(0, ...all().map((m) => m.id));
    const line = moverOf(by.kind)?.follows ? scene.tracks[0]?.id : undefined;
    // Each drift begins as one of its own.
    const values: Record<string, number> = by.kind === 'drift' ? { seed: id } : {};
    const made: Mover = { id, kind: by.kind, values, moves: [move], ...(line === undefined ? {} : { line }) };
    if (await step(`${nameOf(made)} moves ${targetName(target)}`, () => [...all(), made])) openedId.value = id;
  }

  const remove = (mover: Mover) => step(`Take out ${nameOf(mover)}`, () => all().filter((m) => m.id !== mover.id));
  /** Lets a value be; a mover that moves nothing any more goes with it. */
  function letBe(mover: Mover, move: Move): void {
    const moves = mover.moves.filter((m) => m !== move);
    const rest = () => (moves.length > 0 ? withOne({ ...mover, moves }) : all().filter((m) => m.id !== mover.id));
    void step(`${nameOf(mover)} lets ${targetName(move)} be`, rest);
  }

  // While a hand turns
  const held = {
    get value() {
      return scene.moverDraft;
    },
    set value(movers) {
      scene.moverDraft = movers;
    },
  };
  const set = drafted(held, (label, movers) => Promise.resolve(keep(label, movers)));
  function draft(what: string, mover: Mover): void {
    if (!scene.isHeld()) set(what, withOne(mover));
  }
  /** Has a mover go where a hand has it, at once. @param share 0 to 1 */
  function turned({ id }: Mover, share: number): void {
    output.player.turnMover(id, share);
    builds.recorder?.turned(id, share);
  }
  /** The same, and it stays there. @param at percent */
  function turnTo(mover: Mover, at: number): void {
    turned(mover, at / 100);
    turn(mover, 'at', at);
  }
  const turn = (mover: Mover, key: string, value: number) =>
    draft(`Set ${nameOf(mover)}`, { ...mover, values: { ...mover.values, [key]: value } });
  const setMove = (mover: Mover, move: Move, after: Partial<Pick<Move, 'from' | 'to'> & { bend: Bend }>) =>
    draft(`How ${nameOf(mover)} moves ${targetName(move)}`, {
      ...mover,
      moves: mover.moves.map((m) => (m === move ? { ...m, ...after } : m)),
    });
  const follow = (mover: Mover, line: number) =>
    void step(`Follow ${lineNamed(line)}`, () => withOne({ ...mover, line }));

  // Controllers: what an instrument sends turns those of its number, or is what one learns.
  const played = () => (scene.work === 'build' ? all() : (scene.build?.movers ?? []));
  watch(
    () => played().length > 0,
    (wanted) => instrument.hear('movers', wanted ? onControl : undefined),
    { immediate: true },
  );
  function onControl(control: number, value: number): boolean {
    const learns = all().find((m) => m.id === learning.value);
    if (learns) {
      learning.value = undefined;
      const learned = { ...learns, values: { ...learns.values, number: control } };
      void step(`Learn ${controllerName(control)}`, () => withOne(learned));
      return true;
    }
    const own = played().filter((m) => m.kind === 'controller' && moverValues(m).number === control);
    for (const mover of own) turned(mover, value);
    return own.length > 0;
  }

  return {
    ...{ shares, openedId, learning, specOf, targetName, nameOf, movedBy },
    ...{ add, remove, letBe, turn, turnTo, setMove, follow },
  };
});
