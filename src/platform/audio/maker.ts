import { FactsCollector, type Facts, type Peaks } from '@core/audio';
import { writeWav, type AudioFormat } from '@core/files';
import { renderRoll, type Roll } from '@core/synth';

/** Of what is made: as of all that the house writes anew. */
const AS = { rate: 48_000, bits: 24 } as const;
/** Frames that are measured at a time. */
const SPAN = 65_536;

/** A sound that was made from nothing: its file, and what is known of it. */
export interface MadeAudio {
  audio: Blob;
  format: AudioFormat;
  /** Frame of its anchor. */
  anchor: number;
  facts: Facts;
  peaks: Peaks;
}

/** Makes sounds from nothing, in a worker. */
export class Maker {
  /** Makes the sound of a roll, as a WAV file of 24 bit, with its facts. */
  async make(roll: Roll): Promise<MadeAudio> {
    const { planes, anchor } = renderRoll(roll, AS.rate);
    const [frames, channels] = [planes[0].length, planes.length];
    const bytes = writeWav(planes, AS) as Uint8Array<ArrayBuffer>;
    const collector = await FactsCollector.start(frames, AS.rate, channels);
    for (let i = 0; i < frames; i += SPAN) collector.push(planes.map((p) => p.slice(i, i + SPAN)));
    const { facts, peaks } = collector.done();
    const blockAlign = (AS.bits / 8) * channels;
    const format: AudioFormat = {
      ...{ container: 'WAV', encoding: 'pcm', unsigned: false, littleEndian: true, rate: AS.rate, channels },
      ...{ bits: AS.bits, blockAlign, frames, dataOffset: bytes.length - frames * blockAlign },
    };
    return { audio: new Blob([bytes]), format, anchor: Math.round(anchor * AS.rate), facts, peaks };
  }
}
