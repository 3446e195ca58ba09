import { collect, heightsOf, memoryRaster, resample, type OpenRaster, type RasterInfo } from '../raster';
import { degreesOf } from '../proof/twin/operations/reproject';
import { faultOf } from '../../../tests/helpers/rasters';
import { gridOf, projector, proposedSquares, squared, warped, zoneOf, type MetricVertices } from '.';

const SIDE = 241;
/** 47° south, a fifteenth of a degree each way, in the open sea. */
const place = { x: 80.2, y: -47.1, dx: 1 / 3600, dy: 1 / 3600, metres: null, degrees: true, crs: 'EPSG:4326' };
const info = (parts: Partial<RasterInfo> = {}): RasterInfo => ({
  format: 'hgt',
  width: SIDE,
  height: SIDE,
  channels: 1,
  bitDepth: 32,
  sampleType: 'float',
  byteOrder: null,
  unit: 'metre',
  georeference: place,
  warnings: [],
  ...parts,
});
/** A height for each place on the globe: what the raster holds there, and the squares must. */
const ground = (longitude: number, latitude: number): number =>
  900 + 400 * Math.sin((longitude - 80.2) * 130) * Math.cos((latitude + 47.1) * 160);
const raster = (voids: (x: number, y: number) => boolean = () => false): OpenRaster =>
  memoryRaster(
    info({ mayHoldVoids: true }),
    Float32Array.from({ length: SIDE * SIDE }, (_, i) => {
      const [x, y] = [i % SIDE, Math.floor(i / SIDE)];
      return voids(x, y) ? NaN : ground(place.x + x * place.dx, place.y - y * place.dy);
    }),
  );
async function samplesOf(of: OpenRaster): Promise<number[]> {
  const out: number[] = [];
  for await (const { data } of of.bands()) for (const v of data) out.push(Number(v));
  return out;
}

test('zones are 6 degrees wide, counted from 180° west', () => {
  expect(zoneOf(-180, 1)).toEqual({ zone: 1, south: false });
  expect(zoneOf(-0.001, 10)).toEqual({ zone: 30, south: false });
  expect(zoneOf(0, -10)).toEqual({ zone: 31, south: true });
  expect(zoneOf(80.5, -47)).toEqual({ zone: 44, south: true });
  expect(zoneOf(179.999, 0)).toEqual({ zone: 60, south: false });
});

test('degrees and metres: two ways of working it out agree to a hundredth of a millimetre', () => {
  let worst = 0;
  for (const [zone, south] of [
    [44, true],
    [44, false],
    [1, true],
    [60, false],
  ] as const) {
    const { forward, inverse } = projector({ zone, south });
    const middle = 6 * zone - 183;
    for (let dl = -3.5; dl <= 3.5; dl += 0.7)
      for (let lat = south ? -80 : 0.5; lat < (south ? -0.4 : 80); lat += 8.3) {
        const [east, north] = forward(middle + dl, lat);
        for (const [lon, phi] of [inverse(east, north), degreesOf(east, north, zone, south)])
          worst = Math.max(worst, Math.abs(((lon - middle - dl + 540) % 360) - 180), Math.abs(phi - lat));
      }
  }
  // 1e-10 degrees are 0.011 mm
  expect(worst).toBeLessThan(1e-10);
});

test('what is proposed: the zone of the middle, squares as fine as the finer of both ways', () => {
  // at 47.13° a second is 30.88 m north–south and 21.07 m east–west
  expect(proposedSquares(info())).toEqual({ zone: 44, south: true, spacing: 21.07 });
  expect(proposedSquares(info({ georeference: { ...place, degrees: false } }))).toBeNull();
  const { georeference: _, ...nowhere } = info();
  expect(proposedSquares(nowhere)).toBeNull();
});

