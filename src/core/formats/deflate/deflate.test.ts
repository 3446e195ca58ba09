import fc from 'fast-check';
import zlibOfNode from 'node:zlib';
import { concatBytes } from '../../base';
import { adler32, adler32Joined, deflatePiece, WINDOW, zlib } from '.';
import { canonicalCodes, codeLengths } from './huffman';

/** Adler-32 as zlib states it behind its own stream. */
const zlibAdler = (bytes: Uint8Array): number =>
  zlibOfNode.deflateSync(bytes).readUInt32BE(zlibOfNode.deflateSync(bytes).length - 4);

/** Bytes of many kinds: noise, runs, repeated phrases, few symbols. */
const material = fc.oneof(
  fc.uint8Array({ maxLength: 3000 }),
  fc.array(fc.constantFrom(0, 0, 0, 0, 1, 255), { maxLength: 6000 }).map((a) => Uint8Array.from(a)),
  fc
    .tuple(fc.uint8Array({ minLength: 1, maxLength: 60 }), fc.integer({ min: 1, max: 300 }))
    .map(([phrase, n]) => Uint8Array.from({ length: phrase.length * n }, (_, i) => phrase[i % phrase.length]!)),
);

test.each(['fast', 'default'] as const)('%s: zlib reads back what was written', (preset) => {
  fc.assert(
    fc.property(material, (bytes) => {
      expect(Buffer.compare(zlibOfNode.inflateRawSync(deflatePiece(bytes, 0, true, preset)), bytes)).toBe(0);
    }),
    { numRuns: 150 },
  );
});

test.each(['fast', 'default'] as const)('%s: pieces made apart join into one stream', (preset) => {
  const bytes = Uint8Array.from({ length: 300000 }, (_, i) => (i % 1000 < 500 ? (i * i) >> 7 : i % 13) & 255);
  const cuts = [0, 5, 70000, 70001, 200000, 300000];
  const pieces = cuts.slice(1).map((end, k) => {
    const start = cuts[k]!;
    const known = Math.max(0, start - WINDOW);
    return deflatePiece(bytes.subarray(known, end), start - known, end === 300000, preset);
  });
  expect(Buffer.compare(zlibOfNode.inflateRawSync(concatBytes(pieces)), bytes)).toBe(0);
});

test('repetitions are found across pieces and blocks', () => {
  const phrase = Uint8Array.from({ length: 20000 }, (_, i) => (Math.imul(i, 2654435761) >>> 13) & 255);
  const twice = concatBytes([phrase, phrase]);
  expect(deflatePiece(twice, 20000, true, 'default').length).toBeLessThan(2000);
});

test('code lengths are a full prefix code within the limit, even for the steepest frequencies', () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 0, max: 60000 }), { minLength: 2, maxLength: 286 }),
      fc.constantFrom(7, 9, 15),
      (list, wanted) => {
        const used = list.filter((n) => n > 0).length;
        const limit = Math.max(wanted, Math.ceil(Math.log2(Math.max(2, used))));
        const lengths = new Uint8Array(list.length);
        codeLengths(Uint32Array.from(list), list.length, limit, lengths);
        let kraft = 0;
        list.forEach((n, i) => {
          expect(lengths[i]! > 0).toBe(n > 0);
          if (n > 0) kraft += 2 ** -lengths[i]!;
          expect(lengths[i]).toBeLessThanOrEqual(limit);
        });
        if (used > 1) expect(kraft).toBe(1);
      },
    ),
  );
  const steep = Uint32Array.from({ length: 30 }, (_, i) => 2 ** i);
  const lengths = new Uint8Array(30);
  codeLengths(steep, 30, 15, lengths);
  expect(lengths.reduce((k, l) => k + 2 ** -l, 0)).toBe(1);
  // frequencies of a steep bell, as filtered terrain has them
  for (let width = 1; width < 60; width++) {
    const bell = Uint32Array.from({ length: 256 }, (_, i) =>
      Math.round(40000 * Math.exp(-Math.abs(i - 128) / (width / 4))),
    );
    const bellLengths = new Uint8Array(256);
    codeLengths(bell, 256, 15, bellLengths);
    expect(bellLengths.reduce((k, l) => k + (l > 0 ? 2 ** -l : 0), 0)).toBe(1);
  }
  const codes = new Uint16Array(30);
  canonicalCodes(lengths, 30, codes);
  expect(new Set([...codes].map((c, i) => `${lengths[i]}/${c}`)).size).toBe(30);
});

test('Adler-32 agrees with zlib, whole and joined', () => {
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 20000 }), fc.uint8Array({ maxLength: 9000 }), (a, b) => {
      expect(adler32(a)).toBe(zlibAdler(a));
      expect(adler32Joined(adler32(a), adler32(b), b.length)).toBe(zlibAdler(concatBytes([a, b])));
    }),
    { numRuns: 40 },
  );
});

test('a whole zlib stream is read back by another reader', () => {
  for (const n of [0, 1, 1000, 300_000]) {
    const bytes = Uint8Array.from({ length: n }, (_, i) => (i * i) % 251);
    expect(new Uint8Array(zlibOfNode.inflateSync(zlib(bytes)))).toEqual(bytes);
  }
});
