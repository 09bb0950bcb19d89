import { BufferTarget, CanvasSource, Output, WebMOutputFormat } from 'mediabunny';
import { drawFrame } from './draw';
import { FPS, FRAMES, HEIGHT, WIDTH } from './events';

/** Draws and encodes the picture. Runs in a browser that has WebCodecs. @returns a WebM file as base64 */
export async function encodePicture(frames = FRAMES): Promise<string> {
  const canvas = Object.assign(document.createElement('canvas'), { width: WIDTH, height: HEIGHT });
  const paper = canvas.getContext('2d', { willReadFrequently: true })!;
  const target = new BufferTarget();
  const output = new Output({ format: new WebMOutputFormat(), target });
  // A key frame each half second: stepping and jumping must answer at once.
  const source = new CanvasSource(canvas, { codec: 'vp9', bitrate: 560_000, keyFrameInterval: 0.5 });
  output.addVideoTrack(source, { frameRate: FPS });
  await output.start();
  for (let frame = 0; frame < frames; frame++) {
    drawFrame(paper, frame);
    await source.add(frame / FPS, 1 / FPS);
  }
  await output.finalize();
  const bytes = new Uint8Array(target.buffer!);
  let text = '';
  for (let i = 0; i < bytes.length; i += 32768) text += String.fromCharCode(...bytes.subarray(i, i + 32768));
  return btoa(text);
}

/** A still of one frame, as a PNG data URL. */
export function still(frame: number): string {
  const canvas = Object.assign(document.createElement('canvas'), { width: WIDTH, height: HEIGHT });
  drawFrame(canvas.getContext('2d')!, frame);
  return canvas.toDataURL('image/png');
}

Object.assign(window, { encodePicture, still });
