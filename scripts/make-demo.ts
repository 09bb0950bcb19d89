// Writes the demo library below .demo/, on all cores. usage: tsx scripts/make-demo.ts [FOLDER]
import { fork } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { writeDelimited } from '@core/library';
import { checked, validators, type ProjectFile, type ProjectPlace } from '@core/schemas';
import {
  commonsEntries,
  demoFiles,
  demoLibraryName,
  demoPeople,
  makeBuilt,
  makeFile,
  makeOpenSound,
  makeTeamSounds,
  publishedByDemo,
  publishedEntry,
  sluiceSheet,
  type DemoEntry,
} from '../src/demo/index';
import { TeamFolder } from '../src/services/team/index';
import { People } from '../src/services/team/people';

const here = dirname(fileURLToPath(import.meta.url));
const project = join(here, '../src/demo/project.json');
const roomsOf = {
  sounds: ['demo', 'core/synth', 'core/files', 'core/elsewhere', 'services/team'],
  builds: ['core/build', 'core/engine', 'core/effects', 'core/scene', 'core/suggest'],
};

/** Changes when any code that decides the bytes changes; nothing is made twice otherwise. */
function fingerprint(rooms: readonly string[], more = ''): string {
  const hash = createHash('sha256').update(more);
  for (const room of rooms) {
    const dir = join(here, '../src', room);
    for (const name of readdirSync(dir).sort())
      if (/\.(ts|json)$/.test(name) && join(dir, name) !== project) hash.update(readFileSync(join(dir, name)));
  }
  return hash.digest('hex');
}

interface Job {
  folder: string;
  share: number;
  of: number;
}
type Truth = Record<string, { events: number[]; anchor: number; rate: number }>;

/** What one share of the work made. */
interface Done {
  truth: Truth;
  published: DemoEntry[];
}

async function work({ folder, share, of }: Job): Promise<Done> {
  const truth: Truth = {};
  const published: DemoEntry[] = [];
  for (const file of demoFiles().filter((_, i) => i % of === share)) {
    const made = await makeFile(file);
    const path = join(folder, 'libraries', file.library, file.path);
    mkdirSync(dirname(path), { recursive: true });
    writeFileSync(path, made.bytes);
    truth[`${file.library}/${file.path}`] = { events: made.events, anchor: made.anchor, rate: file.plan.rate };
    const entry = await publishedEntry(file, made.bytes);
    if (entry) published.push(entry);
    process.send?.('made');
  }
  return { truth, published };
}

/** The commons as a folder: what it tells of its sounds, and their files by the sums of their content. */
async function makeCommons(folder: string): Promise<void> {
  mkdirSync(join(folder, 'files'), { recursive: true });
  const sounds = [];
  for (const [i, entry] of commonsEntries.entries()) {
    const { sound, files } = await makeOpenSound(entry, i);
    for (const { sha256, bytes } of files) writeFileSync(join(folder, 'files', sha256), bytes);
    sounds.push(sound);
  }
  writeFileSync(join(folder, 'sounds.json'), JSON.stringify(sounds));
}

/** The exchange as a folder, with what the demo's publisher says, and the publisher's key beside it. */
async function makeExchange(folder: string, entries: DemoEntry[]): Promise<void> {
  const sorted = entries.sort((a, b) => (a.labels.fxName < b.labels.fxName ? -1 : 1));
  const { kept, key } = await publishedByDemo(sorted);
  mkdirSync(join(folder, 'exchange'), { recursive: true });
  writeFileSync(join(folder, 'exchange', 'sluice-yard.json'), JSON.stringify(kept));
  writeFileSync(join(folder, 'Sluice Yard key.json'), JSON.stringify(key, undefined, 2));
}

