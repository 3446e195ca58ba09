import { fromArrayBuffer } from 'geotiff';
import sharp from 'sharp';
import { writeTiff, type TiffShape } from '../../../../tests/helpers/write-tiff';
import { LevelGridError, memorySource } from '../../base';
import type { OpenRaster } from '../../raster';
import { openHeightFile } from '../registry';

const open = (bytes: Uint8Array): Promise<OpenRaster> => openHeightFile(memorySource('ground.tif', bytes));

/** All samples, by bands. */
async function samplesOf(raster: OpenRaster): Promise<number[]> {
  const out: number[] = [];
  for await (const { data } of raster.bands()) for (const v of data) out.push(Number(v));
  return out;
}

/** What another reader finds in the first channel. */
async function others(bytes: Uint8Array, page = 0): Promise<number[]> {
  const tiff = await fromArrayBuffer(new Uint8Array(bytes).buffer);
  const image = await tiff.getImage(page);
  const [first] = (await image.readRasters()) as unknown as [ArrayLike<number>];
  return Array.from(first, Number);
}

/** The first place where they differ; −1 where they don't. */
const same = (a: ArrayLike<number>, b: ArrayLike<number>): number => {
  for (let i = 0; i < Math.max(a.length, b.length); i++) if (a[i] !== b[i]) return i;
  return -1;
};

const SHAPE = { width: 37, height: 29 };
/** Ground that uses all bits, both signs where there are two, and whole runs of equal samples. */
function groundOf({ type, bits }: Pick<TiffShape, 'type' | 'bits'>) {
  return (x: number, y: number, c = 0): number => {
    const wave = Math.sin(x * 0.31 + c) * Math.cos(y * 0.23);
    if (type === 'float') return Math.fround(1725.5 + 415.25 * wave);
    const half = 2 ** (Math.min(bits, 48) - 1) - 1;
    // no −0
    const v = y % 5 === 4 ? 7 : Math.round(wave * half) + 0;
    return type === 'int' ? v : v + half;
  };
}

const TYPES = [
  ['uint', 8],
  ['int', 8],
  ['uint', 16],
  ['int', 16],
  ['uint', 32],
  ['int', 32],
  ['float', 32],
  ['float', 64],
] as const;

describe('every type, order, layout and packing reads to the bit', () => {
  for (const [type, bits] of TYPES)
    test(`${type} ${bits}`, async () => {
      const value = groundOf({ type, bits });
      const truth = Array.from({ length: SHAPE.width * SHAPE.height }, (_, i) =>
        value(i % SHAPE.width, Math.floor(i / SHAPE.width)),
      );
      let n = 0;
      for (const little of [true, false])
        for (const big of [false, true])
          for (const tile of [undefined, [16, 16]] as const)
            for (const compression of [1, 8, 32773] as const)
              for (const predictor of (type === 'float' ? [1, 3] : [1, 2]) as (1 | 2 | 3)[]) {
                const bytes = writeTiff(
                  {
                    ...SHAPE,
                    type,
                    bits,
                    little,
                    big,
                    compression,
                    predictor,
                    ...(tile ? { tile } : { rowsPerStrip: 7 }),
                  },
                  value,
                );
                const how = JSON.stringify({ little, big, tile, compression, predictor });
                const raster = await open(bytes);
                expect(raster.info).toMatchObject({
                  format: 'tiff',
                  ...SHAPE,
                  bitDepth: bits,
                  sampleType: type,
                  channels: 1,
                });
                expect([how, await samplesOf(raster)]).toEqual([how, truth]);
                // the writer is held against another reader, which knows predictors in one byte order only
                if (n++ % 3 === 0 && (little || predictor === 1))
                  expect([how, await others(bytes)]).toEqual([how, truth]);
              }
      expect(n).toBe(48);
    });

  test('whole numbers of 64 bits', async () => {
    for (const type of ['uint', 'int'] as const) {
      const value = groundOf({ type, bits: 64 });
      for (const predictor of [1, 2] as const) {
        const raster = await open(
          writeTiff({ ...SHAPE, type, bits: 64, predictor, compression: 8 }, (x, y) => BigInt(value(x, y))),
        );
        expect((await samplesOf(raster)).slice(0, 40)).toEqual(
          Array.from({ length: 40 }, (_, i) => value(i % SHAPE.width, Math.floor(i / SHAPE.width))),
        );
      }
    }
  });

  test('several channels, side by side and in planes: the first is read, and that is said', async () => {
    for (const planar of [1, 2] as const) {
      const value = groundOf({ type: 'uint', bits: 16 });
      const bytes = writeTiff(
        { ...SHAPE, type: 'uint', bits: 16, samples: 3, planar, predictor: 2, compression: 8, rowsPerStrip: 4 },
        value,
      );
      const raster = await open(bytes);
      expect(raster.info.warnings[0]?.message).toContain('3 channels');
      const found = await samplesOf(raster);
      expect(found).toEqual(await others(bytes));
      expect(found[40]).toBe(value(3, 1, 0));
    }
  });
});

