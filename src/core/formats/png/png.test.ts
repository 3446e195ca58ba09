import fc from 'fast-check';
import sharp from 'sharp';
import zlib from 'node:zlib';
import { concatBytes, LevelGridError, memorySource } from '../../base';
import { openHeightFile } from '..';
import { countSource } from '../../run';
import { crc32 } from './crc';
import { filterRow, unfilterRow } from './filters';
import { checkLimits } from './header';
import { faultOf, hills, pngSource } from '../../../../tests/helpers/rasters';

async function decode(bytes: Uint8Array, name = 'x.png') {
  const raster = await openHeightFile(memorySource(name, bytes));
  const { width, height } = raster.info;
  const out: number[] = [];
  for await (const band of raster.bands()) for (const v of band.data) out.push(v);
  expect(out).toHaveLength(width * height);
  return { ...raster, samples: out };
}

const chunk = (type: string, data: Uint8Array): Uint8Array => {
  const out = new Uint8Array(12 + data.length);
  new DataView(out.buffer).setUint32(0, data.length);
  out.set(Buffer.from(type, 'latin1'), 4);
  out.set(data, 8);
  new DataView(out.buffer).setUint32(8 + data.length, zlib.crc32(out.subarray(4, 8 + data.length)));
  return out;
};
const SIGNATURE = Uint8Array.of(137, 80, 78, 71, 13, 10, 26, 10);
const ihdr = (w: number, h: number, depth = 16, colour = 0, interlace = 0): Uint8Array => {
  const data = new Uint8Array(13);
  new DataView(data.buffer).setUint32(0, w);
  new DataView(data.buffer).setUint32(4, h);
  data.set([depth, colour, 0, 0, interlace], 8);
  return chunk('IHDR', data);
};
const file = (...chunks: Uint8Array[]): Uint8Array => concatBytes([SIGNATURE, ...chunks]);

test('CRC-32 agrees with zlib at every length', () => {
  const bytes = Uint8Array.from({ length: 100 }, (_, i) => (i * 37 + 11) & 255);
  for (let n = 0; n <= 100; n++) expect(crc32(bytes.subarray(0, n))).toBe(zlib.crc32(bytes.subarray(0, n)));
  expect(crc32(bytes.subarray(40), crc32(bytes.subarray(0, 40)))).toBe(zlib.crc32(bytes));
});

test('each row filter is undone exactly', () => {
  fc.assert(
    fc.property(
      fc.uint8Array({ minLength: 8, maxLength: 64 }),
      fc.uint8Array({ minLength: 64, maxLength: 64 }),
      fc.constantFrom(1, 2),
      (row, above, bpp) => {
        const out = new Uint8Array(row.length + 1);
        filterRow(out, 0, row, above, bpp);
        const back = out.slice(1);
        unfilterRow(out[0]!, back, above, bpp);
        expect([...back]).toEqual([...row]);
      },
    ),
  );
});

test('what is written is read back to the bit, whatever the size and the bands', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 1, max: 70 }),
      fc.integer({ min: 1, max: 50 }),
      fc.integer({ min: 1, max: 20 }),
      fc.integer(),
      async (w, h, rows, seed) => {
        const codes = Uint16Array.from({ length: w * h }, (_, i) => (Math.imul(i + 1, seed | 1) >>> 7) & 0xffff);
        const source = await pngSource(codes, w, 'p.png', rows);
        const { samples, info } = await decode((await source.read(0, source.size)).slice());
        expect(samples).toEqual([...codes]);
        expect(info).toMatchObject({
          width: w,
          height: h,
          bitDepth: 16,
          channels: 1,
          sampleType: 'uint',
          byteOrder: null,
        });
      },
    ),
    { numRuns: 60 },
  );
});

