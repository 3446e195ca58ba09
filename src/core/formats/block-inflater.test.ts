import fc from 'fast-check';
import zlib from 'node:zlib';
import { concatBytes, LevelGridError } from '../base';
import { BlockInflater, unzipPlain, type Block } from './block-inflater';
import { sumBytes, sumSamples, weaveHalves, weaveRow } from './running-sums';

const material = fc.oneof(
  fc.uint8Array({ maxLength: 3000 }),
  fc
    .tuple(fc.integer({ min: 0, max: 90000 }), fc.nat(0xffffff), fc.integer({ min: 1, max: 9 }))
    .map(([length, seed, skew]) =>
      Uint8Array.from({ length }, (_, i) => 256 * ((Math.imul(i ^ seed, 2654435761) >>> 0) / 2 ** 32) ** skew),
    ),
);
const level = fc.integer({ min: 0, max: 9 });

const outcome = (work: () => Uint8Array): Uint8Array | string => {
  try {
    return work().slice();
  } catch (reason) {
    if (reason instanceof LevelGridError) return reason.code;
    throw reason;
  }
};

test('blocks of any sizes, one after the other in one memory, are what was packed', () => {
  const inflater = new BlockInflater();
  fc.assert(
    fc.property(material, level, fc.uint8Array({ maxLength: 8 }), (bytes, l, padding) => {
      const packed = concatBytes([zlib.deflateSync(bytes, { level: l }), padding]);
      expect(Buffer.compare(inflater.unzip(packed, bytes.length).bytes, bytes)).toBe(0);
      expect(Buffer.compare(unzipPlain(packed, bytes.length), bytes)).toBe(0);
    }),
    { numRuns: 150 },
  );
});

test('of a block that goes on, what belongs to it is taken, however much follows', () => {
  for (const rest of [1, 40_000, 400_000]) {
    const bytes = Uint8Array.from({ length: 50_000 + rest }, (_, i) => Math.imul(i, i) >> 7);
    const packed = zlib.deflateSync(bytes);
    const inflater = new BlockInflater();
    for (let turn = 0; turn < 2; turn++)
      expect(Buffer.compare(inflater.unzip(packed, 50_000).bytes, bytes.subarray(0, 50_000))).toBe(0);
    packed[packed.length - 1]! ^= 1;
    expect(outcome(() => inflater.unzip(packed, 50_000).bytes)).toBe('corrupt');
  }
});

test('a block that is cut, too short or damaged is told, and the next one is read', () => {
  const inflater = new BlockInflater();
  const good = zlib.deflateSync(Uint8Array.of(1, 2, 3, 4));
  fc.assert(
    fc.property(material, level, fc.double({ min: 0, max: 0.9999, noNaN: true }), fc.nat(), (bytes, l, part, at) => {
      // of nothing nothing can be cut off
      fc.pre(bytes.length > 0);
      const packed = zlib.deflateSync(bytes, { level: l });
      expect(outcome(() => inflater.unzip(packed.subarray(0, packed.length * part), bytes.length).bytes)).toBe(
        'truncated',
      );
      expect(outcome(() => inflater.unzip(packed, bytes.length + 1).bytes)).toBe('corrupt');
      const bad = packed.slice();
      // the head may name another window: that says nothing of the bytes
      bad[1 + (at % (bad.length - 1))]! ^= 1 + (at % 255);
      const found = outcome(() => inflater.unzip(bad, bytes.length).bytes);
      if (typeof found === 'string') expect(['corrupt', 'truncated']).toContain(found);
      else expect(Buffer.compare(found, bytes)).toBe(0);
      expect([...inflater.unzip(good, 4).bytes]).toEqual([1, 2, 3, 4]);
    }),
    { numRuns: 150 },
  );
});

/** The same bytes in the memory of kernels and outside of it. */
function both(bytes: Uint8Array, work: (block: Block) => Uint8Array): [Uint8Array, Uint8Array] {
  const block = new BlockInflater().unzip(zlib.deflateSync(bytes), bytes.length);
  expect(block.kernels).not.toBeNull();
  return [work(block).slice(), work({ bytes: bytes.slice(), kernels: null })];
}

// of any length up to this: short ones alone would leave most lanes of the kernels out
const some = fc
  .tuple(fc.integer({ min: 1, max: 300 }), fc.nat())
  .map(([length, seed]) => Uint8Array.from({ length }, (_, i) => Math.imul(i + seed, 2654435761) >>> 24));

test('running sums of bytes and samples by kernels are those of plain arithmetic', () => {
  fc.assert(
    fc.property(some, fc.constantFrom(0, -128), fc.nat(20), (bytes, bias, skip) => {
      const from = Math.min(skip, bytes.length - 1);
      const expected = bytes.slice();
      for (let i = from + 1, sum = bytes[from]!; i < bytes.length; i++)
        expected[i] = sum = (sum + bytes[i]! + bias) & 255;
      for (const got of both(bytes, (b) => (sumBytes(b, from, bytes.length - from, bias), b.bytes)))
        expect(got).toEqual(expected);
    }),
  );
  for (const bits of [8, 16, 32, 64] as const)
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 70 }), fc.integer({ min: 1, max: 3 }), fc.nat(), (count, apart, seed) => {
        const size = bits / 8;
        const bytes = Uint8Array.from({ length: count * size }, (_, i) => Math.imul(i + seed, 2654435761) >>> 23);
        const expected = Buffer.from(bytes);
        const at = (i: number): bigint =>
          [...expected.subarray(i * size, i * size + size)].reduceRight((v, b) => (v << 8n) | BigInt(b), 0n);
        for (let i = apart; i < count; i++)
          for (let b = 0, v = at(i - apart) + at(i); b < size; b++, v >>= 8n) expected[i * size + b] = Number(v & 255n);
        for (const got of both(bytes, (b) => (sumSamples(b, 0, count, bits, apart), b.bytes)))
          expect(Buffer.compare(got, expected)).toBe(0);
      }),
      { numRuns: 60 },
    );
});

test('halves and rows of bytes are woven the same way', () => {
  fc.assert(
    fc.property(some, (bytes) => {
      const half = Math.ceil(bytes.length / 2);
      const expected = bytes.map((_, i) => bytes[(i & 1) * half + (i >> 1)]!);
      for (const got of both(bytes, weaveHalves)) expect(got).toEqual(expected);
    }),
  );
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 80 }), fc.constantFrom(2, 4, 8), fc.nat(3), (count, size, skip) => {
      const bytes = Uint8Array.from({ length: (count + skip) * size }, (_, i) => i * 7);
      const from = skip * size;
      const expected = bytes.slice();
      for (let i = 0; i < count; i++)
        for (let b = 0; b < size; b++) expected[from + i * size + size - 1 - b] = bytes[from + b * count + i]!;
      for (const got of both(bytes, (b) => (weaveRow(b, from, count, size), b.bytes))) expect(got).toEqual(expected);
    }),
  );
});
