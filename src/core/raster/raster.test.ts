import fc from 'fast-check';
import {
  collect,
  groundStatistics,
  heightStream,
  memoryRaster,
  overviewFits,
  place,
  Pyramid,
  resample,
  resampleWindow,
  sourceStatistics,
  statisticsWarnings,
  FILTERS,
  type Filter,
  type RasterInfo,
  type StoredSamples,
  GroundCollector,
  StatisticsCollector,
} from '.';

const info = (
  width: number,
  height: number,
  bitDepth = 16,
  sampleType: RasterInfo['sampleType'] = 'uint',
): RasterInfo => ({
  format: 'raw',
  width,
  height,
  channels: 1,
  bitDepth,
  sampleType,
  byteOrder: null,
  warnings: [],
});

/**
 * The slow, plain version: each output is one weighted mean over the whole source, both axes at once, in double
 * precision, with weights straight from the definitions.
 */
function slow(data: Float32Array, w: number, h: number, W: number, H: number, filter: Filter): number[] {
  const sinc = (x: number): number => (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x));
  const weight = (x: number, centre: number, s: number): number => {
    const d = Math.abs(x - centre) / s;
    switch (filter) {
      case 'nearest':
        return Math.floor(centre + 0.5) === x ? 1 : 0;
      case 'area':
        return Math.max(0, Math.min(x + 0.5, centre + s / 2) - Math.max(x - 0.5, centre - s / 2));
      case 'bilinear':
        return Math.max(0, 1 - d);
      case 'catmull-rom':
        return d < 1 ? 1.5 * d ** 3 - 2.5 * d ** 2 + 1 : d < 2 ? -0.5 * d ** 3 + 2.5 * d ** 2 - 4 * d + 2 : 0;
      case 'lanczos3':
        return d < 3 ? sinc(d) * sinc(d / 3) : 0;
    }
  };
  const out: number[] = [];
  const sx = Math.max(1, (w - 1) / (W - 1));
  const sy = Math.max(1, (h - 1) / (H - 1));
  for (let j = 0; j < H; j++) {
    for (let i = 0; i < W; i++) {
      let sum = 0;
      let total = 0;
      for (let y = 0; y < h; y++) {
        const wy = weight(y, (j * (h - 1)) / (H - 1), sy);
        if (wy === 0) continue;
        for (let x = 0; x < w; x++) {
          const value = data[y * w + x]!;
          if (Number.isNaN(value)) continue;
          const k = wy * weight(x, (i * (w - 1)) / (W - 1), sx);
          sum += k * value;
          total += k;
        }
      }
      out.push(sum / total);
    }
  }
  return out;
}

const field = (w: number, h: number): Float32Array =>
  Float32Array.from({ length: w * h }, (_, i) => 500 + 300 * Math.sin(i * 0.37) + ((i * 7919) % 101));

