import { EnergyCollector } from '@core/audio';
import { memorySource, readAudioFile, readFrames, writeWav } from '@core/files';
import { families, render, type FamilyName } from '@core/synth';
import { suggestAnchor } from '@core/suggest';
import { demoFiles, makeBuilt, makeFile, type DemoFile } from '@demo/index';
import { pictureEvents } from '@demo/film/events';
import { checked, validators, type ProjectFile } from '@core/schemas';
import { createHash } from 'node:crypto';
import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { rms } from '../helpers/signals';

const files = demoFiles();
/** A file of the demo, cut short: what holds for two seconds holds for twenty. */
function find(part: string): DemoFile {
  const file = files.find((f) => f.path.includes(part))!;
  return { ...file, plan: { ...file.plan, seconds: Math.min(2, file.plan.seconds) } };
}
const hash = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

test('the demo holds what its page says', () => {
  const count = (library: string) => files.filter((f) => f.library === library).length;
  expect([
    count('Tidewrack Audio'),
    count('Marram Field Recordings'),
    count('Sluice Yard'),
    count('Own recordings'),
  ]).toEqual([112, 122, 80, 6]);
  expect(new Set(files.map((f) => `${f.library}/${f.path}`)).size).toBe(320);
  expect(new Set(files.map((f) => f.format))).toEqual(new Set(['wav', 'aiff', 'flac', 'ogg']));
  expect(new Set(files.map((f) => f.plan.channels))).toEqual(new Set([1, 2, 4]));
  expect(new Set(files.map((f) => f.plan.rate))).toEqual(new Set([44100, 48000, 96000]));
  expect(files.filter((f) => f.silent)).toHaveLength(2);
});

test.each(Object.keys(families) as FamilyName[])(
  '%s sounds: finite, audible, quiet at its end, other in each take',
  (family) => {
    const plan = { family, seed: 5, rate: 16000, seconds: 1.6, channels: 2 as const };
    const { planes, events } = render(plan);
    expect(planes.every((p) => p.every(Number.isFinite))).toBe(true);
    expect(rms(planes[0])).toBeGreaterThan(0.0005);
    expect(rms(planes[0].subarray(-80))).toBeLessThan(0.2 * Math.max(...planes[0].map(Math.abs)));
    expect(events.every((e) => e >= 0 && e < 1.6)).toBe(true);
    expect(render(plan).planes[1]).toEqual(planes[1]);
    expect(render({ ...plan, seed: 6 }).planes[0]).not.toEqual(planes[0]);
  },
);

test.each([
  'Winch Pawl Clack Heavy 01',
  'postKnock-01',
  'reeds in gusts (near)',
  'warbler in reeds (mono)',
  'rain on sallow leaves (quad)',
])('%s is made of the same bytes each time', async (part) => {
  const [once, again] = [await makeFile(find(part)), await makeFile(find(part))];
  expect(hash(once.bytes)).toBe(hash(again.bytes));
});

test('each take of a kind is another sound', () => {
  const lengths = new Set(files.filter((f) => f.path.includes('pierPlankCreak')).map((f) => f.plan.seconds));
  expect(lengths.size).toBeGreaterThan(5);
  expect(Math.max(...lengths) - Math.min(...lengths)).toBeGreaterThan(0.5);
});

test('a publisher’s file carries its labels and its anchor where the event is', async () => {
  const made = await makeFile(find('Winch Pawl Clack Heavy 03'));
  const file = await readAudioFile(memorySource(made.bytes));
  expect(file.labels.get('iXML.ASWG.catId')).toBe('BOATMech');
  expect(file.labels.get('iXML.USER.KEYWORDS')).toContain('pawl');
  expect(file.labels.get('INFO.ICOP')).toContain('Licence: Owned');
  expect(file.cues).toEqual([{ frame: Math.round(made.anchor * file.format.rate), length: 0, label: 'anchor' }]);
  expect(file.warnings).toEqual([]);
});

test('a suggested anchor lies within 12 ms of the truth on struck sounds', async () => {
  const struck = files.filter((f) => /pawlClack_wet|postKnock|ironBarHit|bootStep-0[1-3]/.test(f.path) && !f.silent);
  expect(struck.length).toBeGreaterThan(15);
  const far: string[] = [];
  for (const f of struck) {
    const made = await makeFile(f);
    const source = memorySource(made.bytes);
    const { format } = await readAudioFile(source);
    const energy = new EnergyCollector(format.rate);
    energy.push(await readFrames(source, format, 0, format.frames));
    const off = Math.abs(suggestAnchor(energy, format.rate).frame / format.rate - made.events[0]);
    if (off > 0.012) far.push(`${f.path}: ${(off * 1000).toFixed(1)} ms`);
  }
  expect(far).toEqual([]);
});

