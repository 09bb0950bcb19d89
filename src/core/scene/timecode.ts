/** A frame rate as an exact fraction of a second, and how its timecode counts. */
export interface FrameRate {
  name: string;
  /** Frames in `den` seconds. */
  num: number;
  den: number;
  /** Frames that a second of timecode counts. */
  nominal: number;
  /** Whether frame numbers are dropped to keep up with the clock (SMPTE ST 12-1). */
  drop: boolean;
}

const rate = (name: string, num: number, den: number, nominal: number, drop = false): FrameRate => ({
  name,
  num,
  den,
  nominal,
  drop,
});

/** The rates of picture that scenes can have. */
export const frameRates: readonly FrameRate[] = [
  rate('23.976', 24000, 1001, 24),
  rate('24', 24, 1, 24),
  rate('25', 25, 1, 25),
  rate('29.97', 30000, 1001, 30),
  rate('29.97 drop', 30000, 1001, 30, true),
  rate('30', 30, 1, 30),
  rate('47.952', 48000, 1001, 48),
  rate('48', 48, 1, 48),
  rate('50', 50, 1, 50),
  rate('59.94', 60000, 1001, 60),
  rate('59.94 drop', 60000, 1001, 60, true),
  rate('60', 60, 1, 60),
];

/** The rate of this name. @throws Error for an unknown one */
export function frameRate(name: string): FrameRate {
  const found = frameRates.find((r) => r.name === name);
  if (!found) throw new Error(`no frame rate is called “${name}”`);
  return found;
}

/** The known non-drop rate nearest to a measured one, in frames a second. */
export function nearestRate(fps: number): FrameRate {
  const distance = (r: FrameRate) => Math.abs(r.num / r.den - fps) + (r.drop ? 1 : 0);
  return frameRates.reduce((best, r) => (distance(r) < distance(best) ? r : best));
}

const pad = (n: number) => String(n).padStart(2, '0');

/** The sample (rounded) at which a frame begins, both counted from the same zero. */
export function frameToSample(frame: number, r: FrameRate, sampleRate: number): number {
  return Math.round((frame * r.den * sampleRate) / r.num);
}

/** The frame that is on screen at a sample. */
export function sampleToFrame(sample: number, r: FrameRate, sampleRate: number): number {
  // Frames begin on rounded samples: an estimate may be off by one, and is put right by asking where frames begin.
  let frame = Math.floor((sample * r.num) / (r.den * sampleRate));
  while (frameToSample(frame + 1, r, sampleRate) <= sample) frame++;
  while (frameToSample(frame, r, sampleRate) > sample) frame--;
  return frame;
}

/** The timecode of a frame counted from midnight: `hh:mm:ss:ff`, with `;` before the frames of drop-frame rates. */
export function toTimecode(frame: number, r: FrameRate): string {
  let f = frame;
  if (r.drop) {
    const dropped = r.nominal / 15;
    const perMinute = r.nominal * 60 - dropped;
    const perTen = perMinute * 10 + dropped;
    const tens = Math.floor(f / perTen);
    const rest = f % perTen;
    f += dropped * (9 * tens + Math.max(0, Math.floor((rest - dropped) / perMinute)));
  }
  const seconds = Math.floor(f / r.nominal);
  const day = [Math.floor(seconds / 3600) % 24, Math.floor(seconds / 60) % 60, seconds % 60].map(pad).join(':');
  return `${day}${r.drop ? ';' : ':'}${pad(f % r.nominal)}`;
}

/**
 * The frame, counted from midnight, of a timecode `hh:mm:ss:ff`; `;` and `.` also separate.
 * @throws Error for text that is no timecode of this rate, dropped numbers included
 */
export function fromTimecode(text: string, r: FrameRate): number {
  const parts = /^(\d{1,2})[:;.](\d{2})[:;.](\d{2})[:;.](\d{2})$/.exec(text.trim());
  const [h, m, s, f] = parts ? parts.slice(1).map(Number) : [NaN, NaN, NaN, NaN];
  if (!parts || h > 23 || m > 59 || s > 59 || f >= r.nominal) {
    throw new Error(`“${text}” is no timecode at ${r.name} frames a second; it reads like 01:00:13:00`);
  }
  const dropped = r.drop ? r.nominal / 15 : 0;
  if (dropped && s === 0 && f < dropped && m % 10 !== 0) throw new Error(`${text} is dropped in drop-frame timecode`);
  const minutes = h * 60 + m;
  return (minutes * 60 + s) * r.nominal + f - dropped * (minutes - Math.floor(minutes / 10));
}

/** The frame that carries the timecode of another rate's frame; the frames within the second stay as far as the rate has as many. */
export function sameTimecode(frame: number, from: FrameRate, to: FrameRate): number {
  const [hours, minutes, seconds, frames] = toTimecode(frame, from).split(/[:;]/).map(Number);
  // Where frame numbers are dropped, the first two of a minute may not be there.
  const dropped = to.drop && seconds === 0 && minutes % 10 !== 0 ? to.nominal / 15 : 0;
  const text = [hours, minutes, seconds].map(pad).join(':');
  const held = Math.max(dropped, Math.min(to.nominal - 1, frames));
  return fromTimecode(`${text}${to.drop ? ';' : ':'}${pad(held)}`, to);
}
