import { FactsCollector } from '@core/audio';
import { printText } from '@core/elsewhere';
import { memorySource, readAudioFile, readFrames } from '@core/files';
import type { ExchangeEntry, PrintText, PublicKey, PublisherKeyFile } from '@core/schemas';
import { webcrypto } from 'node:crypto';
import type { DemoFile } from './plan';
import published from './sluice-published.json';

/** What *Sluice Yard* publishes of one of its sounds: the labels that its files lack. */
export interface DemoEntry extends ExchangeEntry {
  print: PrintText;
}

const PUBLISHER = 'Sluice Yard';
const AT = '2026-04-02T08:15:00.000Z';

/** What the publisher says of a file; undefined of those that are none of its own. */
export async function publishedEntry(file: DemoFile, bytes: Uint8Array): Promise<DemoEntry | undefined> {
  if (file.library !== PUBLISHER || file.silent) return undefined;
  const base = file.path.slice(file.path.lastIndexOf('/') + 1);
  const found = Object.entries(published as Record<string, string[]>).find(([begin]) => base.startsWith(begin));
  if (!found) return undefined;
  const [begin, [catId, name, description, keywords, german]] = found;
  const take = /(\d+)\.\w+$/.exec(base)?.[1] ?? '01';
  const source = memorySource(bytes);
  const { format } = await readAudioFile(source);
  const planes = await readFrames(source, format, 0, format.frames);
  const collector = await FactsCollector.start(format.frames, format.rate, format.channels);
  collector.push(planes);
  const { hash, print } = collector.done(false);
  const labels = {
    ...{ fxName: `${name} ${take}`, catId, description, keywords, 'description@de': german },
    ...{ library: PUBLISHER, manufacturer: PUBLISHER, creatorId: 'SLY', licence: 'Owned' },
    page: `https://sluice-yard.example/sounds/${encodeURIComponent(begin)}`,
  };
  return { hash, revision: 1, labels, print: printText(print) };
}

/** The publisher as the exchange keeps it, and its key as a file: whoever tries the demo may publish a correction. */
export async function publishedByDemo(entries: readonly DemoEntry[]): Promise<{ kept: object; key: PublisherKeyFile }> {
  const own = new Map(entries.map((e) => [e.hash, e]));
  const pair = await webcrypto.subtle.generateKey({ name: 'ECDSA', namedCurve: 'P-256' }, true, ['sign', 'verify']);
  const { x, y, d } = await webcrypto.subtle.exportKey('jwk', pair.privateKey);
  const key: PublicKey = { kty: 'EC', crv: 'P-256', x: x!, y: y! };
  const publication = { revision: 1, at: AT, note: 'First labels', added: own.size, changed: 0, withdrawn: 0 };
  return {
    kept: { publisher: PUBLISHER, key, revision: 1, entries: [...own.values()], publications: [publication] },
    key: { format: 'cormorant-key', version: 1, publisher: PUBLISHER, key: { ...key, d: d! } },
  };
}
