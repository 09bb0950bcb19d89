import { findCopies, type Printed } from '@core/audio';
import { join } from 'node:path';
import { demoPath, demoTruth } from '../helpers/demo';
import { measureFile } from '../helpers/measure';
import { run, scratch, testWith } from '../helpers/programs';

jest.setTimeout(300_000);

testWith('ffmpeg')(
  'the demo coded, resampled, quieter and trimmed: all exact copies, 95 % of near ones, no false pair',
  async () => {
    const truth = demoTruth();
    const keys = Object.keys(truth).filter(
      (k) => /\.wav$/.test(k) && !k.startsWith('Own') && truth[k].events.length > 0,
    );
    const chosen = keys.filter((_, i) => i % 15 === 0);
    const folder = scratch();
    const ways: Record<string, (from: string, to: string) => void> = {
      mp3: (from, to) => (
        run('ffmpeg', '-y', '-i', from, '-map', '0:a', '-c:a', 'libmp3lame', '-b:a', '192k', `${to}.mp3`),
        run('ffmpeg', '-y', '-i', `${to}.mp3`, '-c:a', 'pcm_s24le', to)
      ),
      ogg: (from, to) => (
        run('ffmpeg', '-y', '-i', from, '-map', '0:a', '-c:a', 'libvorbis', '-q:a', '5', `${to}.ogg`),
        run('ffmpeg', '-y', '-i', `${to}.ogg`, '-c:a', 'pcm_s24le', to)
      ),
      flac: (from, to) => (
        run('ffmpeg', '-y', '-i', from, '-map', '0:a', `${to}.flac`),
        run('ffmpeg', '-y', '-i', `${to}.flac`, '-c:a', 'pcm_s24le', to)
      ),
      rate: (from, to) => run('ffmpeg', '-y', '-i', from, '-map', '0:a', '-ar', '44100', '-c:a', 'pcm_s24le', to),
      quiet: (from, to) =>
        run('ffmpeg', '-y', '-i', from, '-map', '0:a', '-af', 'volume=-6dB', '-c:a', 'pcm_s24le', to),
      trim: (from, to) => run('ffmpeg', '-y', '-ss', '0.3', '-i', from, '-map', '0:a', '-c:a', 'pcm_s24le', to),
    };
    const prints: (Printed & { key: string; way: string })[] = [];
    for (const [n, key] of chosen.entries()) {
      const from = demoPath(key);
      const add = async (way: string, path: string) => {
        const { hash, print } = await measureFile(path);
        prints.push({ id: prints.length, hash, print, key, way });
      };
      await add('plain', from);
      for (const [way, make] of Object.entries(ways)) {
        const path = join(folder, `${n}-${way}.wav`);
        make(from, path);
        await add(way, path);
      }
    }
    const groups = findCopies(prints);
    const groupOf = new Map(groups.flatMap((g) => g.ids.map((id) => [id, g] as const)));
    for (const g of groups) expect(new Set(g.ids.map((id) => prints[id].key)).size).toBe(1);
    const original = new Map(prints.filter((p) => p.way === 'plain').map((p) => [p.key, p]));
    const lost = prints.filter((p) => groupOf.get(p.id) !== groupOf.get(original.get(p.key)!.id) || !groupOf.has(p.id));
    const near = prints.filter((p) => !['plain', 'flac'].includes(p.way));
    expect(lost.filter((p) => p.way === 'flac' && p.hash === original.get(p.key)!.hash)).toEqual([]);
    expect(prints.filter((p) => p.way === 'flac').every((p) => p.hash === original.get(p.key)!.hash)).toBe(true);
    expect(1 - lost.filter((p) => near.includes(p)).length / near.length).toBeGreaterThanOrEqual(0.95);
  },
);