test('a sound built of others holds their sum on one anchor, which its file marks, and labels of theirs', async () => {
  const click = (at: number, height: number, catId: string) => {
    const plane = new Float32Array(4800);
    plane[at] = height;
    const ixml = { ASWG: { catId, fxName: `Click at ${at}` }, USER: { KEYWORDS: `click, ${catId}` } };
    return writeWav([plane], { rate: 48000, bits: 24 }, { ixml, cues: [{ frame: at, length: 0, label: 'anchor' }] });
  };
  const there: Record<string, Uint8Array> = { a: click(300, 0.25, 'DOORWood'), b: click(2000, 0.5, 'BOATHorn') };
  const layer = (path: string, gain: number, offset = 0) => ({ name: path, root: 'A', path, gain, offset });
  const made = await makeBuilt(
    { name: 'Two clicks', layers: [layer('a', 0), layer('b', -6, 10)] },
    ({ path }) => there[path],
  );
  const source = memorySource(made);
  const { format, labels, cues, warnings } = await readAudioFile(source);
  const [left, right] = await readFrames(source, format, 0, format.frames);
  // The second one begins first: 2,000 samples before its anchor, which lies 480 behind that of the first.
  expect(cues).toEqual([{ frame: 1520, length: 0, label: 'Anchor' }]);
  expect([...left.entries()].filter(([, x]) => Math.abs(x) > 1e-4).map(([i]) => i)).toEqual([1520, 2000]);
  expect([left[1520], left[2000]]).toEqual([expect.closeTo(0.25, 3), expect.closeTo(0.5 * 10 ** (-6 / 20), 3)]);
  expect(right).toEqual(left);
  expect([labels.get('iXML.ASWG.catId'), labels.get('iXML.ASWG.fxName')]).toEqual(['DOORWood', 'Two clicks']);
  expect(labels.get('iXML.USER.KEYWORDS')).toBe('click, DOORWood, BOATHorn');
  expect(warnings).toEqual([]);
});

test('the picture’s events stand where the story says, and the project names only what is there', () => {
  const at = (name: string) => pictureEvents.events.find((e) => e.name === name)!.frame;
  expect([
    at('lantern is lit'),
    at('rope is cast off'),
    at('pawl clack 1'),
    at('pawl clack 2'),
    at('horn answers'),
  ]).toEqual([48, 144, 312, 329, 528]);
  const events = JSON.parse(readFileSync('src/demo/picture/last-ferry.events.json', 'utf8')) as typeof pictureEvents;
  expect(checked(events, validators.pictureEvents, 'the events')).toEqual(pictureEvents);
  const project = checked<ProjectFile>(
    JSON.parse(readFileSync('src/demo/project.json', 'utf8')),
    validators.projectFile,
    'the project',
  );
  const { builds = [] } = project;
  const kept = builds.flatMap((b) => b.kept ?? []);
  expect(kept).toHaveLength(3);
  const there = new Set([...files.map((f) => `${f.library}/${f.path}`), ...kept.map((k) => `${k.root}/${k.path}`)]);
  const states = project.scenes.flatMap((s) => [s, ...(s.versions ?? [])]);
  const named = [
    ...[project.tray, ...project.pulls.map((p) => p.sounds), ...states.map((s) => s.cues)].flat(),
    ...builds.flatMap((b) => b.layers),
  ];
  expect(named.filter((n) => !there.has(`${n.root}/${n.path}`))).toEqual([]);
  expect(project.pulls).toHaveLength(3);
});

// An independent witness, where Debian's ffmpeg is installed.
const ffprobe = '/usr/bin/ffprobe';
(existsSync(ffprobe) ? test : test.skip).each([
  'Winch Pawl Clack Heavy 01',
  'postKnock-01',
  'reeds in gusts (near)',
  'warbler in reeds (near)',
  '(quad)',
])('ffprobe reads %s as we wrote it', async (part) => {
  const file = find(part);
  const made = await makeFile(file);
  const path = join(mkdtempSync(join(tmpdir(), 'cormorant-')), `a.${file.format === 'aiff' ? 'aif' : file.format}`);
  writeFileSync(path, made.bytes);
  const said = JSON.parse(
    execFileSync(ffprobe, ['-v', 'error', '-show_streams', '-of', 'json', path], { encoding: 'utf8' }),
  ) as { streams: { sample_rate: string; channels: number; duration: string; codec_type: string }[] };
  const audio = said.streams.find((s) => s.codec_type === 'audio')!;
  expect([Number(audio.sample_rate), audio.channels]).toEqual([file.plan.rate, file.plan.channels]);
  expect(Number(audio.duration)).toBeCloseTo(file.plan.seconds, 1);
});