describe('resampling', () => {
  test.each(FILTERS)('%s equals the slow version, growing and shrinking, whatever the bands', async (filter) => {
    for (const [w, h, W, H] of [
      [17, 13, 9, 7],
      [9, 7, 17, 25],
      [12, 31, 30, 8],
      [5, 4, 2, 2],
      [40, 40, 3, 39],
    ] as const) {
      const data = field(w, h);
      const expected = slow(data, w, h, W, H, filter);
      for (const rows of [1, 3, h]) {
        const got = await collect(
          resample(heightStream(data, w, rows), { width: W, height: H, filter, clamp: null, voids: false }),
        );
        got.forEach((v, i) => expect(Math.abs(v - expected[i]!)).toBeLessThan(2e-3));
      }
    }
  });
  test.each(FILTERS)('%s keeps flat ground flat and the corners where they are', async (filter) => {
    const flat = await collect(
      resample(heightStream(new Float32Array(30 * 20).fill(77), 30), {
        width: 11,
        height: 50,
        filter,
        clamp: null,
        voids: false,
      }),
    );
    flat.forEach((v) => expect(v).toBeCloseTo(77, 4));
    const data = field(31, 31);
    const same = await collect(
      resample(heightStream(data, 31), { width: 61, height: 61, filter, clamp: null, voids: false }),
    );
    if (filter === 'area') return;
    for (const [a, b] of [
      [0, 0],
      [60, 30],
      [60 * 61, 30 * 31],
      [61 * 61 - 1, 31 * 31 - 1],
    ] as const)
      expect(same[a]).toBeCloseTo(data[b]!, 3);
  });
  test('a slope comes through as the same slope: position is registered at the vertices', async () => {
    const ramp = Float32Array.from({ length: 33 * 5 }, (_, i) => (i % 33) * 10);
    for (const filter of ['bilinear', 'catmull-rom', 'lanczos3'] as const) {
      const got = await collect(
        resample(heightStream(ramp, 33), { width: 65, height: 5, filter, clamp: null, voids: false }),
      );
      for (let i = 12; i < 53; i++) expect(got[2 * 65 + i]).toBeCloseTo(i * 5, filter === 'lanczos3' ? -1 : 3);
    }
  });
  test('overshoot is held where asked, and only then', async () => {
    const step = Float32Array.from({ length: 20 * 4 }, (_, i) => (i % 20 < 10 ? 0 : 100));
    const free = await collect(
      resample(heightStream(step, 20), { width: 39, height: 4, filter: 'lanczos3', clamp: null, voids: false }),
    );
    expect(Math.max(...free)).toBeGreaterThan(100);
    const held = await collect(
      resample(heightStream(step, 20), {
        width: 39,
        height: 4,
        filter: 'lanczos3',
        clamp: { low: 0, high: 100 },
        voids: false,
      }),
    );
    expect(Math.max(...held)).toBe(100);
    expect(Math.min(...held)).toBe(0);
  });
  test('voids are averaged around, in both directions at once', async () => {
    const data = field(20, 18);
    for (const at of [0, 47, 48, 67, 68, 210, 359]) data[at] = NaN;
    for (const filter of ['area', 'bilinear'] as const) {
      const expected = slow(data, 20, 18, 9, 8, filter);
      const got = await collect(
        resample(heightStream(data, 20, 4), { width: 9, height: 8, filter, clamp: null, voids: true }),
      );
      got.forEach((v, i) => {
        if (!Number.isNaN(v)) expect(Math.abs(v - expected[i]!)).toBeLessThan(2e-3);
      });
      expect([...got].filter((v) => Number.isNaN(v)).length).toBeLessThanOrEqual(2);
    }
  });
  test('a window is exactly that part of the whole', async () => {
    const data = field(50, 40);
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...FILTERS),
        fc.integer({ min: 2, max: 90 }),
        fc.integer({ min: 2, max: 70 }),
        fc.nat(),
        fc.nat(),
        async (filter, W, H, a, b) => {
          const x = a % W;
          const y = b % H;
          const area = { x, y, width: Math.min(7, W - x), height: Math.min(5, H - y) };
          const options = { width: W, height: H, filter, clamp: { low: 210, high: 880 }, voids: false };
          const whole = await collect(resample(heightStream(data, 50), options));
          const part = resampleWindow(
            { width: 50, height: 40, row: (r, from, to) => data.slice(r * 50 + from, r * 50 + to) },
            options,
            area,
          );
          for (let j = 0; j < area.height; j++)
            for (let i = 0; i < area.width; i++) expect(part[j * area.width + i]).toBe(whole[(y + j) * W + x + i]);
        },
      ),
      { numRuns: 60 },
    );
  });
});

test('cropping and padding move samples whole', async () => {
  const data = field(11, 9);
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 1, max: 25 }),
      fc.integer({ min: 1, max: 25 }),
      fc.integer({ min: -12, max: 12 }),
      fc.integer({ min: -12, max: 12 }),
      fc.integer({ min: 1, max: 9 }),
      async (width, height, column, row, rows) => {
        const got = await collect(place(heightStream(data, 11, rows), { width, height, column, row, rim: -5 }));
        for (let y = 0; y < height; y++) {
          for (let x = 0; x < width; x++) {
            const sx = x + column;
            const sy = y + row;
            const inside = sx >= 0 && sy >= 0 && sx < 11 && sy < 9;
            expect(got[y * width + x]).toBe(inside ? data[sy * 11 + sx] : -5);
          }
        }
      },
    ),
  );
});