test('an independent reader sees the written samples, 16 bits, one channel', async () => {
  const codes = hills(97, 61);
  const source = await pngSource(codes, 97);
  const bytes = await source.read(0, source.size);
  const meta = await sharp(bytes).metadata();
  expect(meta).toMatchObject({ width: 97, height: 61, channels: 1, depth: 'ushort' });
  const raw = await sharp(bytes).toColourspace('grey16').raw({ depth: 'ushort' }).toBuffer();
  expect([...new Uint16Array(raw.buffer, raw.byteOffset, codes.length)]).toEqual([...codes]);
});

describe('pictures of other programs', () => {
  const codes = hills(45, 33);
  const grey16 = () => sharp(codes, { raw: { width: 45, height: 33, channels: 1 } }).toColourspace('grey16');

  test.each([false, true])('16-bit grey, interlaced %p', async (progressive) => {
    const bytes = await grey16().png({ progressive, adaptiveFiltering: true }).toBuffer();
    expect((await decode(bytes)).samples).toEqual([...codes]);
  });
  test.each([
    [1, [0, 1]],
    [2, [0, 3]],
    [4, [0, 15]],
  ])('grey of %i bit, interlaced, at sizes that leave passes empty', async (depth, ends) => {
    for (const [w, h] of [
      [1, 1],
      [3, 2],
      [5, 9],
      [13, 6],
    ] as const) {
      const passes = [
        [0, 0, 8, 8],
        [4, 0, 8, 8],
        [0, 4, 4, 8],
        [2, 0, 4, 4],
        [0, 2, 2, 4],
        [1, 0, 2, 2],
        [0, 1, 1, 2],
      ] as const;
      const value = (x: number, y: number): number => ((x * 3 + y * 5) % 2 === 0 ? ends[0]! : ends[1]!);
      const rows: number[] = [];
      for (const [x0, y0, dx, dy] of passes) {
        if (x0 >= w) continue;
        for (let y = y0; y < h; y += dy) {
          rows.push(0);
          let bits = '';
          for (let x = x0; x < w; x += dx) bits += value(x, y).toString(2).padStart(depth, '0');
          for (let i = 0; i < bits.length; i += 8) rows.push(parseInt(bits.slice(i, i + 8).padEnd(8, '0'), 2));
        }
      }
      const { samples } = await decode(
        file(
          ihdr(w, h, depth, 0, 1),
          chunk('IDAT', zlib.deflateSync(Uint8Array.from(rows))),
          chunk('IEND', new Uint8Array()),
        ),
      );
      expect(samples).toEqual(Array.from({ length: w * h }, (_, i) => value(i % w, Math.floor(i / w))));
    }
  });
  test('colour with equal channels gives that value and says how it was collapsed', async () => {
    const eight = Uint8Array.from(codes, (c) => c >> 8);
    const rgb = Uint8Array.from({ length: eight.length * 3 }, (_, i) => eight[Math.floor(i / 3)]!);
    const bytes = await sharp(rgb, { raw: { width: 45, height: 33, channels: 3 } })
      .png()
      .toBuffer();
    const { samples, info } = await decode(bytes);
    expect(samples).toEqual([...eight]);
    expect(info.channels).toBe(3);
    expect(info.warnings).toEqual([
      expect.objectContaining({ code: 'colour', message: expect.stringContaining('0.2126') }),
    ]);
  });
  test('alpha is left out with a warning', async () => {
    const rgba = Uint8Array.from({ length: 4 * 6 }, (_, i) => (i % 4 === 3 ? 9 : 100 + Math.floor(i / 4)));
    const bytes = await sharp(rgba, { raw: { width: 3, height: 2, channels: 4 } })
      .png()
      .toBuffer();
    const { samples, info } = await decode(bytes);
    expect(samples).toEqual([100, 101, 102, 103, 104, 105]);
    expect(info.warnings.map((w) => w.code)).toEqual(['colour', 'alpha']);
  });
  test('a palette picture is read by the brightness of its colours', async () => {
    const { samples, info } = await decode(
      file(
        ihdr(4, 1, 2, 3),
        chunk('PLTE', Uint8Array.of(0, 0, 0, 50, 50, 50, 200, 200, 200)),
        chunk('IDAT', zlib.deflateSync(Uint8Array.of(0, 0b00011000))),
        chunk('IEND', new Uint8Array()),
      ),
    );
    expect(samples).toEqual([0, 50, 200, 0]);
    expect(info.warnings[0]?.code).toBe('colour');
  });
});

