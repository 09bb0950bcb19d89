import { compareDelivery, isDue, manifestOf, type DeliveryFile } from '@core/scene';
import { validators, type DeliveredFile, type DeliveryManifest } from '@core/schemas';
import fc from 'fast-check';

const about = { scene: 'Pier', fps: '24', start: '01:00:00:00', end: '01:00:40:00', made: '2026-11-29T10:00:00.000Z' };
const paths = ['mix.wav', 'Stems/Deck.wav', 'Stems/Air.wav', 'list.otio'];
const planned = fc.uniqueArray(
  fc.record({ path: fc.constantFrom(...paths), of: fc.constantFrom('a', 'b'), what: fc.constantFrom('Mix', 'List') }),
  { selector: (f) => f.path },
);
/** A delivery as it goes: files that somebody changes, removes or puts there between two of them; some that cannot be made. */
const step = fc.record({
  planned,
  harm: fc.array(
    fc.record({ path: fc.constantFrom(...paths), now: fc.option(fc.constantFrom('x', 'yy'), { nil: undefined }) }),
    {
      maxLength: 3,
    },
  ),
  fails: fc.subarray(paths),
});
/** What a file is made to be: its content tells what it was made from. */
const contentOf = ({ path, of }: DeliveryFile) => `${path} made from ${of}`;

test('over any course of deliveries nothing that is not ours is replaced, what is ours is up to date, and manifests are true', () => {
  fc.assert(
    fc.property(fc.array(step, { minLength: 1, maxLength: 6 }), (steps) => {
      const disk = new Map<string, string>();
      let manifest: DeliveryManifest | undefined;
      for (const { planned: wanted, harm, fails } of steps) {
        for (const { path, now } of harm)
          if (now === undefined) disk.delete(path);
          else disk.set(path, now);
        const earlier = new Map(disk);
        const known = new Map<string, DeliveredFile>(manifest?.files.map((f) => [f.path, f]));
        const sizes = new Map([...disk].map(([path, text]) => [path, text.length]));
        const rows = compareDelivery(wanted, manifest, sizes);
        // Each planned file stands in it once, and nothing beside it but what stays of earlier ones.
        const former = rows.filter((r) => r.state === 'former');
        expect(rows.filter((r) => r.state !== 'former').map((r) => r.path)).toEqual(wanted.map((f) => f.path));
        for (const { path } of former)
          expect([known.has(path), wanted.some((f) => f.path === path)]).toEqual([true, false]);
        const delivered = new Map<string, DeliveredFile>();
        for (const row of rows.filter((r) => isDue(r) && !fails.includes(r.path))) {
          const text = contentOf(row);
          disk.set(row.path, text);
          delivered.set(row.path, {
            path: row.path,
            what: row.what,
            of: row.of,
            bytes: text.length,
            sha256: '0'.repeat(64),
          });
        }
        manifest = manifestOf(about, rows, delivered);
        expect(validators.delivery(JSON.parse(JSON.stringify(manifest)))).toBe(true);
        for (const [path, text] of earlier) {
          const ours = known.get(path)?.bytes === text.length;
          if (!ours) expect(disk.get(path)).toBe(text);
        }
        for (const row of rows) {
          const there = disk.get(row.path);
          if (isDue(row) && !fails.includes(row.path)) expect(there).toBe(contentOf(row));
          if (row.state === 'foreign') expect(there).toBe(earlier.get(row.path));
        }
        // It names each file once, and none that is not there.
        const named = manifest.files.map((f) => f.path);
        expect(new Set(named).size).toBe(named.length);
        for (const { path, bytes } of manifest.files) expect([path, disk.get(path)?.length]).toEqual([path, bytes]);
        // At once after it, what went well is not written again.
        const again = compareDelivery(wanted, manifest, new Map([...disk].map(([path, text]) => [path, text.length])));
        for (const { path, state } of again.filter((r) => delivered.has(r.path)))
          expect([path, state]).toEqual([path, 'same']);
      }
    }),
    { numRuns: 500 },
  );
});

test.each([
  ['mix.wav', true],
  ['Stems/Żuraw ... 1.wav', true],
  ['..hidden/x', true],
  ['../mix.wav', false],
  ['Stems/../../x', false],
  ['Stems/..', false],
  ['./x', false],
  ['/etc/passwd', false],
  ['a//b', false],
  ['a\\..\\b', false],
  ['a\nb', false],
  ['', false],
])('a manifest that names “%s”', (path, good) => {
  const file = { path, what: 'Mix', of: 'a', bytes: 1, sha256: '0'.repeat(64) };
  expect(validators.delivery({ format: 'cormorant-delivery', version: 1, ...about, files: [file] })).toBe(good);
});
