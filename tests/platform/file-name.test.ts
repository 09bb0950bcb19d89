import fc from 'fast-check';
import { fileNameOf } from '@platform/files/file-name';

test.each([
  ['Door slam_Oak.wav', 'Door slam_Oak.wav'],
  ['扉 – Überraschung.wav', '扉 – Überraschung.wav'],
  ['../../etc/passwd', /^[^/\\]+$/],
  ['a/b\\c:d*e?.csv', /^a[^/\\:*?]*\.csv$/],
  ['CON.txt', /^(?!con\.)/i],
  ['ends in dots...', 'ends in dots'],
  ['', 'Untitled'],
  ['\t ', 'Untitled'],
  [`a.${'b'.repeat(400)}`, 'Untitled'],
  ['\u202egnp.wav', 'gnp.wav'],
  [`${'長'.repeat(400)}.wav`, /^長{80,}\.wav$/],
])('%p is kept under a name that file systems take', (name, kept) => {
  if (typeof kept === 'string') expect(fileNameOf(name)).toBe(kept);
  else expect(fileNameOf(name)).toMatch(kept);
});

test('any text becomes a name of at most 255 bytes', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'binary', maxLength: 400 }), (text) => {
      const name = fileNameOf(text);
      expect(name).not.toMatch(/[<>:"/\\|?*\p{Cc}]|^\.+$|[. ]$/u);
      expect(name.length).toBeGreaterThan(0);
      expect(new TextEncoder().encode(name).length).toBeLessThanOrEqual(255);
    }),
  );
});
