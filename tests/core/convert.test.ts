import { Material, RateConverter } from '@core/engine';
import { aroundSamples, memorySource, readAudioFile, readFrames, type ByteSource } from '@core/files';
import {
  layouts,
  Mixdown,
  mixDepths,
  mixRates,
  planOf,
  timeReference,
  type MixForm,
  type Scene,
  type Track,
} from '@core/scene';
import fc from 'fast-check';
import { cueOf } from '../helpers/cues';
import { apart, joined, rms, sine } from '../helpers/signals';

const RATE = 48_000;

describe('conversion of rates', () => {
  const converted = (input: Float32Array, to: number, cuts: number[], first = 0) => {
    const converter = new RateConverter(1, RATE, to, first);
    const bounds = [0, ...cuts.map((c) => c % (input.length + 1)).sort((a, b) => a - b), input.length];
    const parts = bounds.slice(1).map((end, i) => converter.push([input.subarray(bounds[i], end)])[0]);
    return joined(...parts, ...converter.finish());
  };

  test('a tone stays what it is, at its own instants, down to -90 dB', () => {
    for (const to of mixRates) {
      for (const first of [0, 0.37]) {
        const frames = 24_000;
        const out = converted(sine(1000, RATE, frames, 0.5), to, [], first);
        expect(out).toHaveLength(RateConverter.count(frames, RATE, to, first));
        // The ends are where the tone begins and ends at once.
        const inner = out.subarray(2000, -2000);
        const wanted = inner.map((_, i) => 0.5 * Math.sin(2 * Math.PI * 1000 * (first / RATE + (i + 2000) / to)));
        expect(20 * Math.log10(apart(inner, wanted) / 0.5)).toBeLessThan(-90);
      }
    }
  });

  test('what a lower rate cannot hold is taken out', () => {
    const out = converted(sine(23_000, RATE, 24_000, 0.5), 44_100, []);
    expect(20 * Math.log10(rms(out.subarray(2000, -2000)) / 0.5)).toBeLessThan(-80);
  });

  test('however samples come, the same are made of them', () => {
    const input = sine(440, RATE, 3000, 0.7);
    fc.assert(
      fc.property(fc.constantFrom(...mixRates), fc.array(fc.nat(), { maxLength: 12 }), (to, cuts) => {
        expect(apart(converted(input, to, cuts), converted(input, to, []))).toBeLessThan(1e-6);
      }),
      { numRuns: 200 },
    );
  });
});

describe('a mix at another rate', () => {
  const scene: Scene = {
    id: 1,
    name: 'Pier',
    fps: '29.97 drop',
    startFrame: 107_892,
    sampleRate: RATE,
    length: 96_000,
  };
  const tracks: Track[] = [{ id: 1, sceneId: 1, name: 'Deck', order: 0, gain: 0, mute: false, solo: false }];
  // A click so soft at its edges that any rate holds it: its middle is its instant.
  const bump = Float32Array.from({ length: 4801 }, (_, i) => 0.5 * Math.exp(-(((i - 2400) / 40) ** 2)));
  const AT = 31_111;
  const materials = new Map([[9, Material.of([bump, bump.map((x) => x / 2)], RATE)]]);
  const cue = cueOf({ trackId: 1, at: AT, anchor: 2400, start: 0, end: 4801, fadeIn: 0, fadeOut: 0 });
  const made = async (form: MixForm, from = 0) => {
    const mixdown = new Mixdown(scene, planOf(tracks, [cue]), scene.length, materials, form, from);
    const parts: Uint8Array[] = [];
    for (let part = mixdown.next(); part; part = mixdown.next()) parts.push(part);
    const { head, tail } = mixdown.around(new Date(0));
    const source = memorySource(new Uint8Array(Buffer.concat([head, ...parts, tail])));
    const file = await readAudioFile(source);
    return { file, planes: await readFrames(source, file.format, 0, file.format.frames), mixdown };
  };
  /** Where the middle of the click stands, in samples since midnight. */
  const middle = (plane: Float32Array, since: string | undefined) => {
    const sum = plane.reduce((s, x) => s + x, 0);
    return Number(since) + plane.reduce((s, x, i) => s + x * i, 0) / sum;
  };

  test('stands at the same instant, is as long and as loud, of one channel to six, from any sample on', async () => {
    const instant = Number(timeReference(scene) + BigInt(AT)) / RATE;
    for (const rate of mixRates) {
      for (const [layout, from] of [
        ['stereo', 0],
        ['mono', 0],
        ['stereo', 28_001],
        ['LCR', 0],
        ['5.1', 0],
      ] as const) {
        const { file, planes, mixdown } = await made({ ...mixDepths[2], rate, layout }, from);
        expect(file.format).toMatchObject({ rate, channels: layouts[layout].channels });
        expect(Math.abs(file.format.frames / rate - (scene.length - from) / RATE)).toBeLessThan(1.01 / RATE);
        const at = middle(planes[0], file.labels.get('bext.TimeReference')) / rate;
        // A hundredth of a sample.
        expect(Math.abs(at - instant)).toBeLessThan(0.01 / RATE);
        expect(mixdown.peak).toBeCloseTo(layout === 'mono' ? 0.375 : 0.5, 3);
        expect(mixdown.comments(new Date(0)).TIME_REFERENCE).toBe(file.labels.get('bext.TimeReference'));
      }
    }
  });

  test('at the rate of the scene it is what was rendered, to the bit', async () => {
    const [plain, same] = [await made({ ...mixDepths[2] }), await made({ ...mixDepths[2], rate: RATE })];
    expect(apart(plain.planes[0], same.planes[0])).toBe(0);
    expect(plain.planes[0][AT]).toBeCloseTo(0.5, 6);
  });
});

test('a file past 4 GiB is RF64, and its audio and its labels are found', async () => {
  for (const bytes of [6 * 715_000_000, 6 * 716_000_000, 6 * 1_500_000_000]) {
    const { head, tail } = aroundSamples(2, { rate: 192_000, bits: 24 }, bytes, {
      bext: { Description: 'Long' },
      ixml: { PROJECT: 'Pier' },
    });
    const size = head.length + bytes + tail.length;
    const source: ByteSource = {
      name: 'long.wav',
      size,
      read: (offset, length) => {
        const out = new Uint8Array(Math.max(0, Math.min(length, size - offset)));
        out.set(head.subarray(Math.min(offset, head.length), offset + length));
        const from = head.length + bytes - offset;
        if (from < out.length) out.set(tail.subarray(Math.max(0, -from), out.length - from), Math.max(0, from));
        return Promise.resolve(out);
      },
    };
    const file = await readAudioFile(source);
    expect(file.format).toMatchObject({
      container: bytes < 2 ** 32 ? 'WAV' : 'RF64',
      frames: bytes / 6,
      dataOffset: head.length,
    });
    expect(file.labels.get('bext.Description')).toBe('Long');
    expect([...file.labels.values()]).toContain('Pier');
    expect(file.warnings).toEqual([]);
  }
});