describe('files of another writer', () => {
  const side = 200;
  const codes = Uint16Array.from({ length: side * side }, (_, i) => 32768 + 20000 * Math.sin(i * 0.0021) + (i % 91));
  const heights = Float32Array.from(codes, (c) => c / 37 - 400);
  const whole = { width: side, height: side, channels: 1 } as const;
  test.each(['none', 'lzw', 'deflate', 'packbits'] as const)('%s, 16 bits and floats', async (compression) => {
    for (const tile of [false, true])
      for (const predictor of ['none', 'horizontal'] as const) {
        const written = await sharp(codes, { raw: whole })
          .toColourspace('grey16')
          .tiff({ compression, predictor, tile, tileWidth: 64, tileHeight: 64 })
          .toBuffer();
        const raster = await open(written);
        expect(raster.info.bitDepth).toBe(16);
        expect(same(await samplesOf(raster), codes)).toBe(-1);
      }
    if (compression === 'none' || compression === 'packbits') return;
    const floats = await sharp(heights, { raw: whole })
      .toColourspace('b-w')
      .tiff({
        compression,
        predictor: 'float',
        tile: false,
      })
      .toBuffer();
    const found = await open(floats);
    expect(found.info).toMatchObject({ sampleType: 'float', bitDepth: 32 });
    expect(same(await samplesOf(found), await others(floats))).toBe(-1);
  });
  test('LZW long enough to fill its table many times', async () => {
    const noise = Uint16Array.from({ length: 512 * 512 }, (_, i) => (i * 2654435761) >>> 16);
    const written = await sharp(noise, { raw: { width: 512, height: 512, channels: 1 } })
      .toColourspace('grey16')
      .tiff({ compression: 'lzw', predictor: 'none' })
      .toBuffer();
    expect(same(await samplesOf(await open(written)), noise)).toBe(-1);
  });
});

describe('what a file says of its ground', () => {
  const value = groundOf({ type: 'int', bits: 16 });
  const keys = (...pairs: readonly (readonly [number, number])[]): number[] => [
    1,
    1,
    0,
    pairs.length,
    ...pairs.flatMap(([k, v]) => [k, 0, 1, v]),
  ];
  test('spacing, place of the first sample and CRS of a projected raster of cells', async () => {
    const { info } = await open(
      writeTiff(
        {
          ...SHAPE,
          type: 'int',
          bits: 16,
          tags: [
            [33550, 12, [2.5, 2.5, 0]],
            [33922, 12, [0, 0, 0, 400000, 5200000, 0]],
            [34735, 3, keys([1024, 1], [1025, 1], [3072, 32632], [3076, 9001], [4099, 9002])],
          ],
        },
        value,
      ),
    );
    expect(info.registration).toBe('cell');
    expect(info.unit).toBe('foot');
    expect(info.georeference).toEqual({
      x: 400001.25,
      y: 5199998.75,
      dx: 2.5,
      dy: 2.5,
      metres: 1,
      degrees: false,
      crs: 'EPSG:32632',
    });
  });
  test('degrees, points, and feet', async () => {
    const tags = (model: number, linear: number): NonNullable<TiffShape['tags']> => [
      [34264, 12, [0.001, 0, 0, 11, 0, -0.001, 0, 48, 0, 0, 0, 0, 0, 0, 0, 1]],
      [34735, 3, keys([1024, model], [1025, 2], [2048, 4326], [3076, linear])],
    ];
    const at = async (t: TiffShape['tags']) =>
      (await open(writeTiff({ ...SHAPE, type: 'int', bits: 16, tags: t ?? [] }, value))).info;
    expect((await at(tags(2, 9001))).georeference).toEqual({
      x: 11,
      y: 48,
      dx: 0.001,
      dy: 0.001,
      metres: null,
      degrees: true,
      crs: 'EPSG:4326',
    });
    expect((await at(tags(1, 9003))).georeference?.metres).toBeCloseTo(0.3048006096, 10);
  });
  test('no-data becomes a void, in whole numbers and in floats; a value that no sample can hold is none', async () => {
    for (const [type, bits, text, hole] of [
      ['int', 16, '-9999', -9999],
      ['float', 32, '-3.4028234663852886e+38', -3.4028234663852886e38],
      ['float', 32, 'nan', NaN],
      ['uint', 8, '255', 255],
      ['int', 32, '-2147483648', -2147483648],
    ] as const) {
      const raster = await open(
        writeTiff({ ...SHAPE, type, bits, tags: [[42113, 2, text]] }, (x, y) => (x === 3 && y === 2 ? hole : 100 + x)),
      );
      const found = await samplesOf(raster);
      expect(found[2 * SHAPE.width + 3]).toBeNaN();
      expect(found.filter((v) => Number.isNaN(v))).toHaveLength(1);
      expect(found[2 * SHAPE.width + 4]).toBe(104);
    }
    const none = await open(writeTiff({ ...SHAPE, type: 'uint', bits: 16, tags: [[42113, 2, '-9999']] }, () => 5));
    expect(none.info.noData).toBeUndefined();
  });
  test('a block that was left out holds voids, where the file knows them', async () => {
    const shape = { width: 32, height: 32, type: 'float', bits: 32, tile: [16, 16], holes: [1] } as const;
    const found = await samplesOf(await open(writeTiff({ ...shape, tags: [[42113, 2, '-1']] }, (x) => x)));
    expect(found[20]).toBeNaN();
    expect([found[15], found[32 * 16 + 20]]).toEqual([15, 20]);
  });
  test('a smaller copy in front of the picture is passed over; further pictures are said', async () => {
    const { info } = await open(writeTiff({ ...SHAPE, type: 'uint', bits: 8, previews: 2 }, (x) => x));
    expect(info.pages).toBeUndefined();
  });
});