describe('statistics', () => {
  test('are exact over all samples', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.uint16Array({ minLength: 4, maxLength: 300 }),
        fc.constantFrom(1, 3, 256),
        async (values, factor) => {
          const codes = Uint16Array.from(values, (v) => (v % 200) * factor);
          const s = await sourceStatistics(memoryRaster(info(codes.length, 1), codes));
          const set = [...new Set(codes)].sort((a, b) => a - b);
          expect(s).toMatchObject({
            min: set[0],
            max: set.at(-1),
            distinctCodes: set.length,
            samples: codes.length,
            voids: 0,
          });
          expect(s.mean).toBeCloseTo(codes.reduce((a, b) => a + b, 0) / codes.length, 9);
          let step = 0;
          for (const v of set) for (let a = v - set[0]!; a !== 0;) [step, a] = [a, step % a];
          expect(s.codeStep).toBe(step === 0 ? null : step);
        },
      ),
    );
  });
  test('32-bit whole numbers and floats count their different values', async () => {
    const ints = Int32Array.of(-2000000000, -1999999994, 1999999996, 8);
    const s = await sourceStatistics(memoryRaster(info(4, 1, 32, 'int'), ints));
    expect(s).toMatchObject({ min: -2000000000, max: 1999999996, distinctCodes: 4, codeStep: 2 });
    const floats = Float32Array.of(1.5, NaN, -0, 0, 2.25);
    expect(await sourceStatistics(memoryRaster(info(5, 1, 32, 'float'), floats))).toMatchObject({
      voids: 1,
      distinctCodes: 3,
      codeStep: null,
      mean: 0.9375,
    });
    const unsigned = Uint32Array.of(4294967295, 5, 4294967295);
    expect(await sourceStatistics(memoryRaster(info(3, 1, 32), unsigned))).toMatchObject({
      max: 4294967295,
      distinctCodes: 2,
      codeStep: 4294967290,
    });
  });
  test('8-bit content in 16 bits, constant ground and voids are told', async () => {
    const warn = async (data: Uint16Array | Float32Array, i: RasterInfo) =>
      statisticsWarnings(i, await sourceStatistics(memoryRaster(i, data))).map((w) => w.code);
    expect(
      await warn(
        Uint16Array.from({ length: 100 }, (_, i) => i * 257),
        info(100, 1),
      ),
    ).toEqual(['eight-bit-content']);
    expect(
      await warn(
        Uint16Array.from({ length: 8192 }, (_, i) => Math.round((i % 200) * 101.3)),
        info(8192, 1),
      ),
    ).toEqual(['eight-bit-content']);
    expect(
      await warn(
        Uint16Array.from({ length: 8192 }, (_, i) => 1000 + (i % 200)),
        info(8192, 1),
      ),
    ).toEqual([]);
    expect(await warn(new Uint16Array(50).fill(9), info(50, 1))).toEqual(['constant']);
    expect(await warn(Float32Array.of(1, NaN, 2), info(3, 1, 32, 'float'))).toEqual(['voids']);
  });
  test('of the ground name the first highest and lowest, corners and what lies outside', async () => {
    const data = Float32Array.of(5, 1, 9, 9, 1, 7, 3, 2, 8);
    const s = await groundStatistics(heightStream(data, 3, 2), { low: 1, high: 9 }, { low: 2, high: 8.5 });
    expect(s).toMatchObject({ min: 1, max: 9, mean: 5, voids: 0, outside: { below: 2, above: 2 } });
    const at = Object.fromEntries(s.spots.map((p) => [p.id, [p.x, p.y, p.value]]));
    expect(at).toEqual({
      highest: [2, 0, 9],
      lowest: [1, 0, 1],
      'north-west': [0, 0, 5],
      'north-east': [2, 0, 9],
      'south-west': [0, 2, 3],
      'south-east': [2, 2, 8],
      centre: [1, 1, 1],
    });
    expect(s.histogram.reduce((a, b) => a + b, 0)).toBe(9);
  });
});

test('overviews halve by means and keep odd borders', () => {
  const samples = new Uint16Array(600 * 600);
  samples.set([1, 3, 10], 0);
  samples.set([5, 7, 20], 600);
  const overviews = new Pyramid({ width: 600, height: 600, samples });
  overviews.grow(600);
  expect([...overviews.levels[1]!.samples.slice(0, 3)]).toEqual([4, 8, 0]);
  const odd = new Pyramid({ width: 257, height: 3, samples: Float32Array.from({ length: 771 }, (_, i) => i) });
  odd.grow(3);
  const [, half] = odd.levels;
  expect(half).toMatchObject({ width: 129, height: 2 });
  // the last column and the last row stand alone; both at the corner
  expect([half!.samples[0], half!.samples[128], half!.samples[129], half!.samples[257]]).toEqual([
    129, 384.5, 514.5, 770,
  ]);
  expect(
    new Pyramid({ width: 1000, height: 600, samples: new Uint16Array(600000) }).levels.map((l) => [l.width, l.height]),
  ).toEqual([
    [1000, 600],
    [500, 300],
    [250, 150],
  ]);
});

