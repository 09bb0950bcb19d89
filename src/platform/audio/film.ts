import type { AudioFormat } from '@core/files';
import { FileError, mp4Timecode } from '@core/files';
import {
  CutFinder,
  MOTION_SIZE,
  MotionFinder,
  shrunk,
  thirdOf,
  frameRate,
  frameRates,
  fromTimecode,
  nearestRate,
  toTimecode,
  type PictureCut,
  type PictureMotion,
} from '@core/scene';
import type { RootRecord } from '../store/store';
import {
  CanvasSink,
  EncodedPacketSink,
  VideoSampleSink,
  type Input,
  type InputVideoTrack,
  type VideoSample,
} from 'mediabunny';
import { describeCoded, inputOf, isOurs } from './coded';
import { openFile } from '../files/roots';

/** What a picture file is like. */
export interface PictureFacts {
  /** Name of its frame rate. */
  rate: string;
  /** Frames of that rate that it lasts. */
  frames: number;
  width: number;
  height: number;
  /** When its first frame stands, by the clock of the file. Seconds. */
  first: number;
  /** Bounds of its rate where that is not the same all along. Frames a second. */
  variable?: { least: number; most: number };
  /** Timecode of its first frame, where the file tells it. */
  start?: string;
  /** Its own sound; undefined where it has none that can be decoded. */
  sound?: AudioFormat;
  /** Bytes. */
  size: number;
}

/** Frame lengths that differ by less come of how coarsely a file keeps its times. Seconds; and as a share of a frame. */
const [COARSE, UNEVEN] = [0.003, 0.1];

interface Timing {
  fps: number;
  frames: number;
  first: number;
  seconds: number;
  variable?: { least: number; most: number };
}

/** When the frames of a picture stand. */
async function timingOf(track: InputVideoTrack): Promise<Timing> {
  const times: number[] = [];
  let last = 0;
  const sink = new EncodedPacketSink(track);
  for await (const packet of sink.packets(undefined, undefined, { metadataOnly: true })) {
    times.push(packet.timestamp);
    if (packet.timestamp >= times[last]) last = times.length - 1;
  }
  const sorted = Float64Array.from(times).sort();
  const frames = sorted.length;
  if (frames === 0) throw new Error('there are no frames in it');
  const [first, end] = [sorted[0], sorted[frames - 1]];
  if (frames === 1) return { fps: 24, frames, first, seconds: 1 / 24 };
  const mean = (end - first) / (frames - 1);
  let [short, long] = [Infinity, 0];
  for (let i = 1; i < frames; i++) {
    const length = sorted[i] - sorted[i - 1];
    if (length <= 0) continue;
    short = Math.min(short, length);
    long = Math.max(long, length);
  }
  const uneven = long - short > Math.max(COARSE, UNEVEN * mean);
  return {
    ...{ fps: 1 / mean, frames, first, seconds: end - first + mean },
    ...(uneven ? { variable: { least: 1 / long, most: 1 / short } } : {}),
  };
}

/** Reads pictures, in a worker. */
export class Film {
  /** Opens a picture. @throws Error that says what is the matter with the file */
  private async open<T>(
    root: RootRecord,
    path: string,
    size: number,
    use: (input: Input, track: InputVideoTrack, size: number) => Promise<T>,
  ): Promise<T> {
    const source = await openFile(root, path, size);
    const input = inputOf(source);
    try {
      const track = await input.getPrimaryVideoTrack().catch((error: unknown) => {
        // That the file is gone, or its folder out of reach, is not the fault of what is in it.
        throw isOurs(error) ? error : new Error(`${path} is damaged, or no film: choose another file.`);
      });
      if (!track) throw new Error(`${path} has no picture in it: choose a video.`);
      return await use(input, track, source.size);
    } finally {
      input.dispose();
    }
  }

  /** Measures frame rate and length, and reads its start timecode. @throws Error when the file has no picture that can be shown */
  async facts(root: RootRecord, path: string, size: number): Promise<PictureFacts> {
    return this.open(root, path, size, async (input, track, bytes) => {
      if (!(await track.canDecode()))
        throw new Error(
          `${path} cannot be shown: this browser has no decoder for ${track.codec ?? 'its picture'}. Convert it to H.264 or VP9.`,
        );
      const timing = await timingOf(track).catch((error: Error) => {
        throw new Error(`${path} cannot be shown: ${error.message}.`);
      });
      const named = nearestRate(timing.fps);
      const source = await openFile(root, path, size);
      const code = await mp4Timecode(source).catch(() => undefined);
      const drops = code?.drop && frameRates.find((r) => r.drop && r.num === named.num && r.den === named.den);
      const rate = drops || named;
      const told = code?.nominal === rate.nominal ? toTimecode(code.frame, rate) : await taggedTimecode(input);
      const sound = await describeCoded(source).catch((error: Error) => {
        if (error instanceof FileError) return undefined;
        throw error;
      });
      const { variable, first, seconds } = timing;
      return {
        ...{ rate: rate.name, first, size: bytes, width: track.displayWidth, height: track.displayHeight },
        frames: variable ? Math.max(1, Math.round((seconds * rate.num) / rate.den)) : timing.frames,
        ...(variable ? { variable } : {}),
        ...(told !== undefined && isTimecode(told, rate) ? { start: told } : {}),
        ...(sound ? { sound: sound.format } : {}),
      };
    });
  }