describe('what can’t be read is refused by its name', () => {
  const plain = writeTiff({ ...SHAPE, type: 'uint', bits: 16, rowsPerStrip: 5 }, (x) => x);
  /** The file with the value of a tag replaced. */
  const withTag = (tag: number, value: number, file: Buffer = plain): Buffer => {
    const out = Buffer.from(file);
    const first = out.readUInt32LE(4);
    for (let i = 0; i < out.readUInt16LE(first); i++) {
      const at = first + 2 + i * 12;
      if (out.readUInt16LE(at) === tag) out.writeUInt32LE(value, at + 8);
    }
    return out;
  };
  const fault = async (bytes: Uint8Array): Promise<LevelGridError> => {
    try {
      await samplesOf(await open(bytes));
    } catch (reason) {
      return reason as LevelGridError;
    }
    throw new Error('it was read');
  };
  test.each([
    [259, 7, 'unsupported', 'JPEG'],
    [259, 50000, 'unsupported', 'Zstandard'],
    [259, 34887, 'unsupported', 'LERC'],
    [262, 3, 'unsupported', 'palette'],
    [258, 12, 'unsupported', '12 bits'],
    [317, 3, 'unsupported', 'predictor 3'],
    [256, 0, 'corrupt', '0 × 29'],
    [256, 70000, 'too-large', '70000'],
    [257, 60000, 'corrupt', 'places of 6 blocks'],
    [278, 0, 'corrupt', 'blocks of 37 × 0'],
  ])('tag %i as %i: %s, %s', async (tag, value, code, words) => {
    const error = await fault(withTag(tag, value));
    expect(error).toBeInstanceOf(LevelGridError);
    expect([error.code, error.file]).toEqual([code, 'ground.tif']);
    expect(error.message).toContain(words);
  });
  test('cut at any place it is refused, or gives what it should', async () => {
    const bytes = writeTiff(
      { ...SHAPE, type: 'uint', bits: 16, rowsPerStrip: 5, compression: 8, predictor: 2 },
      (x, y) => x * y,
    );
    for (let cut = 0; cut < bytes.length - 1; cut += 7) {
      const error = await fault(bytes.subarray(0, cut));
      expect(error).toBeInstanceOf(LevelGridError);
      expect(error.code).not.toBe('internal');
    }
  });
  test('a byte that was changed in packed samples is found by the checksum of its strip', async () => {
    const bytes = writeTiff(
      { ...SHAPE, type: 'uint', bits: 16, compression: 8 },
      (x, y) => (x * 7919 + y * 104729) % 65521,
    );
    const error = await fault(Buffer.from(bytes.map((b, i) => (i === 700 ? b ^ 1 : b))));
    expect(['checksum', 'corrupt']).toContain(error.code);
  });
});
