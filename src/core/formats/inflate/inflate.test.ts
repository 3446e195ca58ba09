import fc from 'fast-check';
import zlib from 'node:zlib';
import { concatBytes, LevelGridError } from '../../base';
import { inflate, portable } from '.';

/** Bytes of many kinds: noise, runs, repeated phrases, skewed symbols, slopes as filtered ground holds them. */
const material = fc.oneof(
  fc.uint8Array({ maxLength: 4000 }),
  fc.array(fc.constantFrom(0, 0, 0, 0, 1, 255), { maxLength: 8000 }).map((a) => Uint8Array.from(a)),
  fc
    .tuple(fc.uint8Array({ minLength: 1, maxLength: 60 }), fc.integer({ min: 1, max: 900 }))
    .map(([phrase, n]) => Uint8Array.from({ length: phrase.length * n }, (_, i) => phrase[i % phrase.length]!)),
  fc.tuple(fc.integer({ min: 1, max: 12 }), fc.nat(1e6)).map(([skew, seed]) => steep(20000, skew, seed)),
);

/** Symbols of steeply falling frequency: codes of all lengths up to the longest. */
function steep(length: number, skew: number, seed: number): Uint8Array {
  let state = seed + 1;
  return Uint8Array.from({ length }, () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return Math.floor((state / 4294967296) ** skew * 256);
  });
}

const writer = fc.record({
  level: fc.integer({ min: 0, max: 9 }),
  memLevel: fc.integer({ min: 1, max: 9 }),
  windowBits: fc.integer({ min: 9, max: 15 }),
  strategy: fc.constantFrom(
    zlib.constants.Z_DEFAULT_STRATEGY,
    zlib.constants.Z_FILTERED,
    zlib.constants.Z_HUFFMAN_ONLY,
    zlib.constants.Z_RLE,
    zlib.constants.Z_FIXED,
  ),
});

async function* cut(bytes: Uint8Array, sizes: readonly number[]): AsyncGenerator<Uint8Array> {
  for (let at = 0, i = 0; at < bytes.length; i++) {
    const n = sizes[i % sizes.length]!;
    yield bytes.subarray(at, at + n);
    at += n;
  }
}

async function all(from: AsyncGenerator<Uint8Array, void>): Promise<Uint8Array> {
  const parts: Uint8Array[] = [];
  for await (const part of from) parts.push(part.slice());
  return concatBytes(parts);
}

const sizes = fc.array(fc.integer({ min: 1, max: 3000 }), { minLength: 1, maxLength: 5 });

const fault = (work: Promise<unknown>): Promise<LevelGridError | null> =>
  work.then(
    () => null,
    (reason: unknown) => {
      if (reason instanceof LevelGridError) return reason;
      throw reason;
    },
  );

test('whatever zlib writes is read back, however it is cut', async () => {
  await fc.assert(
    fc.asyncProperty(material, writer, sizes, async (bytes, options, pieces) => {
      const packed = zlib.deflateSync(bytes, options);
      expect(Buffer.compare(await all(inflate(cut(packed, pieces))), bytes)).toBe(0);
    }),
    { numRuns: 300 },
  );
});

test('more than the window and the room at once, in stored, fixed and own blocks', async () => {
  const bytes = concatBytes([steep(300000, 3, 5), new Uint8Array(2_000_000), steep(200000, 1, 9), steep(400000, 9, 2)]);
  for (const options of [{ level: 0 }, { level: 1 }, { level: 9 }, { strategy: zlib.constants.Z_FIXED }]) {
    const packed = zlib.deflateSync(bytes, options);
    for (const size of [1, 70000, 1 << 20].filter((n) => n > 1 || packed.length < 700000))
      expect(Buffer.compare(await all(inflate(cut(packed, [size]))), bytes)).toBe(0);
  }
});

test('an empty stream, empty pieces, bytes behind the stream', async () => {
  const none = zlib.deflateSync(new Uint8Array(0));
  expect((await all(inflate(cut(none, [1])))).length).toBe(0);
  const some = zlib.deflateSync(Uint8Array.of(7, 7, 7));
  const withRest = concatBytes([some, Uint8Array.of(1, 2, 3, 4, 5, 6, 7, 8, 9)]);
  expect([...(await all(inflate(cut(withRest, [4]))))]).toEqual([7, 7, 7]);
  const gaps = async function* () {
    yield new Uint8Array(0);
    yield* cut(some, [2]);
    yield new Uint8Array(0);
  };
  expect([...(await all(inflate(gaps())))]).toEqual([7, 7, 7]);
});

