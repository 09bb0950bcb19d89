import { FRAME_RATE } from '@core/audio';

/** Levels of bands in one frame of a reel, hundredths of a decibel; see `SpectralCollector.levelsAt`. */
export type BandsAt = (frame: number) => Int16Array;

/** Bands below count as voiced, and from here on as hiss: about 1 and 3.5 kHz. */
const [VOICED, HISS] = [12, 17];
/** What is quieter than the loudest frame by so much tells nothing, dB. */
const DEEP = 35;
/** Shortest and longest announcement, seconds. */
const [SHORTEST, LONGEST] = [0.35, 12];

const mean = (values: readonly number[]) => values.reduce((sum, x) => sum + x, 0) / Math.max(1, values.length);

/** Means over a moving window that is centred. @param half of its width */
function smoothed(values: readonly number[], half: number): number[] {
  return values.map((_, i) => mean(values.slice(Math.max(0, i - half), i + half + 1)));
}

/**
 * Whether somebody speaks in a stretch of a reel: levels rise and fall by syllable (Houtgast and Steeneken, 1985: four a second),
 * voice below 1 kHz takes turns with hiss above 3.5 kHz (after Saunders, ICASSP 1996), and the balance swings to and fro.
 * @param from frame of `FRAME_RATE`; @param to not part of it any more
 */
export function isSpoken(bandsAt: BandsAt, from: number, to: number): boolean {
  const seconds = (to - from) / FRAME_RATE;
  if (seconds < SHORTEST || seconds > LONGEST) return false;
  const powers: number[] = [];
  const middles: number[] = [];
  for (let frame = from; frame < to; frame++) {
    let [power, moment] = [1e-13, 0];
    bandsAt(frame).forEach((level, band) => {
      const p = 10 ** (level / 1000);
      power += p;
      moment += band * p;
    });
    powers.push(power);
    middles.push(moment / power);
  }
  const top = Math.max(...powers);
  const levels = powers.map((p) => Math.max(-DEEP, 10 * Math.log10(p / top)));
  const heard = middles.filter((_, i) => levels[i] > 5 - DEEP);
  const share = (is: (middle: number) => boolean) => heard.filter(is).length / heard.length;
  const middle = [...heard].sort((a, b) => a - b)[heard.length >> 1];
  if (middle < 6.5 || middle > 12.6 || share((m) => m < VOICED) < 0.5 || share((m) => m >= HISS) < 0.04) return false;
  const [fine, coarse] = [smoothed(levels, 3), smoothed(levels, 20)];
  const syllables = Math.sqrt(mean(fine.map((x, i) => (x - coarse[i]) ** 2)));
  return syllables >= 5.5 && swings(smoothed(heard, 2)) / seconds >= 2.5;
}

/** How often a course turns round by three bands or more. */
function swings(course: readonly number[]): number {
  let count = 0;
  let [low, high, rising] = [course[0], course[0], true];
  for (const x of course) {
    high = Math.max(high, x);
    low = Math.min(low, x);
    if (rising ? x < high - 3 : x > low + 3) {
      count++;
      rising = !rising;
      low = high = x;
    }
  }
  return count;
}