describe('bad pictures', () => {
  let good: Uint8Array;
  beforeAll(async () => {
    const source = await pngSource(hills(64, 64), 64);
    good = (await source.read(0, source.size)).slice();
  });
  const code = async (bytes: Uint8Array, name = 'bad.png') => faultOf(() => decode(bytes, name));

  test('empty', async () => expect((await code(new Uint8Array())).code).toBe('empty-file'));
  test('a text file called .png', async () => {
    const error = await code(Buffer.from('just some words about a valley'));
    expect(error).toMatchObject({ code: 'unknown-format', file: 'bad.png', found: 'plain text' });
  });
  test('60000 × 60000 in a few bytes is refused before anything is allocated', async () => {
    const error = await code(
      file(ihdr(60000, 60000), chunk('IDAT', zlib.deflateSync(new Uint8Array(10))), chunk('IEND', new Uint8Array())),
    );
    expect(error.code).toBe('truncated');
    expect(error.found).toContain('60000 × 60000');
  });
  test('sides beyond the limit', async () => expect((await code(file(ihdr(100000, 4)))).code).toBe('too-large'));
  test('zero width', async () => expect((await code(file(ihdr(0, 4)))).code).toBe('corrupt'));
  test('a wrong checksum is named', async () => {
    const bytes = good.slice();
    bytes[29] = bytes[29]! ^ 1;
    const error = await code(bytes);
    expect(error).toMatchObject({ code: 'checksum', file: 'bad.png' });
    expect(error.found).toContain('IHDR');
  });
  test('cut anywhere it is a typed error, or only the closing chunk is missing', async () => {
    for (let n = 1; n < good.length; n += 7) {
      const outcome = await decode(good.slice(0, n)).catch((reason: unknown) => reason);
      if (outcome instanceof LevelGridError) {
        expect(outcome.code).not.toBe('internal');
        continue;
      }
      expect([n, (outcome as { lateWarnings: unknown }).lateWarnings]).toEqual([
        n,
        [expect.objectContaining({ code: 'cut-short' })],
      ]);
      expect(n).toBeGreaterThanOrEqual(good.length - 16);
    }
  });
  test('no flipped byte crashes the reader or passes unnoticed', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 0, max: good.length - 1 }),
        fc.integer({ min: 1, max: 255 }),
        async (at, flip) => {
          const bytes = good.slice();
          bytes[at] = bytes[at]! ^ flip;
          const outcome = await decode(bytes).catch((reason: unknown) => reason);
          if (outcome instanceof LevelGridError) {
            expect(outcome.code).not.toBe('internal');
            return;
          }
          // only the closing chunk and how long the only chunk of image data is may be damaged without harm; that is said
          expect(at >= good.length - 12 || (at >= 33 && at < 37)).toBe(true);
          expect(outcome).toMatchObject({ samples: [...hills(64, 64)], lateWarnings: [{ code: 'cut-short' }] });
        },
      ),
      { numRuns: 150 },
    );
  });
  test('fewer rows than stated', async () => {
    const error = await code(
      file(ihdr(4, 9), chunk('IDAT', zlib.deflateSync(new Uint8Array(9 * 3))), chunk('IEND', new Uint8Array())),
    );
    expect(error).toMatchObject({ code: 'truncated', found: 'image data for 3 of 9 rows' });
  });
});

