import { frequencyRow, peakBetween, type Direction, type Peaks, type WaveColumns } from '@core/audio';
import type { Marks } from '@core/library';
import type { Spectrogram } from '@platform/index';
import type { Palette } from '../../theme/tokens';

/** Sizes a canvas for the screen's pixels and hands its context over, scaled to CSS pixels and cleared. */
export function paperOf(canvas: HTMLCanvasElement, width: number, height: number): CanvasRenderingContext2D {
  const scale = window.devicePixelRatio || 1;
  const [wide, high] = [Math.max(1, Math.round(width * scale)), Math.max(1, Math.round(height * scale))];
  // Setting a size makes the canvas anew, even the same one.
  if (canvas.width !== wide || canvas.height !== high) Object.assign(canvas, { width: wide, height: high });
  const paper = canvas.getContext('2d')!;
  paper.setTransform(scale, 0, 0, scale, 0, 0);
  paper.clearRect(0, 0, width, height);
  return paper;
}

/**
 * Draws a contour as one filled shape, mirrored round the middle by what it really is: lowest and highest per column.
 * @param frameAt the frame that lies on a column
 */
export function drawContour(
  paper: CanvasRenderingContext2D,
  peaks: Peaks,
  columns: { from: number; to: number },
  frameAt: (x: number) => number,
  box: { top: number; height: number },
): void {
  const middle = box.top + box.height / 2;
  const half = box.height / 2 - 1;
  for (let x = Math.floor(columns.from); x < columns.to; x++) {
    const from = frameAt(x);
    const to = frameAt(x + 1);
    if (to <= 0 || from >= peaks.frames) continue;
    const [low, high] = peakBetween(peaks, Math.max(0, from), Math.min(peaks.frames, to));
    const top = middle - Math.max(0.5, high * half);
    const bottom = middle + Math.max(0.5, -low * half);
    paper.fillRect(x, top, 1, bottom - top);
  }
}

/**
 * Draws the contour of a part of a sound between two places, as it is heard: backward, or there and back.
 * @param columns what of it is in sight
 */
export function drawPlayed(
  paper: CanvasRenderingContext2D,
  peaks: Peaks,
  { start, end, direction }: { start: number; end: number; direction?: Direction },
  { left, right }: { left: number; right: number },
  columns: { from: number; to: number },
  box: { top: number; height: number },
): void {
  const part = (from: number, to: number, back: boolean) => {
    const per = (end - start) / (to - from);
    const frameAt = (x: number) => (back ? end - (x - from) * per : start + (x - from) * per);
    const own = { from: Math.max(columns.from, from), to: Math.min(columns.to, to) };
    if (!back) return drawContour(paper, peaks, own, frameAt, box);
    // Read the other way round, a column begins in the sound where it ends for the ear.
    for (let x = Math.floor(own.from); x < own.to; x++)
      drawContour(paper, peaks, { from: x, to: x + 1 }, (at) => frameAt(at === x ? x + 1 : x), box);
  };
  if (direction !== 'both ways') return part(left, right, direction === 'backward');
  const middle = (left + right) / 2;
  part(left, middle, false);
  part(middle, right, true);
}

/** Full scale, as near as 24 bits come to it: what reaches it was most likely cut off there. */
const CLIPPED = 1 - 2 ** -15;

/** How a waveform is drawn: in one lane, or one for each channel. */
export interface WaveLook {
  split: boolean;
  colour: string;
  /** Of the mean level, inside. */
  inner: string;
  /** Of what is cut off. */
  clipped: string;
}

/**
 * Draws a waveform from its columns; where they are single samples, as points on a line.
 * @param xOf where a frame lies
 */
export function drawWave(
  paper: CanvasRenderingContext2D,
  wave: WaveColumns,
  xOf: (frame: number) => number,
  box: { top: number; height: number },
  look: WaveLook,
): void {
  const lanes = look.split ? wave.low.length : 1;
  const count = wave.low[0]?.length ?? 0;
  const per = (wave.to - wave.from) / count;
  const step = xOf(wave.from + per) - xOf(wave.from);
  const alpha = paper.globalAlpha;
  for (let lane = 0; lane < lanes; lane++) {
    const channels = look.split ? [lane] : wave.low.map((_, c) => c);
    const half = box.height / lanes / 2 - 1;
    const middle = box.top + (box.height / lanes) * (lane + 0.5);
    if (per <= 1 && step > 2) {
      for (const c of channels) drawSamples(paper, wave, c, xOf, middle, half, look);
      continue;
    }
    for (let i = 0; i < count; i++) {
      const x = xOf(wave.from + i * per);
      let [low, high, power] = [Infinity, -Infinity, 0];
      for (const c of channels) {
        low = Math.min(low, wave.low[c][i]);
        high = Math.max(high, wave.high[c][i]);
        power = Math.max(power, wave.rms[c][i]);
      }
      const wide = Math.max(step, 0.5);
      paper.fillStyle = Math.max(high, -low) >= CLIPPED ? look.clipped : look.colour;
      paper.fillRect(x, middle - Math.max(0.5, high * half), wide, Math.max(1, (high - low) * half));
      paper.fillStyle = look.inner;
      paper.globalAlpha = alpha * 0.35;
      const [top, bottom] = [Math.min(power, high), Math.max(-power, low)];
      if (top > bottom) paper.fillRect(x, middle - top * half, wide, (top - bottom) * half);
      paper.globalAlpha = alpha;
    }
  }
}