test('overviews that grow with the rows that are read end as those made at once', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 2, max: 900 }),
      fc.integer({ min: 2, max: 60 }),
      fc.array(fc.integer({ min: 0, max: 60 }), { maxLength: 8 }),
      (width, height, steps) => {
        const samples = Uint16Array.from({ length: width * height }, (_, i) => (i * 2654435761) >>> 16);
        const whole = new Pyramid({ width, height, samples });
        whole.grow(height);
        const arriving = new Uint16Array(width * height);
        const growing = new Pyramid({ width, height, samples: arriving });
        for (const rows of [...steps.sort((a, b) => a - b), height]) {
          const there = Math.min(rows, height) * width;
          arriving.set(samples.subarray(0, there));
          growing.grow(rows);
          // what is known is final
          growing.levels.forEach((level, l) => {
            const known = growing.known[l]! * level.width;
            expect(Buffer.compare(bytesOf(level.samples, known), bytesOf(whole.levels[l]!.samples, known))).toBe(0);
          });
        }
        expect(growing.known).toEqual(growing.levels.map((l) => l.height));
      },
    ),
    { numRuns: 60 },
  );
});

const bytesOf = (samples: StoredSamples, count: number): Uint8Array =>
  new Uint8Array(samples.buffer, samples.byteOffset, count * samples.BYTES_PER_ELEMENT);

test('a raster with a kept overview shows all of it before a row is read, and ends the same', () => {
  const [width, height] = [1300, 700];
  const samples = Uint16Array.from({ length: width * height }, (_, i) => (i * 2654435761) >>> 16);
  const whole = new Pyramid({ width, height, samples });
  whole.grow(height);
  const overview = whole.overview(400)!;
  expect([overview.level, overview.width, overview.height]).toEqual([2, 325, 175]);
  const info = { width, height, bitDepth: 16, sampleType: 'uint' } as const;
  expect(overviewFits(overview, info)).toBe(true);
  expect(overviewFits(overview, { ...info, width: width + 4 })).toBe(false);
  expect(overviewFits(overview, { ...info, sampleType: 'float', bitDepth: 32 })).toBe(false);
  // codes beside voids are held as floats
  expect(overviewFits(overview, { ...info, mayHoldVoids: true })).toBe(false);
  expect(
    overviewFits({ ...overview, samples: Float32Array.from(overview.samples) }, { ...info, mayHoldVoids: true }),
  ).toBe(true);
  expect(overviewFits({ ...overview, samples: overview.samples.subarray(1) }, info)).toBe(false);
  const empty = new Pyramid({ width, height, samples: new Uint16Array(width * height) }, overview);
  expect(empty.known).toEqual([0, 0, 175, 88]);
  expect(empty.levels[2]!.samples).toEqual(whole.levels[2]!.samples);
  expect(empty.levels[3]!.samples).toEqual(whole.levels[3]!.samples);
  // rows that come leave what is known alone
  empty.grow(350);
  expect(empty.known).toEqual([350, 175, 175, 88]);
  expect(empty.levels[3]!.samples).toEqual(whole.levels[3]!.samples);
  expect(whole.overview(5000)).toBeNull();
  // a copy: the pyramid keeps its own
  overview.samples.fill(0);
  expect(whole.levels[2]!.samples.some((v) => v > 0)).toBe(true);
});

test('of doubles without end only so many different values are told apart, and that is said', () => {
  const collector = new StatisticsCollector();
  for (let band = 0; band < 3; band++)
    collector.add({ data: Float64Array.from({ length: 1_500_000 }, (_, i) => band * 1_500_000 + i + 0.5) });
  expect(collector.result()).toMatchObject({ distinctCodes: 4_000_000, distinctMore: true, voids: 0 });
});

test('floats that are whole numbers have a step, others none', () => {
  const of = (values: number[]) => {
    const collector = new StatisticsCollector();
    collector.add({ data: Float32Array.from(values) });
    return collector.result();
  };
  expect(of([1310, 1313, 1322])).toMatchObject({ codeStep: null, wholeStep: 3 });
  expect(of([1310, 1313.5, 1322])).not.toHaveProperty('wholeStep');
});

test('the histogram counts each class where it lies, from the lowest to the highest', () => {
  const collector = new GroundCollector(256, 4, { low: 0, high: 255 }, null);
  // class c holds the heights from c·255/256 on: whole numbers fall into their own, four of each, a fifth of 100
  const data = Float32Array.from({ length: 1024 }, (_, i) => i % 256);
  data[900] = 100;
  collector.add({ y: 0, rows: 4, data });
  const { histogram } = collector.result();
  expect([histogram[0], histogram[99], histogram[100], histogram[101], histogram[900 % 256], histogram[255]]).toEqual([
    4, 4, 5, 4, 3, 4,
  ]);
});
