import { FactsCollector } from '@core/audio';
import { contourCode, thinnedContour } from '@core/elsewhere';
import { encodeFlac } from '@core/files';
import type { OfferedFile, OpenSound } from '@core/schemas';
import { likeCode, likenessOf } from '@core/search';
import { render, seedOf } from '@core/synth';
import { createHash } from 'node:crypto';
import data from './commons.json';
import { encodeOgg } from './encode';
import { planTake, type Kind } from './plan';

/** A sound of the commons, before it is made. */
interface Entry extends Omit<Kind, 'takes' | 'seconds'> {
  title: string;
  author: string;
  licence: string;
  seconds: number;
  tags: string[];
  description: string;
}

/** The first was shared on this day, each other some days later. */
const FIRST = Date.UTC(2025, 1, 3, 9, 30);
const DAY = 86_400_000;

/** All sounds that the commons shares. */
export const commonsEntries = data as unknown as Entry[];

/** Makes a sound of the commons, as what is told of it and its two files: the same bytes each time. */
export async function makeOpenSound(
  entry: Entry,
  index: number,
): Promise<{ sound: OpenSound; files: { sha256: string; bytes: Uint8Array }[] }> {
  const { title, author, licence, tags, description, seconds, ...kind } = entry;
  const plan = { ...planTake({ ...kind, takes: 1, seconds: [seconds, seconds] }, `commons ${title}`, 0), pan: 0 };
  const { planes, anchor } = render(plan);
  const { rate } = plan;
  const collector = await FactsCollector.start(planes[0].length, rate, planes.length);
  collector.push(planes);
  const { facts, curves, peaks } = collector.done(false);
  const id = seedOf(`commons/${title}`).toString(36);
  const files: { sha256: string; bytes: Uint8Array }[] = [];
  const offered = (bytes: Uint8Array, name: string): OfferedFile => {
    const sha256 = createHash('sha256').update(bytes).digest('hex');
    files.push({ sha256, bytes });
    return { href: `v1/files/${sha256}.${name.split('.').pop()!}`, size: bytes.length, sha256, name };
  };
  const base = title.replace(/[^\w ]+/g, '').replace(/ +/g, ' ');
  const comments = { TITLE: title, ARTIST: author, DESCRIPTION: description, LICENSE: licence };
  const sound: OpenSound = {
    ...{ id, title, author, description, tags, licence },
    page: `https://foreshore-commons.example/sounds/${id}`,
    shared: new Date(FIRST + index * 11 * DAY).toISOString(),
    seconds: planes[0].length / rate,
    ...{ rate, bits: 24, channels: planes.length, anchor: Math.round(anchor * rate) },
    contour: contourCode(thinnedContour(peaks.pairs)),
    like: likeCode(likenessOf({ rate, ...peaks, ...curves, ...facts })),
    original: offered(await encodeFlac(planes, { rate, bits: 24 }, comments, 'Cormorant demo'), `${base}.flac`),
    preview: offered(await encodeOgg(planes, rate), `${base}.ogg`),
  };
  return { sound, files };
}