describe.each([10, 25, 60])('squares of %d m', (spacing) => {
  const squares = { zone: 44, south: true, spacing };
  test('hold the height of their place; the full rectangle has no voids', async () => {
    const made = squared(raster(), squares);
    const { width, height, georeference } = made.info;
    const { inverse } = projector(squares);
    const samples = await samplesOf(made);
    expect(samples).toHaveLength(width * height);
    let worst = 0;
    samples.forEach((v, i) => {
      const [lon, lat] = inverse(
        georeference!.x + (i % width) * spacing,
        georeference!.y - Math.floor(i / width) * spacing,
      );
      worst = Math.max(worst, Number.isFinite(v) ? Math.abs(v - ground(lon, lat)) : Infinity);
    });
    // 800 m of hills, 173 samples long: cubic convolution is right to a few millimetres, at the rim to centimetres
    expect(worst).toBeLessThan(0.2);
  });
  test('all of the ground has empty corners, and holds the same heights', async () => {
    const all = squared(raster(), { ...squares, whole: true });
    const full = squared(raster(), squares);
    expect(all.info.width).toBeGreaterThan(full.info.width);
    const samples = await samplesOf(all);
    expect(samples.some((v) => Number.isNaN(v))).toBe(true);
    const dx = Math.round((full.info.georeference!.x - all.info.georeference!.x) / spacing);
    const dy = Math.round((all.info.georeference!.y - full.info.georeference!.y) / spacing);
    const inner = await samplesOf(full);
    let different = 0;
    inner.forEach((v, i) => {
      const [x, y] = [i % full.info.width, Math.floor(i / full.info.width)];
      // 14 m of height a sample: a few millimetres on the ground
      if (Math.abs(samples[(y + dy) * all.info.width + x + dx]! - v) > 0.01) different++;
    });
    expect(different).toBe(0);
  });
});

test('flat ground stays flat to the last bit', async () => {
  const flat = memoryRaster(
    info({ mayHoldVoids: true }),
    new Float32Array(SIDE * SIDE).map((_, i) => (i === SIDE * 120 + 5 ? NaN : 1380.7)),
  );
  for (const plain of [false, true]) {
    const heights = new Set(await samplesOf(squared(flat, { zone: 44, south: true, spacing: 20 }, plain)));
    expect([...heights].filter((h) => h === h)).toEqual([Math.fround(1380.7)]);
  }
});

test('voids stay voids and grow by no more than a sample', async () => {
  const made = squared(
    raster((x, y) => x >= 100 && x < 130 && y >= 60 && y < 90),
    { zone: 44, south: true, spacing: 21 },
  );
  const samples = await samplesOf(made);
  const voids = samples.filter((v) => Number.isNaN(v)).length;
  // 30 × 30 samples of 21.07 × 30.88 m in squares of 21 m: 30.1 × 44.1
  expect(voids).toBeGreaterThan(29 * 43);
  expect(voids).toBeLessThan(32 * 46);
});

test.each([
  [{ dx: 0.1, dy: 0.1 }, '24.0 × 24.0 degrees'],
  [{ degrees: false }, 'metres already'],
])('a raster that one zone can’t take is refused: %j', async (parts, found) => {
  const error = await faultOf(() =>
    gridOf(info({ georeference: { ...place, ...parts } }), { zone: 44, south: true, spacing: 20 }),
  );
  expect(error).toMatchObject({ code: 'mosaic' });
  expect(error.found).toContain(found);
});

test('the kernel and its plain twin give the same bits: voids, empty corners, lines that lie far aslant', async () => {
  // far from the middle of its zone a line of squares crosses many rows
  const aslant: OpenRaster = memoryRaster(
    info({
      width: 900,
      height: 500,
      mayHoldVoids: true,
      georeference: { ...place, x: 83.1, y: -70, dx: 3 / 3600, dy: 1 / 3600 },
    }),
    Float32Array.from({ length: 900 * 500 }, (_, i) =>
      i % 97 === 0 ? NaN : 800 + 90 * Math.sin((i % 900) / 13) * Math.cos(Math.floor(i / 900) / 17),
    ),
  );
  for (const source of [raster((x, y) => x > 100 && x < 130 && y < 90), aslant])
    // 4, 8, 12 and 16 squares from one projected place to the next
    for (const spacing of [100, 40, 29, 17] as const) {
      const squares = { ...proposedSquares(source.info)!, spacing, ...(spacing > 30 ? { whole: true as const } : {}) };
      const [fast, plain] = [
        await samplesOf(squared(source, squares)),
        await samplesOf(squared(source, squares, true)),
      ];
      expect(fast).toHaveLength(plain.length);
      expect(fast.findIndex((v, i) => !Object.is(v, plain[i]))).toBe(-1);
    }
});

