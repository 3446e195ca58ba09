import fc from 'fast-check';
import { blobSource } from './source';

const SIZE = (1 << 20) * 19 + 777;
const bytes = Uint8Array.from({ length: SIZE }, (_, i) => (i * 2654435761) >>> 24);

/** A blob that counts how often it is asked for bytes. */
function counted(): { blob: Blob; reads: () => number } {
  let reads = 0;
  const blob = new Blob([bytes]);
  const slice = blob.slice.bind(blob);
  blob.slice = (...range) => {
    reads++;
    return slice(...range);
  };
  return { blob, reads: () => reads };
}

test('any reads, in any order and at once, give the bytes that are there', async () => {
  const source = blobSource(new Blob([bytes]), 'a.raw');
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.tuple(fc.integer({ min: 0, max: SIZE + 9 }), fc.integer({ min: 0, max: 1 << 24 })), {
        minLength: 1,
        maxLength: 5,
      }),
      async (ranges) => {
        const found = await Promise.all(ranges.map(([at, n]) => source.read(at, n)));
        found.forEach((part, i) => {
          const [at, n] = ranges[i]!;
          expect(Buffer.compare(part, bytes.subarray(at, at + n))).toBe(0);
        });
      },
    ),
    { numRuns: 25 },
  );
});

test('small reads from front to back cost few ways to the disk, and what is read may be changed', async () => {
  const { blob, reads } = counted();
  const source = blobSource(blob, 'a.raw');
  for (let pass = 0; pass < 2; pass++) {
    for (let at = 0; at < SIZE; at += 100_000) {
      const part = await source.read(at, 100_000);
      expect(part[0]).toBe(bytes[at]);
      part.fill(0);
    }
  }
  // two passes over 20 MB
  expect(reads()).toBeLessThan(16);
});

test('a file that can no longer be read is told as such, and read again when it can', async () => {
  const blob = new Blob([bytes]);
  const slice = blob.slice.bind(blob);
  let gone = true;
  blob.slice = (...range) => {
    if (!gone) return slice(...range);
    return { arrayBuffer: () => Promise.reject(new DOMException('gone', 'NotReadableError')) } as unknown as Blob;
  };
  const source = blobSource(blob, 'a.raw');
  await expect(source.read(0, 10)).rejects.toMatchObject({ code: 'unreadable', file: 'a.raw' });
  gone = false;
  expect(await source.read(0, 10)).toEqual(bytes.subarray(0, 10));
});
