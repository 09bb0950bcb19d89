import { FileError, memorySource, windowed, type ByteSource } from '@core/files';
import fc from 'fast-check';

/** A source over counting bytes that notes each read. */
function noted(size: number): { source: ByteSource; bytes: Uint8Array; reads: [number, number][] } {
  const bytes = Uint8Array.from({ length: size }, (_, i) => (i * 31 + (i >> 8)) & 255);
  const reads: [number, number][] = [];
  const plain = memorySource(bytes);
  return { source: { ...plain, read: (o, n) => (reads.push([o, n]), plain.read(o, n)) }, bytes, reads };
}
const asked = fc.array(fc.tuple(fc.nat(70_000), fc.nat(20_000)), { maxLength: 25 });
const edge = fc.nat(5000);

test('through windows comes what is there, whatever is asked in whatever order, with edges given ahead or not', async () => {
  await fc.assert(
    fc.asyncProperty(fc.nat(60_000), asked, edge, edge, async (size, reads, head, tail) => {
      const { source, bytes } = noted(size);
      const edges = { head: bytes.slice(0, Math.min(size, head)), tail: bytes.slice(Math.max(0, size - tail)) };
      for (const near of [windowed(source), windowed(source, edges)])
        for (const [offset, length] of reads)
          expect([...(await near.read(offset, length))]).toEqual([...bytes.subarray(offset, offset + length)]);
    }),
    { numRuns: 60 },
  );
});

test('walking through a head costs one read, coming back to it none, and edges given ahead none at all', async () => {
  const { source, bytes, reads } = noted(1_000_000);
  const near = windowed(source);
  for (let at = 0; at < 16_000; at += 20) await near.read(at, 20);
  expect(reads).toEqual([[0, 16384]]);
  await near.read(500_000, 8);
  await near.read(40, 8);
  expect(reads).toHaveLength(2);
  await near.read(20, 100_000);
  expect(reads[2]).toEqual([20, 100_000]);
  reads.length = 0;
  const given = windowed(source, { head: bytes.slice(0, 4096), tail: bytes.slice(-4096) });
  for (const at of [0, 4000, 999_000, 995_904]) await given.read(at, 96);
  expect(reads).toEqual([]);
  await given.read(5000, 8);
  expect(reads).toEqual([[5000, 16384]]);
});

test('a file error names its byte', () => {
  const error = new FileError('the file ends', 42);
  expect([error.name, error.message, error.offset]).toEqual(['FileError', 'the file ends (at byte 42)', 42]);
});
