import { FactsCollector } from '@core/audio';
import { buildOfProject, labelsFrom, partOf, rowsOfProject, soundsIn } from '@core/build';
import { Material } from '@core/engine';
import { aroundSamples, memorySource, readAudioFile, readFrames } from '@core/files';
import { describe, wavLabelsOf, type Change, type Sound } from '@core/library';
import { Mixdown, movingOf, planOf, type Cue, type LineEffect, type Scene, type Track } from '@core/scene';
import type { ProjectBuild, ProjectPlace } from '@core/schemas';
import { categoryOf, suggestAnchor } from '@core/suggest';

const [RATE, CHANNELS, BITS, RINGS] = [48_000, 2, 24, 30] as const;

interface Heard {
  sound: Sound;
  material: Material;
}

/** A file of the demo as it is taken in, and its samples. */
async function heard(id: number, { root, path }: ProjectPlace, bytes: Uint8Array): Promise<Heard> {
  const source = memorySource(bytes);
  const file = await readAudioFile(source);
  const { rate, channels, frames } = file.format;
  const found = { rootId: 1, rootName: root, path, size: bytes.length, modified: 0, intakeId: 0, now: 0 };
  const sound = describe(file, found, (catId) => categoryOf(catId));
  const planes = await readFrames(source, file.format, 0, frames);
  const collector = await FactsCollector.start(frames, rate, channels);
  collector.push(planes);
  const { energy, facts } = collector.done(false);
  const anchor = sound.marks.anchor < 0 ? suggestAnchor(energy, rate, facts.onsets).frame : sound.marks.anchor;
  return { sound: { ...sound, id, marks: { ...sound.marks, anchor } }, material: Material.of(planes, rate) };
}

/**
 * The file of a sound that was made of a build of the project: the bytes that keeping it writes, with the labels that it is given.
 * @param read the file of a layer
 */
export async function makeBuilt(build: ProjectBuild, read: (of: ProjectPlace) => Uint8Array): Promise<Uint8Array> {
  const parts = new Map<string, Heard>();
  const keyOf = ({ root, path }: ProjectPlace) => `${root}/${path}`;
  for (const layer of build.layers)
    if (!parts.has(keyOf(layer))) parts.set(keyOf(layer), await heard(parts.size + 1, layer, read(layer)));
  const rows = rowsOfProject(build);
  const [tracks, cues, effects] = [rows.layers, rows.layers, rows.effects].map((count) =>
    Array.from({ length: count }, (_, i) => i + 1),
  );
  const ids = { build: 1, version: 1, tracks, cues, effects };
  const changes = buildOfProject(build, ids, (of) => parts.get(keyOf(of))?.sound, RATE, 0);
  const of = <T>(table: Change['table']) => changes.flatMap((c) => (c.table === table ? [c.after as T] : []));
  const [scene] = of<Scene>('scenes');
  const state = { tracks: of<Track>('tracks'), cues: of<Cue>('cues'), effects: of<LineEffect>('effects'), markers: [] };
  const sounds = new Map([...parts.values()].map((p) => [p.sound.id, p]));
  const { from, to, anchor } = partOf(state, scene);
  const plan = planOf(state.tracks, state.cues, state.effects, scene.main, movingOf(scene, state.cues));
  const length = Mixdown.endOf(plan, RATE, to, RINGS * RATE);
  const materials = new Map([...sounds].map(([id, { material }]) => [id, material]));
  const mixdown = new Mixdown(scene, plan, length, materials, undefined, from);
  const written: Uint8Array[] = [];
  for (let part = mixdown.next(); part; part = mixdown.next()) written.push(part);
  const size = Math.max(to - from, mixdown.heard) * CHANNELS * (BITS / 8);
  const { fields } = labelsFrom(
    build.name,
    soundsIn(state, (id) => sounds.get(id)?.sound),
  );
  const labels = wavLabelsOf({ fields }, new Map(), anchor);
  const { head, tail } = aroundSamples(CHANNELS, { rate: RATE, bits: BITS }, size, labels);
  return Buffer.concat([head, Buffer.concat(written).subarray(0, size), tail]);
}
