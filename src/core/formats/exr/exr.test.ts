import fc from 'fast-check';
import { FloatType } from 'three';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { halfBits, writeExr, type ExrShape, type ExrValue } from '../../../../tests/helpers/write-exr';
import { faultOf } from '../../../../tests/helpers/rasters';
import { endedBy, sharedSource } from '../../../../tests/helpers/shared-source';
import { LevelGridError, memorySource } from '../../base';
import type { OpenRaster } from '../../raster';
import { halfValues } from '../half';
import { openHeightFile } from '../registry';

const open = (bytes: Uint8Array): Promise<OpenRaster> => openHeightFile(memorySource('ground.exr', bytes));

async function samplesOf(raster: OpenRaster): Promise<number[]> {
  const out: number[] = [];
  for await (const { data } of raster.bands()) for (const v of data) out.push(Number(v));
  return out;
}

/** What another reader finds in the first channel, rows from the north. */
function others(bytes: Buffer): number[] {
  const loader = new EXRLoader();
  loader.setDataType(FloatType);
  const { data, width, height } = loader.parse(new Uint8Array(bytes).buffer) as {
    data: Float32Array;
    width: number;
    height: number;
  };
  const channels = data.length / (width * height);
  return Array.from(
    { length: width * height },
    (_, i) => data[((height - 1 - Math.floor(i / width)) * width + (i % width)) * channels] ?? NaN,
  );
}

/** A value of each kind that it can hold exactly. */
const asStored = (type: string, v: number): number =>
  type === 'half' ? (halfValues()[halfBits(v)] ?? NaN) : type === 'float' ? Math.fround(v) : Math.round(v);
const ground: ExrValue = (_, x, y) =>
  y % 7 === 6 ? 1500 : 1725 + 415 * Math.sin(x * 0.31) * Math.cos(y * 0.23) + x * 0.013;

const SHAPE = { width: 45, height: 71 };
const PACKINGS = ['none', 'RLE', 'ZIPS', 'ZIP', 'PIZ'] as const;

test('every half float has the value that its bits say', () => {
  const values = halfValues();
  // sign, exponent and fraction by hand
  for (const [bits, value] of [
    [0x3c00, 1],
    [0xc000, -2],
    [0x7bff, 65504],
    [0x0400, 2 ** -14],
    [0x0001, 2 ** -24],
    [0x03ff, (1023 / 1024) * 2 ** -14],
    [0x3555, 0.333251953125],
    [0x7c00, Infinity],
    [0xfc00, -Infinity],
  ] as const)
    expect(values[bits]).toBe(value);
  expect(values[0x7e00]).toBeNaN();
  expect(Object.is(values[0x8000], -0)).toBe(true);
});

