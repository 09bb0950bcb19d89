import { peakBetween, type Peaks } from '@core/audio';

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