  /** Small pictures at the given times (seconds), each handed over as soon as it is there. */
  async strip(
    root: RootRecord,
    path: string,
    size: number,
    times: number[],
    height: number,
    take: (index: number, picture: ImageBitmap) => void,
  ): Promise<void> {
    await this.open(root, path, size, async (_, track) => {
      if (!(await track.canDecode())) return;
      const sink = new CanvasSink(track, {
        height,
        width: Math.round((height * track.displayWidth) / track.displayHeight),
        fit: 'fill',
      });
      let index = 0;
      for await (const frame of sink.canvasesAtTimestamps(times)) {
        if (frame) take(index, await createImageBitmap(frame.canvas));
        index++;
      }
    });
  }

  /**
   * Looks through a picture for its cuts and for what moves in it.
   * @param told how much of it is done, 0 to 1; what it answers says whether to go on
   * @returns undefined when it was told to stop
   */
  async events(
    root: RootRecord,
    path: string,
    facts: PictureFacts,
    told: (done: number) => boolean | Promise<boolean>,
  ): Promise<PictureEvents | undefined> {
    const { num, den } = frameRate(facts.rate);
    const small = smallPictures();
    const cuts = new CutFinder();
    const motion = new MotionFinder(num / den);
    return this.open(root, path, facts.size, async (_, track) => {
      let looked = 0;
      for await (const sample of new VideoSampleSink(track).samples()) {
        const frame = Math.round(((sample.timestamp - facts.first) * num) / den);
        const grey = await small(sample);
        cuts.push(Math.max(0, frame), thirdOf(grey));
        motion.push(Math.max(0, frame), grey);
        sample.close();
        if (++looked % TOLD === 0 && !(await told(Math.min(1, looked / facts.frames)))) return undefined;
      }
      const found = cuts.finish();
      return { found, motion: motion.finish(found) };
    });
  }
}

/** What is found in a picture: its cuts, and what moves. */
export type PictureEvents = { found: PictureCut[]; motion: PictureMotion };

/** Frames after which it is told how far one is. */
const TOLD = 48;

/** Formats whose first plane is luma, a byte each pixel. */
const LUMA_FIRST = /^(I420A?|I422A?|I444A?|NV12A?)$/;

/** Makes small grey pictures of frames: of their luma where that lies bare, else of what is drawn of them, which takes much longer. */
function smallPictures(): (sample: VideoSample) => Promise<Uint8Array> {
  const { width, height } = MOTION_SIZE;
  const paper = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!;
  let bytes = new Uint8Array(0);
  return async (sample) => {
    if (sample.format && LUMA_FIRST.test(sample.format)) {
      const size = sample.allocationSize();
      if (bytes.length < size) bytes = new Uint8Array(size);
      const [{ offset, stride }] = await sample.copyTo(bytes);
      const { width: wide, height: high } = sample.visibleRect;
      return shrunk(bytes.subarray(offset), { stride, wide, high }, MOTION_SIZE);
    }
    sample.draw(paper, 0, 0, width, height);
    return greyOf(paper.getImageData(0, 0, width, height).data);
  };
}

/** Luma by the weights of ITU-R BT.709, 0 to 255. @param rgba pixels of four bytes */
function greyOf(rgba: Uint8ClampedArray): Uint8Array {
  const grey = new Uint8Array(rgba.length / 4);
  for (let i = 0, at = 0; i < grey.length; i++, at += 4)
    grey[i] = 0.2126 * rgba[at] + 0.7152 * rgba[at + 1] + 0.0722 * rgba[at + 2] + 0.5;
  return grey;
}

/** What Matroska files write into a tag of this name. */
async function taggedTimecode(input: Input): Promise<string | undefined> {
  const { raw } = await input.getMetadataTags().catch(() => ({ raw: undefined }));
  const tag = Object.entries(raw ?? {}).find(([key]) => key.toUpperCase() === 'TIMECODE')?.[1];
  return typeof tag === 'string' ? tag : undefined;
}

function isTimecode(text: string, rate: (typeof frameRates)[number]): boolean {
  try {
    fromTimecode(text, rate);
    return true;
  } catch {
    return false;
  }
}
