import type { RootRecord } from '../store/store';
import { CanvasSink } from 'mediabunny';
import { inputOf } from './coded';
import { openFile } from '../files/roots';

/** What a picture file is like. */
export interface PictureFacts {
  /** Frames a second, measured from the file's packets. */
  fps: number;
  frames: number;
  width: number;
  height: number;
}

/** Reads pictures, in a worker. */
export class Film {
  /** Measures frame rate and length. @throws Error when the file has no picture */
  async facts(root: RootRecord, path: string, size: number): Promise<PictureFacts> {
    const input = inputOf(await openFile(root, path, size));
    try {
      const track = await input.getPrimaryVideoTrack();
      if (!track) throw new Error(`${path} has no picture in it.`);
      const { averagePacketRate, packetCount } = await track.computePacketStats();
      return { fps: averagePacketRate, frames: packetCount, width: track.displayWidth, height: track.displayHeight };
    } finally {
      input.dispose();
    }
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
    const input = inputOf(await openFile(root, path, size));
    try {
      const track = await input.getPrimaryVideoTrack();
      if (!track || !(await track.canDecode())) return;
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
    } finally {
      input.dispose();
    }
  }
}
