import fc from 'fast-check';
import { memorySource, type ByteSource } from '../base';
import { SequentialReader, swapBytes } from './bytes';

const pattern = (length: number): Uint8Array => Uint8Array.from({ length }, (_, i) => (i * 2654435761) >>> 24);

/** A source whose stream comes in pieces of these sizes, by turns, in one buffer that is used again. */
function pieced(bytes: Uint8Array, sizes: readonly number[]): ByteSource & { returned: number } {
  const source = {
    ...memorySource('a.raw', bytes),
    returned: 0,
    async *stream(offset: number) {
      const buffer = new Uint8Array(64);
      try {
        for (let at = offset, turn = 0; at < bytes.length; turn++) {
          const piece = bytes.subarray(at, at + sizes[turn % sizes.length]!);
          buffer.fill(0xee);
          buffer.set(piece);
          at += piece.length;
          yield buffer.subarray(0, piece.length);
        }
      } finally {
        source.returned++;
      }
    },
  };
  return source;
}

test('steps of any kind give the bytes in order, wherever the pieces end', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 0, max: 400 }),
      fc.nat(50),
      fc.array(fc.integer({ min: 1, max: 64 }), { minLength: 1, maxLength: 5 }),
      fc.array(fc.tuple(fc.constantFrom('take', 'some', 'fill', 'now'), fc.integer({ min: 1, max: 90 })), {
        minLength: 1,
        maxLength: 30,
      }),
      async (length, start, sizes, steps) => {
        const bytes = pattern(length);
        const reader = new SequentialReader(pieced(bytes, sizes), start);
        let at = start;
        for (const [kind, n] of steps) {
          expect(reader.position).toBe(at);
          expect(reader.remaining).toBe(length - at);
          let got: Uint8Array;
          if (kind === 'take') got = await reader.take(n);
          else if (kind === 'some') got = await reader.some(n);
          else if (kind === 'now') {
            const there = reader.now(n);
            if (!there) continue;
            got = there;
          } else {
            const into = new Uint8Array(n);
            got = into.subarray(0, await reader.fill(into));
          }
          const left = Math.max(0, length - at);
          if (kind === 'some') expect(got.length).toBeGreaterThanOrEqual(Math.min(1, left));
          else expect(got).toHaveLength(Math.min(n, left));
          expect(got.length).toBeLessThanOrEqual(n);
          expect([...got]).toEqual([...bytes.subarray(at, at + got.length)]);
          at += got.length;
        }
      },
    ),
    { numRuns: 200 },
  );
});

test('who has read enough lets go of the source', async () => {
  const source = pieced(pattern(300), [64]);
  const reader = new SequentialReader(source);
  await reader.take(10);
  await reader.end();
  expect(source.returned).toBe(1);
  // one that never began costs nothing
  await new SequentialReader(source).end();
  expect(source.returned).toBe(1);
});

test('a source without a stream is read in pieces', async () => {
  const reads: number[] = [];
  const bytes = pattern((1 << 20) + 5);
  const plain = memorySource('a.raw', bytes);
  const source: ByteSource = { ...plain, read: (at, n) => (reads.push(n), plain.read(at, n)) };
  const reader = new SequentialReader(source);
  const all = await reader.take(bytes.length + 9);
  expect(Buffer.compare(all, bytes)).toBe(0);
  expect(reads).toEqual([1 << 20, 5]);
  expect(await reader.some(1)).toHaveLength(0);
});

test.each([
  [1, [1, 2, 3, 4, 5, 6, 7, 8, 9]],
  [2, [2, 1, 4, 3, 6, 5, 8, 7, 9]],
  [4, [4, 3, 2, 1, 8, 7, 6, 5, 9]],
  [8, [8, 7, 6, 5, 4, 3, 2, 1, 9]],
] as const)('samples of %i bytes are turned round, a rest stays', (size, expected) => {
  const bytes = Uint8Array.from({ length: 9 }, (_, i) => i + 1);
  swapBytes(bytes, size);
  expect([...bytes]).toEqual(expected);
});