test('against proj4 place by place and straight lines in double precision: the largest difference is stated', async () => {
  const source = raster();
  const squares = proposedSquares(source.info)!;
  const grid = gridOf(source.info, squares);
  const found = await samplesOf(squared(source, squares));
  const { inverse } = projector(squares);
  const stored: number[] = await samplesOf(source);
  let [worst, bend] = [0, 0];
  for (let y = 0; y < grid.height; y++)
    for (let x = 0; x < grid.width; x++) {
      const [longitude, latitude] = inverse(grid.east + x * squares.spacing, grid.north - y * squares.spacing);
      const [c, r] = [(longitude - place.x) / place.dx, (place.y - latitude) / place.dy];
      const [i, j] = [Math.min(SIDE - 2, Math.floor(c)), Math.min(SIDE - 2, Math.floor(r))];
      const at = (dx: number, dy: number): number => stored[(j + dy) * SIDE + i + dx]!;
      const [u, v] = [c - i, r - j];
      const straight = (at(0, 0) * (1 - u) + at(1, 0) * u) * (1 - v) + (at(0, 1) * (1 - u) + at(1, 1) * u) * v;
      worst = Math.max(worst, Math.abs(found[y * grid.width + x]! - straight));
    }
  // straight lines fall short of a bent ground by an eighth of its second difference each way
  for (let y = 1; y < SIDE - 1; y++)
    for (let x = 1; x < SIDE - 1; x++) {
      const at = (dx: number, dy: number): number => stored[(y + dy) * SIDE + x + dx]!;
      const second = (dx: number, dy: number): number => Math.abs(at(-dx, -dy) - 2 * at(0, 0) + at(dx, dy));
      bend = Math.max(bend, (second(1, 0) + second(0, 1)) / 8);
    }
  process.stdout.write(
    `largest difference ${worst.toFixed(4)} m, of which the curve of the ground explains ${bend.toFixed(4)} m\n`,
  );
  expect(worst).toBeLessThan(1.1 * bend);
  expect(worst).toBeGreaterThan(0);
});

describe('vertices sampled at once', () => {
  /** Ridges six samples apart: what is sampled twice loses of them. */
  const ridges = (longitude: number, latitude: number): number =>
    700 + 60 * Math.sin((longitude - 80.2) * 3600) * Math.cos((latitude + 47.1) * 3600 * 0.9);
  const rough = memoryRaster(
    info(),
    Float32Array.from({ length: SIDE * SIDE }, (_, i) =>
      ridges(place.x + (i % SIDE) * place.dx, place.y - Math.floor(i / SIDE) * place.dy),
    ),
  );
  const squares = { zone: 44, south: true, spacing: proposedSquares(info())!.spacing };
  const metric = gridOf(info(), squares);
  const [width, height] = [311, 401];
  const stepX = ((metric.width - 1) * squares.spacing) / (width - 1);
  const stepY = ((metric.height - 1) * squares.spacing) / (height - 1);
  const vertices: MetricVertices = {
    from: { width: SIDE, height: SIDE, georeference: place },
    zone: squares,
    width,
    height,
    origin: [metric.east, metric.north],
    across: [stepX, 0],
    down: [0, -stepY],
    covered: { west: 0, east: width - 1, north: 0, south: height - 1 },
  };
  const plain = { filter: 'catmull-rom', clamp: null, rim: NaN } as const;
  /** Root of the mean square by which vertices differ from the ground, away from the rim. */
  const off = (heights: Float32Array): number => {
    let [sum, count] = [0, 0];
    for (let y = 5; y < height - 5; y++)
      for (let x = 5; x < width - 5; x++) {
        const place = degreesOf(metric.east + x * stepX, metric.north - y * stepY, 44, true);
        sum += (heights[y * width + x]! - ridges(...place)) ** 2;
        count++;
      }
    return Math.sqrt(sum / count);
  };

  test('are nearer to the ground than squares that are sampled again', async () => {
    const once = await collect(warped(heightsOf(rough, 700), vertices, plain));
    const twice = await collect(
      resample(heightsOf(squared(rough, squares), 700), { ...plain, width, height, voids: false }),
    );
    for (const heights of [once, twice]) for (let i = 0; i < heights.length; i++) heights[i]! += 700;
    expect(off(once)).toBeLessThan(0.8 * off(twice));
    expect(off(once)).toBeLessThan(2);
  });

  test('beyond the metric ground are rim, and outside the raster voids', async () => {
    const wide: MetricVertices = {
      ...vertices,
      width: 9,
      height: 8,
      origin: [metric.east - 1e4, metric.north],
      across: [5e3, 0],
      down: [0, -500],
    };
    const covered = { west: 1, east: 6, north: 2, south: 7 };
    const heights = await collect(warped(heightsOf(rough, 0), { ...wide, covered }, { ...plain, rim: 12 }));
    const row = (y: number): number[] => [...heights.subarray(y * 9, y * 9 + 9)];
    expect(row(1)).toEqual(Array<number>(9).fill(12));
    expect(row(4).map((v) => (Number.isNaN(v) ? 'void' : v === 12 ? 'rim' : 'ground'))).toEqual([
      'rim',
      'void',
      'ground',
      'void',
      'void',
      'void',
      'void',
      'rim',
      'rim',
    ]);
  });
});