/** The team as a folder: its people, and one library that both may hear. */
async function makeTeam(folder: string): Promise<void> {
  const team = new TeamFolder(folder);
  const people = new People();
  const owner = await people.join(people.first(), demoPeople.owner, demoPeople.password);
  await team.keepLibrary({ id: 1, name: demoLibraryName, allowed: 2e9 });
  people.own(owner, 'library', 1);
  const invitation = people.invite(owner, [{ of: 'library', id: 1, right: 'add' }], false);
  await people.join(invitation, demoPeople.assistant, demoPeople.password);
  await team.keepPeople(people.whole);
  const library = team.libraries.get(1)!;
  const made = await makeTeamSounds();
  for (const { sound, bytes, measured } of made) {
    writeFileSync(team.pathOf(sound.file), bytes);
    await team.keepMeasured(sound.file, measured);
  }
  const at = Date.UTC(2026, 3, 2, 9);
  const { entry } = library.adding(
    made.map((m) => m.sound),
    owner.name,
    at,
  );
  await team.append(library, entry!);
}

/** What was made, as its stamp says; undefined where it was not made. */
function stampOf(file: string): string | undefined {
  try {
    return readFileSync(file, 'utf8');
  } catch {
    return undefined;
  }
}

/** The sounds that were made of the project's builds, beside the sounds that they are made of. */
async function makeBuilds(folder: string, sounds: string): Promise<void> {
  const { builds = [] } = checked<ProjectFile>(
    JSON.parse(readFileSync(project, 'utf8')),
    validators.projectFile,
    project,
  );
  const stamp = join(folder, 'built-by');
  const print = fingerprint(roomsOf.builds, sounds + JSON.stringify(builds));
  if (stampOf(stamp) === print) return;
  const started = performance.now();
  const pathOf = ({ root, path }: ProjectPlace) => join(folder, 'libraries', root, path);
  const made = builds.filter((b) => b.kept);
  for (const build of made) {
    const path = pathOf(build.kept!);
    mkdirSync(dirname(path), { recursive: true });
    writeFileSync(path, await makeBuilt(build, (of) => readFileSync(pathOf(of))));
  }
  writeFileSync(stamp, print);
  console.log(`  ${made.length} sounds built of them in ${((performance.now() - started) / 1000).toFixed(1)} s`);
}

async function main(): Promise<void> {
  const folder = resolve(process.argv[2] ?? join(here, '../.demo'));
  const print = fingerprint(roomsOf.sounds);
  if (stampOf(join(folder, 'made-by')) !== print || !existsSync(join(folder, 'truth.json')))
    await makeSounds(folder, print);
  await makeBuilds(folder, print);
}

/** All sounds that are synthesised, and what stands beside them. @param print what they are made by */
async function makeSounds(folder: string, print: string): Promise<void> {
  const started = performance.now();
  rmSync(folder, { recursive: true, force: true });
  const total = demoFiles().length;
  const threads = Math.max(1, Math.min(8, availableParallelism()));
  let count = 0;
  const shares = Array.from(
    { length: threads },
    (_, share) =>
      new Promise<Done>((done, fail) => {
        const worker = fork(fileURLToPath(import.meta.url), { execArgv: process.execArgv });
        worker.on('error', fail);
        worker.on('exit', (code) => code && fail(new Error(`making the sounds stopped with code ${code}`)));
        worker.send({ folder, share, of: threads } satisfies Job);
        worker.on('message', (message: 'made' | Done) => {
          if (message !== 'made') return done(message);
          count++;
          if (process.stdout.isTTY) process.stdout.write(`\r  ${count} of ${total} sounds`);
        });
      }),
  );
  const [made] = await Promise.all([
    Promise.all(shares),
    makeCommons(join(folder, 'commons')),
    makeTeam(join(folder, 'team')),
  ]);
  const truth = Object.assign({}, ...made.map((m) => m.truth)) as Truth;
  await makeExchange(
    folder,
    made.flatMap((m) => m.published),
  );
  const sorted = Object.fromEntries(Object.entries(truth).sort(([a], [b]) => (a < b ? -1 : 1)));
  writeFileSync(join(folder, 'truth.json'), JSON.stringify(sorted));
  writeFileSync(join(folder, 'Sluice Yard labels.csv'), writeDelimited(sluiceSheet(), ','));
  writeFileSync(join(folder, 'made-by'), print);
  if (process.stdout.isTTY) process.stdout.write('\r');
  console.log(`  ${total} sounds made in ${((performance.now() - started) / 1000).toFixed(1)} s`);
}

if (process.send) {
  process.once('message', (job: Job) => {
    void work(job).then((made) => process.send!(made, () => process.disconnect()));
  });
} else await main();