describe.each(PACKINGS)('%s', (compression) => {
  test.each(['half', 'float', 'uint'] as const)('%s: scan lines and tiles, to the bit', async (type) => {
    const value: ExrValue = (c, x, y) => asStored(type, ground(c, x, y));
    const truth = Array.from({ length: SHAPE.width * SHAPE.height }, (_, i) =>
      value('Y', i % SHAPE.width, Math.floor(i / SHAPE.width)),
    );
    for (const tile of [undefined, [16, 32]] as const) {
      const shape = { ...SHAPE, channels: [{ name: 'Y', type }], compression, ...(tile ? { tile } : {}) } as const;
      const bytes = writeExr([[shape, value]]);
      const raster = await open(bytes);
      expect(raster.info).toMatchObject({
        format: 'exr',
        ...SHAPE,
        channels: 1,
        channel: 'Y',
        bitDepth: type === 'half' ? 16 : 32,
        sampleType: type === 'uint' ? 'uint' : 'float',
      });
      expect(await samplesOf(raster)).toEqual(truth);
      // the writer is held against another reader, where that reads such a file
      if (type !== 'uint' && !tile) expect(others(bytes)).toEqual(truth);
    }
  });

  test('two threads give the samples that one gives, and the same fault', async () => {
    for (const tile of [undefined, [16, 32]] as const) {
      const shape = { ...SHAPE, height: 90, channels: [{ name: 'Y', type: 'float' }], compression } as const;
      const bytes = writeExr([[{ ...shape, ...(tile ? { tile } : {}) }, ground]]);
      const source = sharedSource('ground.exr', bytes);
      expect(await samplesOf(await openHeightFile(source))).toEqual(await samplesOf(await open(bytes)));
      await endedBy(source);
      // six rows of tiles, or blocks of 1, 16 or 32 rows: of three nobody makes two parts
      const asked = compression === 'PIZ' && !tile ? 0 : 1;
      expect([source.asked, source.ended]).toEqual([asked, asked]);
      const cut = bytes.subarray(0, bytes.length - 40);
      const fault = await faultOf(async () => samplesOf(await openHeightFile(sharedSource('ground.exr', cut))));
      expect(fault.toRecord()).toEqual((await faultOf(async () => samplesOf(await open(cut)))).toRecord());
    }
  });

  test('sizes from 1 × 1 on, and values without any pattern', async () => {
    for (const [width, height] of [
      [1, 1],
      [1, 40],
      [33, 1],
      [2, 3],
      [64, 33],
    ] as const) {
      const value: ExrValue = (_, x, y) => Math.fround(((x * 2654435761 + y * 40503) % 65521) / 7);
      const shape: ExrShape = { width, height, channels: [{ name: 'Z', type: 'float' }], compression };
      const raster = await open(writeExr([[shape, value]]));
      expect(await samplesOf(raster)).toEqual(
        Array.from({ length: width * height }, (_, i) => value('Z', i % width, Math.floor(i / width))),
      );
    }
  });
});

test('the channel that holds heights is found by its name; the others are said', async () => {
  for (const [names, chosen] of [
    [['A', 'B', 'G', 'R'], 'R'],
    [['A', 'Y'], 'Y'],
    [['B', 'G', 'R', 'Z'], 'Z'],
    [['terrain.elevation', 'terrain.mask'], 'terrain.elevation'],
    [['ground'], 'ground'],
    [['A'], 'A'],
  ] as const) {
    const value: ExrValue = (c, x, y) => names.indexOf(c as never) * 1000 + x + y;
    const shape: ExrShape = {
      width: 20,
      height: 18,
      channels: names.map((name, i) => ({ name, type: i % 2 ? 'half' : 'float' }) as const),
      compression: 'ZIP',
    };
    const raster = await open(writeExr([[shape, value]]));
    expect(raster.info.channel).toBe(chosen);
    expect((await samplesOf(raster))[21]).toBe(value(chosen, 1, 1));
    expect(raster.info.warnings.some((w) => w.code === 'colour')).toBe(names.length > 1);
  }
});

test('a data window off the origin keeps every sample, and is said', async () => {
  const shape: ExrShape = {
    width: 30,
    height: 20,
    channels: [{ name: 'Y', type: 'float' }],
    compression: 'ZIP',
    at: [-7, 12],
    display: [0, 0, 63, 63],
  };
  const raster = await open(writeExr([[shape, (_, x, y) => x * 100 + y]]));
  const found = await samplesOf(raster);
  expect([found[0], found[29], found[19 * 30]]).toEqual([-688, 2212, -669]);
  expect(raster.info.warnings[0]?.message).toContain('columns -7 to 22 and rows 12 to 31 of a frame of 64 × 64');
});