describe('pixels that a file marks as having no value are voids', () => {
  const be16 = (...values: number[]): Uint8Array => Uint8Array.from(values.flatMap((v) => [v >> 8, v & 255]));
  /** Rows of bytes as image data without filters. */
  const idat = (...rows: (readonly number[] | Uint8Array)[]): Uint8Array =>
    chunk('IDAT', zlib.deflateSync(Buffer.concat(rows.map((r) => Buffer.from([0, ...r])))));
  const end = chunk('IEND', new Uint8Array(0));

  test('grey of 16 bits, also interlaced, counted and told', async () => {
    const bytes = file(ihdr(3, 2), chunk('tRNS', be16(500)), idat(be16(1, 500, 3), be16(500, 5, 65535)), end);
    const { samples, info } = await decode(bytes);
    expect(samples).toEqual([1, NaN, 3, NaN, 5, 65535]);
    expect(info).toMatchObject({ mayHoldVoids: true, bitDepth: 16, sampleType: 'uint' });
    const { facts } = await countSource(memorySource('holes.png', bytes), undefined);
    expect(facts.stats).toMatchObject({ voids: 2, min: 1, max: 65535, distinctCodes: 4, wholeStep: 2 });
    expect(facts.warnings).toContainEqual(expect.objectContaining({ code: 'voids' }));
    // two passes of a picture of one row: columns 0, then the rest (Adam7)
    const interlaced = file(ihdr(2, 1, 16, 0, 1), chunk('tRNS', be16(7)), idat(be16(7), be16(9)), end);
    expect((await decode(interlaced)).samples).toEqual([NaN, 9]);
  });
  test('grey of few bits, colour and palette entries without opacity', async () => {
    expect((await decode(file(ihdr(4, 1, 4), chunk('tRNS', be16(2)), idat([0x12, 0x32]), end))).samples).toEqual([
      1,
      NaN,
      3,
      NaN,
    ]);
    const colour = file(ihdr(2, 1, 8, 2), chunk('tRNS', be16(1, 2, 3)), idat([1, 2, 3, 9, 9, 9]), end);
    expect((await decode(colour)).samples).toEqual([NaN, 9]);
    const palette = file(
      ihdr(3, 1, 8, 3),
      chunk('PLTE', Uint8Array.of(10, 10, 10, 20, 20, 20, 30, 30, 30)),
      chunk('tRNS', Uint8Array.of(255, 0)),
      idat([0, 1, 2]),
      end,
    );
    expect((await decode(palette)).samples).toEqual([10, NaN, 30]);
  });

  test('transparency that the picture can’t have is told and makes no voids', async () => {
    const plte = chunk('PLTE', Uint8Array.of(10, 10, 10, 20, 20, 20));
    for (const [bytes, samples] of [
      [file(ihdr(2, 1), chunk('tRNS', be16(1, 1)), idat(be16(1, 2)), end), [1, 2]],
      [file(ihdr(2, 1), chunk('tRNS', Uint8Array.of(1)), idat(be16(1, 2)), end), [1, 2]],
      [file(ihdr(2, 1), chunk('tRNS', be16(1)), chunk('tRNS', be16(2)), idat(be16(1, 2)), end), [NaN, 2]],
      [file(ihdr(1, 1, 8, 2), chunk('tRNS', be16(1)), idat([1, 1, 1]), end), [1]],
      [file(ihdr(2, 1, 8, 4), chunk('tRNS', be16(1)), idat([1, 255, 2, 255]), end), [1, 2]],
      [file(ihdr(2, 1, 8, 3), plte, chunk('tRNS', Uint8Array.of(0, 0, 0)), idat([0, 1]), end), [10, 20]],
    ] as const) {
      const read = await decode(bytes);
      expect(read.samples).toEqual(samples);
      expect(read.info.warnings).toContainEqual(
        expect.objectContaining({ code: 'structure', message: expect.stringContaining('makes no sample a void') }),
      );
    }
  });

  test('a palette that is missing or torn is refused; too short or given twice, it is told', async () => {
    const plte = (...grey: number[]): Uint8Array => chunk('PLTE', Uint8Array.from(grey.flatMap((g) => [g, g, g])));
    for (const bad of [
      file(ihdr(2, 1, 8, 3), idat([0, 1]), end),
      file(ihdr(2, 1, 8, 3), chunk('PLTE', Uint8Array.of(1, 2)), idat([0, 1]), end),
    ])
      expect(await faultOf(() => decode(bad))).toMatchObject({
        code: 'corrupt',
        found: expect.stringContaining('palette'),
      });
    const short = await decode(file(ihdr(2, 1, 8, 3), plte(40), idat([0, 1]), end));
    expect(short.samples).toEqual([40, 0]);
    expect(short.lateWarnings).toEqual([
      expect.objectContaining({ code: 'palette', message: expect.stringContaining('1 samples have an index beyond') }),
    ]);
    const twice = await decode(file(ihdr(2, 1, 8, 3), plte(40, 50), plte(1, 2), idat([0, 1]), end));
    expect(twice.samples).toEqual([40, 50]);
    expect(twice.lateWarnings).toContainEqual(
      expect.objectContaining({ code: 'palette', message: expect.stringContaining('2 palettes') }),
    );
  });
});