test('a stream that is cut anywhere is told as cut short', async () => {
  await fc.assert(
    fc.asyncProperty(
      material,
      writer,
      fc.double({ min: 0, max: 0.999999, noNaN: true }),
      sizes,
      async (b, o, part, s) => {
        const packed = zlib.deflateSync(b, o);
        const short = packed.subarray(0, Math.floor(packed.length * part));
        expect((await fault(all(inflate(cut(short, s)))))?.code).toBe('truncated');
      },
    ),
    { numRuns: 200 },
  );
});

test('damage never passes, never hangs and never is anything but a typed error', async () => {
  await fc.assert(
    fc.asyncProperty(
      material,
      writer,
      fc.nat(1e6),
      fc.integer({ min: 1, max: 255 }),
      sizes,
      async (b, o, at, flip, s) => {
        const packed = zlib.deflateSync(b, o);
        // without the window size in the header: a smaller window says nothing about the data
        const i = 1 + (at % (packed.length - 1));
        packed[i] = packed[i]! ^ flip;
        const got = await all(inflate(cut(packed, s))).catch((reason: unknown) => reason);
        if (got instanceof Uint8Array) expect(Buffer.compare(got, b)).toBe(0);
        else expect(['corrupt', 'truncated']).toContain((got as LevelGridError).code);
      },
    ),
    { numRuns: 400 },
  );
});

test('arbitrary bytes behind a good header end in a typed error or in a stream that zlib accepts too', async () => {
  await fc.assert(
    fc.asyncProperty(fc.uint8Array({ maxLength: 400 }), sizes, async (noise, s) => {
      const stream = concatBytes([Uint8Array.of(0x78, 0x01), noise]);
      const got = await all(inflate(cut(stream, s))).catch((reason: unknown) => reason);
      let theirs: Uint8Array | null = null;
      try {
        theirs = zlib.inflateSync(stream);
      } catch {
        // refused
      }
      if (got instanceof Uint8Array) expect(Buffer.compare(got, theirs ?? new Uint8Array(0))).toBe(0);
      else {
        expect(got).toBeInstanceOf(LevelGridError);
        expect(theirs).toBeNull();
      }
    }),
    { numRuns: 500 },
  );
});

test.each([
  ['another method', [0x77, 0x85]],
  ['a preset dictionary', [0x78, 0x20]],
  ['wrong check bits', [0x78, 0x02]],
])('a header with %s is refused', async (_, head) => {
  const rest = zlib.deflateSync(Uint8Array.of(1, 2, 3)).subarray(2);
  expect((await fault(all(inflate(cut(concatBytes([Uint8Array.from(head), rest]), [100])))))?.code).toBe('corrupt');
});

test('a wrong checksum of the whole is noticed', async () => {
  const packed = zlib.deflateSync(Uint8Array.of(1, 2, 3));
  packed[packed.length - 1]!++;
  expect((await fault(all(inflate(cut(packed, [100])))))?.code).toBe('corrupt');
});

test('what the source throws goes through', async () => {
  const broken = async function* (): AsyncGenerator<Uint8Array> {
    yield zlib.deflateSync(new Uint8Array(1000)).subarray(0, 5);
    throw new LevelGridError('checksum', { found: 'a', expected: 'b', remedy: 'c' });
  };
  expect((await fault(all(inflate(broken()))))?.code).toBe('checksum');
});

test('the fallback reads the same', async () => {
  const bytes = steep(100000, 4, 3);
  const packed = zlib.deflateSync(bytes);
  expect(Buffer.compare(await all(portable(cut(packed, [999]))), bytes)).toBe(0);
  const broken = async function* (): AsyncGenerator<Uint8Array> {
    yield packed.subarray(0, 5);
    throw new LevelGridError('checksum', { found: 'a', expected: 'b', remedy: 'c' });
  };
  expect((await fault(all(portable(broken()))))?.code).toBe('checksum');
  expect((await fault(all(portable(cut(packed.subarray(0, 500), [99])))))?.code).toBe('truncated');
});