test('of several pictures the first that can be read is read', async () => {
  const shape = (name: string): ExrShape => ({
    width: 12,
    height: 40,
    channels: [{ name: 'height', type: 'float' }],
    compression: 'ZIP',
    name,
  });
  const bytes = writeExr([
    [shape('near'), (_, x, y) => x + y],
    [shape('far'), (_, x, y) => 1000 + x + y],
  ]);
  const raster = await open(bytes);
  expect(raster.info.pages).toBe(2);
  expect((await samplesOf(raster))[13]).toBe(2);
  // a part that loses heights is passed over
  const lossy = Buffer.from(bytes);
  lossy[lossy.indexOf('compression\0compression\0', 0, 'latin1') + 28] = 8;
  const other = await open(lossy);
  expect((await samplesOf(other))[13]).toBe(1002);
});

test('a channel with fewer samples beside the heights does not displace them', async () => {
  const shape: ExrShape = {
    width: 16,
    height: 12,
    channels: [
      { name: 'RY', type: 'half', every: 2 },
      { name: 'Y', type: 'float' },
    ],
    compression: 'ZIPS',
  };
  const raster = await open(writeExr([[shape, (c, x, y) => (c === 'Y' ? x * 10 + y : 7)]]));
  expect((await samplesOf(raster)).slice(16, 20)).toEqual([1, 11, 21, 31]);
});

describe('bad files', () => {
  const shape: ExrShape = { ...SHAPE, channels: [{ name: 'Y', type: 'float' }], compression: 'ZIP' };
  const plain = writeExr([[shape, ground]]);
  const fault = async (bytes: Uint8Array): Promise<LevelGridError | null> => {
    try {
      await samplesOf(await open(bytes));
      return null;
    } catch (reason) {
      return reason as LevelGridError;
    }
  };
  test('packings that lose heights are refused by their name', async () => {
    const at = plain.indexOf('compression\0compression\0', 0, 'latin1') + 28;
    for (const [number, name] of [
      [5, 'PXR24'],
      [6, 'B44'],
      [8, 'DWAA'],
    ] as const) {
      const bytes = Buffer.from(plain);
      bytes[at] = number;
      const error = await fault(bytes);
      expect([error?.code, error?.file]).toEqual(['unsupported', 'ground.exr']);
      expect(error?.message).toContain(`packed with ${name}, which loses heights`);
    }
  });
  test('cut anywhere, it is refused', async () => {
    for (let cut = 4; cut < plain.length; cut += 97) {
      const error = await fault(plain.subarray(0, cut));
      expect(error).toBeInstanceOf(LevelGridError);
      expect(['truncated', 'corrupt']).toContain(error?.code);
    }
  });
  test('any byte changed: a fault of ours or a picture of the size that it says, in every packing', async () => {
    for (const compression of PACKINGS) {
      const bytes = writeExr([
        [{ width: 20, height: 34, channels: [{ name: 'Y', type: 'half' }], compression }, ground],
      ]);
      await fc.assert(
        fc.asyncProperty(fc.nat(bytes.length - 1), fc.integer({ min: 1, max: 255 }), async (at, change) => {
          const bad = Buffer.from(bytes);
          bad[at] = (bad[at] ?? 0) ^ change;
          try {
            const raster = await open(bad);
            const { width, height } = raster.info;
            if (width * height > 1e6) return;
            expect(await samplesOf(raster)).toHaveLength(width * height);
          } catch (reason) {
            if (!(reason instanceof LevelGridError)) throw reason;
            expect(reason.code).not.toBe('internal');
          }
        }),
        { numRuns: 250 },
      );
    }
  });
});

test('colours that are multiplied by an alpha channel are told; other channels are not', async () => {
  const warned = async (heights: string, alpha: string): Promise<boolean> => {
    const channels = [
      { name: alpha, type: 'half' as const },
      { name: heights, type: 'float' as const },
    ];
    const { info } = await open(writeExr([[{ width: 3, height: 2, channels, compression: 'none' }, () => 1]]));
    return info.warnings.some((w) => w.code === 'alpha');
  };
  expect(await warned('Y', 'A')).toBe(true);
  expect(await warned('left.R', 'left.A')).toBe(true);
  expect(await warned('Z', 'A')).toBe(false);
  expect(await warned('right.R', 'left.A')).toBe(false);
});
