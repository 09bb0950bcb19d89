import { CUT_SIZE, CutFinder, type PictureCut } from '@core/scene';
import { Random } from '@core/synth';
import fc from 'fast-check';

// Cuts and dissolves of films that are drawn here, frame by frame, so that every one of them is known.

const { width, height } = CUT_SIZE;

/** A shot: a place of walls and lights in grey that drifts by, with a bright body that crosses it and some grain. */
function shot(seed: number, { drift = 0.3, light = 1 } = {}): (frame: number, grain: Random) => Float32Array {
  const chance = new Random(seed);
  const wide = 4 * width;
  const place = new Float32Array(wide * height).fill(30 + chance.next() * 90);
  for (let n = 0; n < 70; n++) {
    const [left, top] = [Math.floor(chance.next() * wide), Math.floor(chance.next() * height)];
    const [w, h] = [3 + Math.floor(chance.next() * 16), 2 + Math.floor(chance.next() * 14)];
    const level = 20 + chance.next() * 215;
    for (let y = top; y < Math.min(height, top + h); y++)
      for (let x = left; x < left + w; x++) place[y * wide + (x % wide)] = level;
  }
  return (frame, grain) => {
    const out = new Float32Array(width * height);
    const body = { x: (frame * 0.7 + seed * 13) % width, y: height / 2 };
    const from = (((frame * drift) % wide) + wide) % wide;
    const [whole, part] = [Math.floor(from), from % 1];
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const [one, two] = [(x + whole) % wide, (x + whole + 1) % wide];
        let level = place[y * wide + one] * (1 - part) + place[y * wide + two] * part;
        if (Math.hypot(x - body.x, y - body.y) < 4) level = 240;
        out[y * width + x] = level * light + (grain.next() - 0.5) * 4;
      }
    return out;
  };
}
type Shot = ReturnType<typeof shot>;
const flash: Shot = (_, grain) => new Float32Array(width * height).fill(235 + grain.next());

interface Piece {
  of: Shot;
  frames: number;
  /** Frames over which it grows out of the one before; 0 for a cut. */
  over: number;
}
/** The frames of a film, and what there is to be found. */
function film(pieces: readonly Piece[]): { frames: Uint8Array[]; truth: Pick<PictureCut, 'frame' | 'kind'>[] } {
  const grain = new Random(5);
  const frames: Uint8Array[] = [];
  const truth: Pick<PictureCut, 'frame' | 'kind'>[] = [];
  pieces.forEach(({ of, frames: count, over }, p) => {
    const before = pieces[p - 1]?.of;
    if (p > 0) truth.push({ frame: frames.length + (over >> 1), kind: over > 0 ? 'dissolve' : 'cut' });
    for (let i = 0; i < count; i++) {
      const now = of(frames.length, grain);
      const old = i < over && before?.(frames.length, grain);
      const share = (i + 1) / (over + 1);
      frames.push(
        Uint8Array.from(now, (v, k) => Math.max(0, Math.min(255, old ? old[k] * (1 - share) + v * share : v))),
      );
    }
  });
  return { frames, truth };
}
function found(frames: readonly Uint8Array[]): PictureCut[] {
  const finder = new CutFinder();
  frames.forEach((f, i) => finder.push(i, f));
  return finder.finish();
}

test('every cut is found on its frame and every dissolve within some, whatever the shots are, and nothing else', () => {
  const piece = fc.record({
    seed: fc.integer({ min: 1, max: 400 }),
    frames: fc.integer({ min: 40, max: 70 }),
    over: fc.constantFrom(0, 0, 12, 18, 24),
    drift: fc.constantFrom(0, 0.04, -0.08),
  });
  let [all, missed, wrong] = [0, 0, 0];
  fc.assert(
    fc.property(fc.uniqueArray(piece, { minLength: 1, maxLength: 5, selector: (p) => p.seed }), (list) => {
      const { frames, truth } = film(list.map(({ seed, drift, ...more }) => ({ of: shot(seed, { drift }), ...more })));
      const got = found(frames);
      const near = (a: { frame: number; kind: string }, b: { frame: number; kind: string }) =>
        a.kind === b.kind && Math.abs(a.frame - b.frame) <= (a.kind === 'cut' ? 0 : 6);
      all += truth.length;
      missed += truth.filter((t) => !got.some((g) => near(t, g))).length;
      wrong += got.filter((g) => !truth.some((t) => near(t, g))).length;
      for (const { strength } of got) expect(strength > 0 && strength <= 1).toBe(true);
    }),
    { numRuns: 30 },
  );
  expect(all).toBeGreaterThan(25);
  // Two shots may be too much alike to be told apart.
  expect([missed / all < 0.05, wrong / all < 0.03]).toEqual([true, true]);
});

test('flashes, pans, changing light and stillness are no cuts; two cuts a quarter of a second apart are two', () => {
  const [a, b, c] = [shot(1), shot(2), shot(3)];
  const still = shot(4, { drift: 0 });
  const none = (pieces: Piece[]) => expect(found(film(pieces).frames)).toEqual([]);
  none([
    { of: a, frames: 40, over: 0 },
    { of: flash, frames: 2, over: 0 },
    { of: a, frames: 40, over: 0 },
  ]);
  none([{ of: shot(1, { drift: 3 }), frames: 90, over: 0 }]);
  none([{ of: still, frames: 90, over: 0 }]);
  none([{ of: (f, g) => shot(6, { light: 1 + 0.04 * Math.sin(f * 0.9) })(f, g), frames: 60, over: 0 }]);
  none([]);
  none([{ of: a, frames: 1, over: 0 }]);
  const quick = film([
    { of: a, frames: 40, over: 0 },
    { of: b, frames: 6, over: 0 },
    { of: c, frames: 40, over: 0 },
  ]);
  expect(found(quick.frames).map(({ frame, kind }) => ({ frame, kind }))).toEqual(quick.truth);
});