describe('a file that is not as PNG wants it, whose samples can all be read', () => {
  const DEPTHS = [
    ['16 bits', 16, 0],
    ['8 bits', 8, 0],
    ['8 bits, interlaced', 8, 1],
  ] as const;
  const row = (depth: number, ...codes: number[]): number[] =>
    codes.flatMap((c) => (depth === 16 ? [c >> 8, c & 255] : [c]));
  /** A picture of one column: interlaced, its rows come in the order 0, 4, 2, 1, 3 and so on; three rows are 0, 2, 1. */
  const data = (depth: number, interlaced: number, more: number[] = []): Uint8Array => {
    const rows = interlaced ? [11, 33, 22] : [11, 22, 33];
    return zlib.deflateSync(Uint8Array.from([...rows.flatMap((c) => [0, ...row(depth, c)]), ...more]));
  };
  const end = chunk('IEND', new Uint8Array(0));
  const faults: readonly [string, (depth: number, lace: number) => Uint8Array, string, RegExp][] = [
    [
      'a second header, late',
      (d, i) => file(ihdr(1, 3, d, 0, i), chunk('IDAT', data(d, i)), ihdr(9, 9, d, 0, i), end),
      'structure',
      /2 headers where one is allowed/,
    ],
    [
      'a palette in a grey picture, behind the image data',
      (d, i) => file(ihdr(1, 3, d, 0, i), chunk('IDAT', data(d, i)), chunk('PLTE', Uint8Array.of(1, 2, 3)), end),
      'palette',
      /holds a palette, which a grey picture can’t have/,
    ],
    [
      'an unknown chunk that is called necessary',
      (d, i) => file(ihdr(1, 3, d, 0, i), chunk('DELT', Uint8Array.of(7)), chunk('IDAT', data(d, i)), end),
      'structure',
      /says that DELT must be understood/,
    ],
    [
      'one of them larger than anything that is read whole',
      (d, i) => file(ihdr(1, 3, d, 0, i), chunk('DELT', new Uint8Array(2 ** 20 + 1)), chunk('IDAT', data(d, i)), end),
      'structure',
      /says that DELT must be understood/,
    ],
    [
      'image data that is torn apart',
      (d, i) => {
        const all = data(d, i);
        const text = chunk('tEXt', Buffer.from('Kettle Tarn'));
        return file(ihdr(1, 3, d, 0, i), chunk('IDAT', all.subarray(0, 5)), text, chunk('IDAT', all.subarray(5)), end);
      },
      'structure',
      /lies between pieces of the image data/,
    ],
    [
      'more rows than the header says',
      (d, i) => {
        const more = [0, ...row(d, 44), 0, ...row(d, 55)];
        return file(ihdr(1, 3, d, 0, i), chunk('IDAT', data(d, i, more)), end);
      },
      'structure',
      /goes on behind the last of 3 rows(, for 2 more| \(4 bytes\))/,
    ],
    [
      'no closing chunk',
      (d, i) => file(ihdr(1, 3, d, 0, i), chunk('IDAT', data(d, i))),
      'cut-short',
      /ends before its closing chunk/,
    ],
  ];
  test.each(DEPTHS)('of %s', async (_, depth, lace) => {
    const whole = await decode(file(ihdr(1, 3, depth, 0, lace), chunk('IDAT', data(depth, lace)), end));
    expect([whole.samples, whole.lateWarnings]).toEqual([[11, 22, 33], []]);
    for (const [name, bytes, code, message] of faults) {
      const read = await decode(bytes(depth, lace));
      expect([name, read.samples]).toEqual([name, [11, 22, 33]]);
      expect([name, read.lateWarnings]).toEqual([name, [{ code, message: expect.stringMatching(message) }]]);
    }
  });
  test('a colour picture may suggest a palette; two are too many', async () => {
    const plte = chunk('PLTE', Uint8Array.of(1, 2, 3));
    const pixels = chunk('IDAT', zlib.deflateSync(Uint8Array.of(0, 5, 5, 5)));
    expect((await decode(file(ihdr(1, 1, 8, 2), plte, pixels, end))).lateWarnings).toEqual([]);
    expect((await decode(file(ihdr(1, 1, 8, 2), plte, pixels, plte, end))).lateWarnings).toMatchObject([
      { code: 'palette', message: expect.stringContaining('2 palettes where one is allowed') },
    ]);
  });
});

