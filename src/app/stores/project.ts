import { buildOfProject, rowsOfProject } from '@core/build';
import { MAIN } from '@core/engine';
import type { Change, Sound } from '@core/library';
import { changeOf } from '@core/library';
import {
  frameRate,
  frameToSample,
  fromTimecode,
  takeOf,
  type Cue,
  type LineEffect,
  type Marker,
  type Scene,
  type Track,
} from '@core/scene';
import {
  checked,
  validators,
  type ProjectCue,
  type ProjectEffect,
  type ProjectFile,
  type ProjectMain,
  type ProjectTrack,
} from '@core/schemas';
import { RATE } from '@platform/index';
import { useIntake } from './intake';
import { useLibrary } from './library';
import { usePrefs } from './prefs';
import { useScene } from './scene';
import { catalogue } from './workers';

/** At the first start, opens the project that the server offers. */
export async function openProject(): Promise<void> {
  const library = useLibrary();
  const scene = useScene();
  if (scene.scenes.length > 0 || library.pulls.length > 1) return;
  const response = await fetch('/api/project').catch(() => undefined);
  if (response?.status !== 200) return;
  const project = checked<ProjectFile>(await response.json(), validators.projectFile, 'the project');
  const changes = await projectChanges(project);
  await library.edit(`Open ${project.name}`, changes, false);
  await scene.load();
  const made = changes.find((c) => c.table === 'scenes');
  if (made) scene.currentId = made.id;
  // Whoever is shown something to try is told where one could begin.
  usePrefs().firstSteps = { shown: true, done: [] };
}

