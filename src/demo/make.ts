import type { WavLabels } from '@core/files';
import { encodeFlac, writeAiff, writeWav } from '@core/files';
import { render } from '@core/synth';
import { artwork, id3WithCover } from './artwork';
import { encodeOgg } from './encode';
import type { DemoFile } from './plan';

/** A made file and, in seconds, where its events and its anchor lie. */
export interface MadeFile {
  bytes: Uint8Array;
  events: number[];
  anchor: number;
}

const DATE = '2026-03-14';

function publisherLabels(file: DemoFile, anchorFrame: number, endFrame: number): WavLabels {
  const { catId = '', fxName = '', description = '', keywords = [] } = file.labels;
  const aswg = {
    catId,
    fxName,
    creatorId: 'TWA',
    sourceId: 'TIDE',
    library: file.library,
    manufacturer: 'Tidewrack Audio',
    notes: description,
    project: 'Harbor volumes',
  };
  return {
    bext: {
      Description: description,
      Originator: 'Tidewrack Audio',
      OriginationDate: DATE,
      OriginationTime: '21:40:00',
      CodingHistory: `A=PCM,F=${file.plan.rate},W=${file.bits}\r\n`,
    },
    ixml: { PROJECT: 'Harbor volumes', NOTE: description, ASWG: aswg, USER: { KEYWORDS: keywords.join(', ') } },
    info: {
      INAM: fxName,
      ICMT: description,
      IART: 'Tidewrack Audio',
      IKEY: keywords.join('; '),
      ICOP: 'Tidewrack Audio. Licence: Owned',
    },
    cues: [{ frame: anchorFrame, length: 0, label: 'anchor' }],
    loops: file.loop ? [{ start: 0, end: endFrame - 1 }] : [],
    chunks: [{ id: 'id3 ', bytes: id3WithCover(fxName, artwork(file.library)) }],
  };
}

function wavLabels(file: DemoFile, anchorFrame: number, endFrame: number): WavLabels {
  const { description } = file.labels;
  if (file.library === 'Tidewrack Audio') return publisherLabels(file, anchorFrame, endFrame);
  if (description) return { bext: { Description: description, Originator: file.library, OriginationDate: DATE } };
  if (file.library === 'Own recordings')
    return { bext: { Originator: 'Deck recorder', OriginationDate: DATE, TimeReference: 3675n * 48000n } };
  return {};
}

/** Makes one file of the demo library: the same bytes each time. */
export async function makeFile(file: DemoFile): Promise<MadeFile> {
  const { planes, events, anchor } = render(file.plan);
  if (file.silent) planes.forEach((p) => p.fill(0));
  const as = { rate: file.plan.rate, bits: file.bits };
  const frames = planes[0].length;
  const anchorFrame = Math.round(anchor * as.rate);
  const done = (bytes: Uint8Array): MadeFile => ({ bytes, events: file.silent ? [] : events, anchor });
  switch (file.format) {
    case 'aiff':
      return done(writeAiff(planes, as));
    case 'flac':
      return done(
        await encodeFlac(
          planes,
          as,
          { DESCRIPTION: file.labels.description ?? '', ARTIST: file.library },
          'Cormorant demo',
        ),
      );
    case 'ogg':
      return done(await encodeOgg(planes, as.rate));
    default:
      return done(writeWav(planes, as, wavLabels(file, anchorFrame, frames)));
  }
}