function drawSamples(
  paper: CanvasRenderingContext2D,
  wave: WaveColumns,
  channel: number,
  xOf: (frame: number) => number,
  middle: number,
  half: number,
  look: WaveLook,
): void {
  const samples = wave.low[channel];
  paper.strokeStyle = look.colour;
  paper.lineWidth = 1;
  paper.beginPath();
  samples.forEach((v, i) => paper.lineTo(xOf(wave.from + i), middle - v * half));
  paper.stroke();
  samples.forEach((v, i) => {
    paper.fillStyle = Math.abs(v) >= CLIPPED ? look.clipped : look.colour;
    paper.fillRect(xOf(wave.from + i) - 1.5, middle - v * half - 1.5, 3, 3);
  });
}

/** The red, green and blue of a colour written as `#rrggbb`. */
const rgb = (hex: string) => [1, 3, 5].map((at) => parseInt(hex.slice(at, at + 2), 16));

/** 256 colours from nothing to full scale, through some of the palette's, each lighter than the one before where the ground is dark. */
export function heat(stops: readonly string[]): Uint8ClampedArray {
  const colours = stops.map(rgb);
  return Uint8ClampedArray.from({ length: 256 * 4 }, (_, i) => {
    if (i % 4 === 3) return 255;
    const place = (Math.floor(i / 4) / 255) * (colours.length - 1);
    const at = Math.min(colours.length - 2, Math.floor(place));
    return colours[at][i % 4] + (place - at) * (colours[at + 1][i % 4] - colours[at][i % 4]);
  });
}

/** A spectrogram as a picture, its lowest row at the bottom; undefined where it has no columns. */
export function spectrogramPicture(spectrum: Spectrogram, colours: Uint8ClampedArray): OffscreenCanvas | undefined {
  const { columns, rows, values } = spectrum;
  if (columns === 0) return undefined;
  const canvas = new OffscreenCanvas(columns, rows);
  const paper = canvas.getContext('2d')!;
  const image = paper.createImageData(columns, rows);
  for (let x = 0; x < columns; x++)
    for (let r = 0; r < rows; r++) {
      const from = values[x * rows + r] * 4;
      image.data.set(colours.subarray(from, from + 4), ((rows - 1 - r) * columns + x) * 4);
    }
  paper.putImageData(image, 0, 0);
  return canvas;
}

const LETTERS = '12px "Atkinson Hyperlegible Mono Variable"';
/** Hz that are written beside a spectrogram. */
const PITCHES = [100, 1000, 10_000];

/**
 * Writes frequencies on a spectrogram, each on a ground of its own so that it can be read on any colour: at the right, as anchors and
 * attacks are mostly at the left.
 */
export function drawPitches(
  paper: CanvasRenderingContext2D,
  box: { top: number; high: number; wide: number },
  rate: number,
  palette: Palette,
): void {
  paper.font = LETTERS;
  for (const hz of PITCHES.filter((f) => f < rate / 2)) {
    const y = box.high - frequencyRow(hz, 1, rate) * (box.high - box.top);
    const text = hz < 1000 ? `${hz} Hz` : `${hz / 1000} kHz`;
    const from = box.wide - paper.measureText(text).width - 8;
    paper.fillStyle = palette.deep;
    paper.fillRect(from, y - 8, box.wide - from, 16);
    paper.fillStyle = palette.text;
    paper.fillText(text, from + 4, y + 4);
  }
}

/** Draws where events begin, the loop that the file tells of, and the regions that are kept. */
export function drawMarks(
  paper: CanvasRenderingContext2D,
  marks: Pick<Marks, 'loop' | 'regions'> & {
    high: number;
    xOf: (frame: number) => number;
    onsets: ArrayLike<number>;
  },
  palette: Palette,
): void {
  const { high, xOf, onsets, loop, regions = [] } = marks;
  paper.fillStyle = palette.mute;
  for (let i = 0; i < onsets.length; i++) paper.fillRect(Math.round(xOf(onsets[i])), high - 5, 1, 5);
  paper.fillStyle = palette.amber;
  for (const { start, end } of regions) paper.fillRect(xOf(start), high - 1, Math.max(2, xOf(end) - xOf(start)), 2);
  if (!loop) return;
  paper.strokeStyle = palette.sky;
  paper.lineWidth = 1.5;
  for (const [frame, inward] of [
    [loop.start, 5],
    [loop.end, -5],
  ]) {
    const x = xOf(frame);
    paper.beginPath();
    paper.moveTo(x + inward, 10);
    paper.lineTo(x, 10);
    paper.lineTo(x, high - 8);
    paper.lineTo(x + inward, high - 8);
    paper.stroke();
  }
}