test('limits count what a picture takes when it is decoded, and name both numbers', async () => {
  const picture = { width: 30000, height: 30000, bitDepth: 1, colourType: 0, interlaced: true } as const;
  const fault = await faultOf(() => checkLimits(picture, 1e9));
  expect(fault).toMatchObject({ code: 'too-large' });
  expect(fault.found).toContain('900000000 bytes');
  expect(fault.expected).toContain(String(2 ** 29));
  // in bands it takes little, and a smaller one fits
  expect(() => checkLimits({ ...picture, interlaced: false }, 1e9)).not.toThrow();
  expect(() => checkLimits({ ...picture, width: 17000 }, 1e9)).not.toThrow();
  expect((await faultOf(() => checkLimits({ ...picture, width: 17000 }, 1e9, true))).code).toBe('too-large');
});

describe('display curves', () => {
  const gamma = (v: number): Uint8Array => {
    const data = new Uint8Array(4);
    new DataView(data.buffer).setUint32(0, v);
    return chunk('gAMA', data);
  };
  const said = async (...chunks: Uint8Array[]): Promise<string[]> => {
    const bytes = file(
      ihdr(4, 1, 8),
      ...chunks,
      chunk('IDAT', zlib.deflateSync(Uint8Array.of(0, 1, 2, 3, 4))),
      chunk('IEND', new Uint8Array()),
    );
    const { info, samples } = await decode(bytes);
    // nothing is bent on a mere hint
    expect(samples).toEqual([1, 2, 3, 4]);
    return info.warnings.map((w) => w.message);
  };
  test('a power and sRGB are said, each with how far off the middle would be', async () => {
    // x − x^2.2 is largest where 2.2 · x^1.2 = 1, at x = 0.5184: 0.5184 − 0.2356 = 0.2828
    expect(await said(gamma(45455))).toEqual([expect.stringMatching(/power 2\.2\).*up to 28 % of the range/)]);
    // sRGB at x = 0.53: 0.53 − 0.2429 = 0.287
    expect(await said(gamma(45455), chunk('sRGB', Uint8Array.of(0)))).toEqual([
      expect.stringMatching(/\(sRGB\).*up to 29 % of the range/),
    ]);
  });
  test('a linear picture, and a chunk that is none, say nothing', async () => {
    expect(await said(gamma(100000))).toEqual([]);
    expect(await said(gamma(0))).toEqual([]);
    expect(await said(chunk('gAMA', Uint8Array.of(1)))).toEqual([]);
    expect(await said(chunk('sRGB', new Uint8Array()))).toEqual([]);
  });
});