async function projectChanges(project: ProjectFile): Promise<Change[]> {
  const library = useLibrary();
  const { newTracks } = useScene();
  const byPlace = new Map<string, Sound>();
  for (const root of library.roots) {
    for (const sound of await catalogue.soundsOf(root.id)) byPlace.set(`${root.name}/${sound.path}`, sound);
  }
  const find = (p: { root: string; path: string }) => byPlace.get(`${p.root}/${p.path}`);
  // A cue hangs on its sound's anchor: those that are spotted are measured before all others.
  const places = project.scenes.flatMap((s) => [s, ...(s.versions ?? [])].flatMap(({ cues }) => cues));
  const layered = (project.builds ?? []).flatMap(({ layers }) => layers);
  const spotted = [...places, ...layered].flatMap((p) => find(p) ?? []);
  for (const sound of await useIntake().ensureMeasured([...new Set(spotted)])) {
    byPlace.set(`${library.rootById.get(sound.rootId)?.name}/${sound.path}`, sound);
  }
  const idsOf = (list: { root: string; path: string }[]) => list.flatMap((p) => find(p)?.id ?? []);
  const changes: (Change | undefined)[] = [
    library.tray && changeOf('pulls', library.tray, { soundIds: idsOf(project.tray) }),
  ];
  const now = Date.now();
  const pullIds = await catalogue.newIds('pulls', project.pulls.length);
  project.pulls.forEach(({ name, sounds }, i) => {
    changes.push({
      table: 'pulls',
      id: pullIds[i],
      after: { id: pullIds[i], name, soundIds: idsOf(sounds), created: Date.now() },
    });
  });
  for (const s of project.scenes) {
    const [id] = await catalogue.newIds('scenes', 1);
    const r = frameRate(s.fps);
    const root = library.roots.find((x) => x.name === s.picture?.root);
    const picture = s.picture &&
      root && { rootId: root.id, path: s.picture.path, name: s.picture.name, frames: s.picture.frames };
    const at = (frameNumber: number) => frameToSample(frameNumber, r, RATE);
    const loop = s.loop && { start: at(s.loop.start), end: at(s.loop.end) };
    const made: Scene = {
      id,
      name: s.name,
      fps: s.fps,
      startFrame: fromTimecode(s.start, r),
      sampleRate: RATE,
      picture,
      length: at(s.picture?.frames ?? r.nominal * 60),
      loop,
      ...(s.main ? { main: { gain: s.main.gain } } : {}),
    };
    const seats = new Map<string, number>();
    /** Effects as rows; the same place of the same line is the same effect in another state. */
    const effectIds = new Map<string, number>();
    const effectsOf = (
      lineId: number,
      list: readonly ProjectEffect[],
      lines: readonly Track[],
    ): Promise<LineEffect[]> =>
      Promise.all(
        list.map(async ({ kind, on = true, line, values }, order) => {
          const seat = `${lineId} ${order} ${kind}`;
          const own = effectIds.get(seat) ?? (await catalogue.newIds('effects', 1))[0];
          effectIds.set(seat, own);
          const other = lines.find((t) => t.name === line)?.id;
          return {
            id: own,
            sceneId: id,
            lineId,
            order,
            kind,
            on,
            values,
            ...(other === undefined ? {} : { line: other }),
          };
        }),
      );
    /** Tracks, effects and cues as rows; tracks of a name that was there before are the same. */
    const rowsOf = async (
      state: { tracks: ProjectTrack[]; cues: ProjectCue[]; main?: ProjectMain },
      known: readonly Track[],
    ) => {
      const fresh = await newTracks(
        id,
        state.tracks.map(({ into: _into, effects: _effects, ...t }) => t),
      );
      const named = fresh.map((t) => ({ ...t, id: known.find((k) => k.name === t.name)?.id ?? t.id }));
      const lines = named.map((t, i): Track => {
        const into = named.find((other) => other.name === state.tracks[i].into)?.id;
        return into === undefined ? t : { ...t, into };
      });
      const effects = [
        ...(await effectsOf(MAIN, state.main?.effects ?? [], lines)),
        ...(await Promise.all(lines.map((t, i) => effectsOf(t.id, state.tracks[i].effects ?? [], lines)))).flat(),
      ];
      const ids = await catalogue.newIds('cues', state.cues.length);
      const taken = new Set<number>();
      const cues = state.cues.flatMap((c, i): Cue[] => {
        const sound = find(c);
        const onto = lines.find((t) => t.name === c.track);
        if (!sound || !onto) return [];
        const { gain = 0, place } = c;
        const own = { ...takeOf(sound), ...(place === undefined ? {} : { place }) };
        // What stands on the same frame of the same track in another state is the same cue, whichever sound it has there.
        const seat = `${c.track} ${c.frame}`;
        const same = seats.get(seat);
        const cueId = same === undefined || taken.has(same) ? ids[i] : same;
        seats.set(seat, cueId);
        taken.add(cueId);
        return [{ id: cueId, sceneId: id, trackId: onto.id, at: at(c.frame), mute: false, made: now, ...own, gain }];
      });
      return { tracks: lines, effects, cues };
    };
    const row = (table: Change['table'], record: { id: number }): Change => ({
      table,
      id: record.id,
      after: { ...record },
    });
    const { tracks, effects, cues } = await rowsOf(s, []);
    const markerIds = await catalogue.newIds('markers', s.markers?.length ?? 0);
    const markers = (s.markers ?? []).map(({ name, frame, colour }, i): Marker => ({
      ...{ id: markerIds[i], sceneId: id, at: at(frame), name },
      ...(colour ? { colour } : {}),
    }));
    changes.push(row('scenes', made), ...tracks.map((t) => row('tracks', t)), ...cues.map((c) => row('cues', c)));
    changes.push(...markers.map((m) => row('markers', m)), ...effects.map((e) => row('effects', e)));
    const versionIds = await catalogue.newIds('versions', s.versions?.length ?? 0);
    for (const [i, { name, ...state }] of (s.versions ?? []).entries()) {
      const main = state.main && { main: { gain: state.main.gain } };
      const kept = {
        id: versionIds[i],
        sceneId: id,
        name,
        at: now + i,
        markers,
        ...main,
        ...(await rowsOf(state, tracks)),
      };
      changes.push(row('versions', kept));
    }
  }
  for (const build of project.builds ?? []) {
    const { layers, effects } = rowsOfProject(build);
    const [[own], [version], tracks, cues, lines] = await Promise.all([
      catalogue.newIds('scenes', 1),
      catalogue.newIds('versions', 1),
      catalogue.newIds('tracks', layers),
      catalogue.newIds('cues', layers),
      catalogue.newIds('effects', effects),
    ]);
    changes.push(...buildOfProject(build, { build: own, version, tracks, cues, effects: lines }, find, RATE, now));
  }
  return changes.filter((c) => c !== undefined);
}
