import fc from 'fast-check';
import { concatBytes, piecesOf, type ByteSource } from '@/core/base';
import { blobSource, streamedSource } from './source';

const BOTH = [
  ['in slices', blobSource],
  ['as a stream', streamedSource],
] as const;
const SIZE = (1 << 20) * 3 + 777;
const bytes = Uint8Array.from({ length: SIZE }, (_, i) => (i * 2654435761) >>> 24);

async function streamed(source: ByteSource, offset: number): Promise<Uint8Array> {
  const parts: Uint8Array[] = [];
  for await (const piece of piecesOf(source, offset)) parts.push(piece.slice());
  return concatBytes(parts);
}

test('any reads, in any order and at once, give the bytes that are there', async () => {
  const source = blobSource(new Blob([bytes]), 'a.raw');
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.tuple(fc.integer({ min: 0, max: SIZE + 9 }), fc.integer({ min: 0, max: 1 << 22 })), {
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

test.each(BOTH)('%s: every byte from where it begins, more than once, and several at a time', async (_, sourceOf) => {
  const source = sourceOf(new Blob([bytes]), 'a.raw');
  const offsets = [0, 1, 262_144, 1_000_003, SIZE - 1, SIZE];
  const found = await Promise.all([...offsets, ...offsets].map((offset) => streamed(source, offset)));
  found.forEach((part, i) => expect(Buffer.compare(part, bytes.subarray(offsets[i % offsets.length]))).toBe(0));
});

test.each(BOTH)('%s: a piece stays until the next is asked for, and may be written over', async (_, sourceOf) => {
  const source = sourceOf(new Blob([bytes]), 'a.raw');
  let at = 0;
  for await (const piece of piecesOf(source)) {
    // time for what is read ahead to come
    await new Promise((resolve) => setImmediate(resolve));
    expect(Buffer.compare(piece, bytes.subarray(at, at + piece.length))).toBe(0);
    at += piece.length;
    piece.fill(0);
  }
  expect(at).toBe(SIZE);
});

test('a stream that is left early lets go of the blob', async () => {
  let cancelled = 0;
  const blob = new Blob([bytes]);
  blob.slice = () => {
    const stream = new ReadableStream({
      type: 'bytes',
      pull: (c) => c.enqueue(new Uint8Array(1000)),
      cancel: () => void cancelled++,
    });
    return { stream: () => stream } as unknown as Blob;
  };
  for await (const piece of piecesOf(streamedSource(blob, 'a.raw'))) {
    expect(piece.length).toBeGreaterThan(0);
    break;
  }
  expect(cancelled).toBe(1);
});

test('blobs that can’t fill a given buffer are read all the same', async () => {
  const blob = new Blob([bytes]);
  const slice = blob.slice.bind(blob);
  blob.slice = (...range) => {
    const part = slice(...range);
    // an ordinary stream, not one of bytes
    part.stream = () =>
      new ReadableStream({
        start: (c) => {
          for (let at = range[0] ?? 0; at < SIZE; at += 100_000) c.enqueue(bytes.slice(at, at + 100_000));
          c.close();
        },
      });
    return part;
  };
  expect(Buffer.compare(await streamed(streamedSource(blob, 'a.raw'), 5), bytes.subarray(5))).toBe(0);
});

test.each(BOTH)(
  '%s: a file that can no longer be read is told as such, and read again when it can',
  async (_, sourceOf) => {
    const blob = new Blob([bytes]);
    const slice = blob.slice.bind(blob);
    let gone = true;
    const failed = (): DOMException => new DOMException('gone', 'NotReadableError');
    blob.slice = (...range) => {
      if (!gone) return slice(...range);
      return {
        arrayBuffer: () => Promise.reject(failed()),
        stream: () => new ReadableStream({ type: 'bytes', pull: (c) => c.error(failed()) }),
      } as unknown as Blob;
    };
    const source = sourceOf(blob, 'a.raw');
    await expect(source.read(0, 10)).rejects.toMatchObject({ code: 'unreadable', file: 'a.raw' });
    await expect(streamed(source, 0)).rejects.toMatchObject({ code: 'unreadable', file: 'a.raw' });
    gone = false;
    expect(await source.read(0, 10)).toEqual(bytes.subarray(0, 10));
  },
);
