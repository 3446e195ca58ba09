/** Steps that mend the ground before it is fitted: what they do to samples, against definitions and plain ways of finding it. */
import { planChain } from '@/core/chain';
import { squaredDistances } from '@/core/operations/sea/distance';
import { plan } from '@/core/plan';
import { after, floats, METRES, SPACING } from '../helpers/mended';
import { memoryRaster } from '@/core/raster';
import { openEntering } from '@/core/chain';
import { samplesOf } from '../helpers/entering';
import { faultOf, recipeWith } from '../helpers/rasters';

/** Where some ground is missing: round, at a corner, a single sample, two that touch at their corners alone. */
const [W, H] = [61, 47];
const missing = (x: number, y: number): boolean =>
  (x - 30) ** 2 + (y - 22) ** 2 < 90 ||
  (x < 7 && y < 5) ||
  (x === 55 && y === 40) ||
  (x === 50 && y === 8) ||
  (x === 51 && y === 9);
const holed = (of: (x: number, y: number) => number) => (x: number, y: number) => (missing(x, y) ? NaN : of(x, y));

describe('voids', () => {
  test('a membrane is exact on a plane inside the ground, and on a harmonic function up to what a grid can say of it', async () => {
    const plane = (x: number, y: number): number => 812.5 + 3.25 * x - 1.75 * y;
    const flat = await after([{ op: 'fill-voids', method: 'membrane' }], W, holed(plane), H);
    // at the border of the raster nothing holds it: there only what lies inside is compared
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++)
        if (!(x < 7 && y < 5)) expect(Math.abs(flat.at(x, y) - plane(x, y))).toBeLessThan(1e-7);
    // of second order in both directions: Laplace's equation holds for the differences as well
    const saddle = (x: number, y: number): number => 900 + 0.4 * ((x - 20) ** 2 - (y - 11) ** 2) + 0.7 * x * y;
    const curved = await after([{ op: 'fill-voids', method: 'membrane' }], W, holed(saddle), H);
    for (let y = 5; y < H; y++) for (let x = 7; x < W; x++) expect(curved.at(x, y)).toBeCloseTo(saddle(x, y), 6);
    // the corner lies within what surrounds it
    const around = [...Array(7).keys()].map((x) => saddle(x, 5)).concat([...Array(5).keys()].map((y) => saddle(7, y)));
    for (let y = 0; y < 5; y++)
      for (let x = 0; x < 7; x++) {
        expect(curved.at(x, y)).toBeGreaterThan(Math.min(...around));
        expect(curved.at(x, y)).toBeLessThan(Math.max(...around));
      }
  });

  const rough = (x: number, y: number): number => 500 + 40 * Math.sin(x * 1.3 + y) + 7 * y;
  test('by distance, each sample weighs the border of its own void by the inverse square', async () => {
    const { at } = await after([{ op: 'fill-voids', method: 'distance' }], W, holed(rough), H);
    // one sample alone: its four neighbours, all as far away
    expect(at(55, 40)).toBeCloseTo((rough(54, 40) + rough(56, 40) + rough(55, 39) + rough(55, 41)) / 4, 9);
    // two that touch at corners are two voids; each borders on the other's neighbours no more than on its own
    expect(at(50, 8)).toBeCloseTo((rough(49, 8) + rough(51, 8) + rough(50, 7) + rough(50, 9)) / 4, 9);
    let [sum, weight] = [0, 0];
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++) {
        const round = (a: number, b: number): boolean => (a - 30) ** 2 + (b - 22) ** 2 < 90;
        if (round(x, y) || !(round(x - 1, y) || round(x + 1, y) || round(x, y - 1) || round(x, y + 1))) continue;
        const w = 1 / ((x - 27) ** 2 + (y - 24) ** 2);
        sum += w * rough(x, y);
        weight += w;
      }
    expect(at(27, 24)).toBeCloseTo(sum / weight, 9);
  });
  test('by the lowest sample beside each, and by an elevation', async () => {
    const lowest = await after([{ op: 'fill-voids', method: 'lowest' }], W, holed(rough), H);
    expect(lowest.at(55, 40)).toBe(Math.min(rough(54, 40), rough(56, 40), rough(55, 39), rough(55, 41)));
    expect(new Set([lowest.at(30, 22), lowest.at(25, 20), lowest.at(33, 27)]).size).toBe(1);
    const even = await after([{ op: 'fill-voids', method: 'elevation', elevation: 321 }], W, holed(rough), H);
    expect([even.at(0, 0), even.at(30, 22), even.at(50, 8), even.at(10, 40)]).toEqual([321, 321, 321, rough(10, 40)]);
  });
  test('ground that is void everywhere is refused in a sentence', async () => {
    const fault = await faultOf(() => after([{ op: 'fill-voids', method: 'membrane' }], 9, () => NaN, 7));
    expect(fault).toMatchObject({ code: 'voids', found: 'ground without a single height' });
  });
});

test('only what sticks out of its 3 × 3 becomes its median', async () => {
  const ground = (x: number, y: number): number => 100 + x + 2 * y;
  const spikes = new Map([
    ['10 10', 90],
    ['0 0', -60],
    ['20 5', 4],
  ]);
  const { at, found } = await after(
    [{ op: 'despike', threshold: 5 }],
    33,
    (x, y) => (x === 25 && y === 20 ? NaN : ground(x, y) + (spikes.get(`${x} ${y}`) ?? 0)),
    29,
  );
  // of the nine about a spike the middle is the one of the others that stands in its place, or next to it
  const median = (x: number, y: number): number => {
    const list: number[] = [];
    for (let v = y - 1; v <= y + 1; v++)
      for (let u = x - 1; u <= x + 1; u++)
        if (u >= 0 && v >= 0) list.push(ground(u, v) + (spikes.get(`${u} ${v}`) ?? 0));
    list.sort((a, b) => a - b);
    const half = list.length >> 1;
    return list.length % 2 === 1 ? list[half]! : (list[half - 1]! + list[half]!) / 2;
  };
  expect(at(10, 10)).toBe(median(10, 10));
  expect(at(0, 0)).toBe(median(0, 0));
  // below the threshold, and the void: as they were
  expect(at(20, 5)).toBe(ground(20, 5) + 4);
  expect(at(25, 20)).toBeNaN();
  expect(found.filter((v, i) => v === v && v !== ground(i % 33, Math.floor(i / 33)))).toHaveLength(3);
});

test('smoothing is a Gaussian over what is there: a plane stays inside, a peak spreads, voids stay and pull at nothing', async () => {
  const step = { op: 'smooth', radius: 2 * SPACING, strength: 1 };
  const plane = await after([step], 41, (x, y) => 300 + 2 * x - y, 37);
  expect(plane.at(20, 18)).toBeCloseTo(300 + 40 - 18, 9);
  const peak = await after([step], 41, (x, y) => (x === 20 && y === 18 ? 1000 : 0), 37);
  let all = 0;
  for (let d = -8; d <= 8; d++) all += Math.exp(-(d * d) / 8);
  for (const [dx, dy] of [
    [0, 0],
    [3, 0],
    [0, -2],
    [-4, 5],
    [8, 8],
  ] as const)
    expect(peak.at(20 + dx, 18 + dy)).toBeCloseTo((1000 * Math.exp(-(dx * dx + dy * dy) / 8)) / all ** 2, 9);
  expect(peak.at(29, 18)).toBe(0);
  const half = await after([{ ...step, strength: 0.5 }], 41, (x, y) => (x === 20 && y === 18 ? 1000 : 0), 37);
  expect(half.at(20, 18)).toBeCloseTo(500 + peak.at(20, 18) / 2, 9);
  const even = await after([step], 41, (x, y) => (x > 15 && y < 9 ? NaN : 77), 37);
  expect(even.at(20, 4)).toBeNaN();
  expect(Math.max(...even.found.filter((v) => v === v).map((v) => Math.abs(v - 77)))).toBeLessThan(1e-9);
});

test('levels: straight lines between points, a slope of 1 beyond; a range: ends, base and factor in this order', async () => {
  const rise = (x: number): number => 10 * x;
  const levels = await after(
    [
      {
        op: 'levels',
        points: [
          [100, 150],
          [200, 170],
          [300, 310],
        ],
      },
    ],
    41,
    rise,
    2,
  );
  for (const [x, height] of [
    [0, 50],
    [10, 150],
    [15, 160],
    [20, 170],
    [25, 240],
    [30, 310],
    [40, 410],
  ] as const)
    expect(levels.at(x, 1)).toBeCloseTo(height, 9);
  const range = await after([{ op: 'range', low: 50, high: 350, base: 30, factor: 2 }], 41, rise, 2);
  expect([0, 5, 20, 35, 40].map((x) => range.at(x, 0))).toEqual([40, 40, 340, 640, 640]);
});

describe('water', () => {
  /** A sea in the west, a lake at 30, 12, an island in the sea, and a summit that is as high as the sea was stored. */
  const ground = (x: number, y: number): number => {
    if ((x - 6) ** 2 + (y - 20) ** 2 < 5) return 20;
    if (x < 12 + 3 * Math.sin(y / 4)) return 0;
    if ((x - 30) ** 2 + (y - 12) ** 2 < 16) return 0;
    return 5 + x;
  };
  const counts = ({ found }: { found: number[] }, value: number): number => found.filter((v) => v === value).length;
  const water = (of: (x: number, y: number) => boolean): number => {
    let n = 0;
    for (let y = 0; y < 40; y++) for (let x = 0; x < 50; x++) if (ground(x, y) === 0 && of(x, y)) n++;
    return n;
  };
  const step = (over: object) => [{ op: 'sea', level: 0, tolerance: 0.1, become: -7, ...over }];
  test('everywhere, with the border, and at a spot', async () => {
    expect(counts(await after(step({ select: 'all' }), 50, ground, 40), -7)).toBe(water(() => true));
    const sea = await after(step({ select: 'border' }), 50, ground, 40);
    expect(counts(sea, -7)).toBe(water((x) => x < 20));
    expect([sea.at(6, 20), sea.at(30, 12)]).toEqual([20, 0]);
    const lake = await after(step({ select: { spot: [30 * SPACING, 12 * SPACING] } }), 50, ground, 40);
    expect(counts(lake, -7)).toBe(water((x) => x > 20));
    const outside = await faultOf(() => after(step({ select: { spot: [130, 0] } }), 50, ground, 40));
    expect(outside).toMatchObject({ code: 'crop-outside', found: expect.stringContaining('130 m east') });
  });
  test('a maze: only what can be reached by sides is taken, against a walk from each place', async () => {
    let state = 7;
    const random = (): number => (state = (Math.imul(state, 1103515245) + 12345) >>> 1) / 2 ** 31;
    const [w, h] = [37, 31];
    const walls = Array.from({ length: w * h }, () => random() < 0.42);
    const { found } = await after(step({ select: 'border' }), w, (x, y) => (walls[y * w + x] ? 50 : 0), h);
    // sweeps over all places until no further one is reached
    const reached = walls.map((wall, i) => {
      const [x, y] = [i % w, Math.floor(i / w)];
      return !wall && (x === 0 || y === 0 || x === w - 1 || y === h - 1);
    });
    for (let change = true; change;) {
      change = false;
      for (let i = 0; i < w * h; i++) {
        if (walls[i] || reached[i]) continue;
        const x = i % w;
        if ((x > 0 && reached[i - 1]) || (x < w - 1 && reached[i + 1]) || reached[i - w] || reached[i + w])
          reached[i] = change = true;
      }
    }
    expect(found.map((v) => v === -7)).toEqual(reached);
  });
  test('a bed falls from the shore by its slope, by the exact distance, down to its depth', async () => {
    const { at } = await after(step({ select: 'border', become: { slope: 0.2, depth: 3 } }), 50, ground, 40);
    for (let y = 0; y < 40; y++)
      for (let x = 0; x < 20; x++) {
        if (ground(x, y) !== 0) continue;
        let nearest = Infinity;
        for (let v = 0; v < 40; v++)
          for (let u = 0; u < 50; u++)
            if (ground(u, v) !== 0 || u > 20) nearest = Math.min(nearest, Math.hypot(u - x, v - y));
        expect(at(x, y)).toBeCloseTo(-Math.min(3, 0.2 * SPACING * nearest), 6);
      }
  });
  test('steep ground is left out, and a sea without a shore is refused where it should get a bed', async () => {
    const slope = (x: number): number => (x < 20 ? -3 : -3 - 2 * (x - 19));
    const flat = await after([{ op: 'sea', level: 0, select: 'all', maxSlope: 0.01, become: 9 }], 40, slope, 12);
    expect([flat.at(3, 3), flat.at(18, 3), flat.at(25, 3)]).toEqual([9, 9, slope(25)]);
    const all = { op: 'sea', level: 10, select: 'all', become: { slope: 0.1, depth: 3 } };
    expect(await faultOf(() => after([all], 8, () => 0, 8))).toMatchObject({ found: 'a sea that is everything' });
  });
  test('distances are those of brute force', () => {
    let state = 3;
    const random = (): number => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
    for (const [w, h, share] of [
      [1, 1, 1],
      [1, 17, 0.2],
      [23, 1, 0.1],
      [31, 22, 0.01],
      [29, 35, 0.3],
      [6, 5, 0],
    ] as const) {
      const marks = Uint8Array.from({ length: w * h }, () => Number(random() < share));
      const found = squaredDistances(marks, w, h);
      for (let i = 0; i < w * h; i++) {
        let least = Infinity;
        for (let j = 0; j < w * h; j++)
          if (marks[j])
            least = Math.min(least, ((i % w) - (j % w)) ** 2 + (Math.floor(i / w) - Math.floor(j / w)) ** 2);
        expect(found[i]).toBe(least);
      }
    }
  });
});

describe('what is drawn', () => {
  const valley = (x: number, y: number): number => 400 + Math.abs(y - 20) * 4 - x * 0.5;
  test('a bed along a line: flat across its width, back to the ground over its banks, never uphill', async () => {
    const bump = (x: number, y: number): number => valley(x, y) + (x > 20 && x < 26 ? 30 : 0);
    const line = [
      [5, 50],
      [95, 50],
    ];
    const step = { op: 'river', line, mode: 'deepen', depth: 6, width: 10, banks: 5 };
    const { at } = await after([step], 45, bump, 41);
    // half the width is two samples, the banks two more
    let lowest = Infinity;
    for (let x = 2; x <= 38; x++) {
      lowest = Math.min(lowest, bump(x, 20) - 6);
      expect(at(x, 20)).toBeCloseTo(lowest, 9);
      for (const dy of [-2, -1, 1, 2]) expect(at(x, 20 + dy)).toBeCloseTo(Math.min(bump(x, 20 + dy), lowest), 9);
      const half = lowest + (bump(x, 23) - lowest) / 2;
      expect(at(x, 23)).toBeCloseTo(half, 9);
      expect(at(x, 24)).toBe(bump(x, 24));
    }
    // at its ends it is round, and ends there
    expect([at(0, 20), at(40, 20), at(43, 20)]).toEqual([
      expect.closeTo(bump(2, 20) - 6, 9),
      expect.closeTo(Math.min(lowest, bump(40, 20)), 9),
      bump(43, 20),
    ]);
    const through = await after([{ ...step, throughBorder: true, uphill: true }], 45, bump, 41);
    for (const x of [0, 10, 23, 44]) expect(through.at(x, 20)).toBeCloseTo(bump(x, 20) - 6, 9);
    // a line beside the valley finds its floor
    const beside = await after([{ ...step, line: line.map(([e]) => [e, 58]), snap: true }], 45, valley, 41);
    expect(beside.at(20, 20)).toBeCloseTo(valley(20, 20) - 6, 9);
    const dam = await after([{ ...step, mode: 'raise', depth: 3 }], 45, valley, 41);
    expect(dam.at(30, 20)).toBeCloseTo(valley(2, 20) + 3, 9);
    const away = await faultOf(() => after([{ ...step, line: [...line, [130, 50]] }], 45, valley, 41));
    expect(away).toMatchObject({ code: 'crop-outside', found: expect.stringContaining('130 m east') });
  });
  test('a river keeps its depth within 5 % on another grid, where its bed is three vertices wide', async () => {
    // 61 samples of 2.5 m; the same river on ground twice as fine
    const ground = (e: number, s: number): number => 300 + 20 * Math.sin(e / 60) + 0.05 * (s - 75) ** 2;
    const step = {
      op: 'river',
      line: [
        [10, 75],
        [140, 75],
      ],
      mode: 'deepen',
      depth: 4,
      width: 10,
      banks: 6,
      uphill: true,
    };
    for (const [spacing, n] of [
      [2.5, 61],
      [1.25, 121],
    ] as const) {
      const recipe = recipeWith({
        source: { ...METRES, spacing },
        steps: [step],
        fit: { size: 22 },
        target: 'odd-grid',
      });
      const info = floats(n, n);
      const data = Float64Array.from({ length: n * n }, (_, i) =>
        ground((i % n) * spacing, Math.floor(i / n) * spacing),
      );
      const found = await samplesOf(openEntering(memoryRaster(info, data), planChain(recipe, info)).shown);
      const row = 75 / spacing;
      for (const e of [20, 50, 75, 100, 130]) {
        const depth = ground(e, 75) - found[row * n + e / spacing]!;
        expect(Math.abs(depth - 4)).toBeLessThan(0.2);
      }
    }
  });
  test('a flat lake sinks from its shore over its banks', async () => {
    const basin = (x: number, y: number): number => (Math.hypot(x - 20, y - 15) < 9 ? 250 : 260 + x);
    const { at } = await after([{ op: 'lake', spot: [50, 37.5], depth: 8, banks: 10 }], 41, basin, 31);
    // four samples of 2.5 m to the shore and more: all of the depth
    expect(at(20, 15)).toBeCloseTo(242, 9);
    expect(at(12, 15)).toBeCloseTo(250 - 8 / 4, 6);
    expect(at(28, 15)).toBeCloseTo(250 - 8 / 4, 6);
    expect(at(33, 15)).toBe(basin(33, 15));
  });
  test('an area levelled, raised and smoothed, with a soft border', async () => {
    const rough = (x: number, y: number): number => 100 + 3 * ((x * 7 + y * 13) % 5);
    const ring = [
      [25, 25],
      [76, 25],
      [76, 61],
      [25, 61],
    ];
    const of = (over: object) =>
      after([{ op: 'area', ring, mode: 'level', by: 90, border: 0, ...over }], 41, rough, 31);
    const level = await of({});
    const raised = await of({ mode: 'raise', by: -7, border: 10 });
    const smooth = await of({ mode: 'smooth', by: 5 });
    const everywhere = await after([{ op: 'smooth', radius: 5, strength: 1 }], 41, rough, 31);
    for (let y = 0; y < 31; y++)
      for (let x = 0; x < 41; x++) {
        const [e, s] = [x * SPACING, y * SPACING];
        if (e < 25 || s < 25 || e > 76 || s > 61) {
          for (const found of [level, raised, smooth]) expect(found.at(x, y)).toBe(rough(x, y));
          continue;
        }
        const away = Math.min(e - 25, 76 - e, s - 25, 61 - s);
        expect(level.at(x, y)).toBe(90);
        expect(raised.at(x, y)).toBeCloseTo(rough(x, y) - 7 * Math.min(1, away / 10), 9);
        expect(smooth.at(x, y)).toBeCloseTo(everywhere.at(x, y), 9);
      }
  });
});

describe('frame', () => {
  const numbered = (x: number, y: number): number => 1000 * y + x;
  const georeference = { x: 500, y: 9000, dx: SPACING, dy: SPACING, metres: 1, degrees: false, crs: null };
  test('a crop keeps samples, their type and where they lie; beyond the ground it is refused', async () => {
    const step = { op: 'crop', at: [10, 4.9], size: [50, 32.4] };
    const { info, at } = await after([step], 40, numbered, 30, { georeference });
    expect([info.width, info.height]).toEqual([21, 14]);
    expect([at(0, 0), at(20, 13)]).toEqual([numbered(4, 2), numbered(24, 15)]);
    expect(info.georeference).toMatchObject({ x: 510, y: 8995 });
    const wide = await faultOf(() => after([{ ...step, size: [90, 32] }], 40, numbered, 30));
    expect(wide).toMatchObject({ code: 'crop-outside', expected: expect.stringContaining('97.5 m × 72.5 m') });
  });
  test('padding with an elevation, the edge, or mirrored ground', async () => {
    const by = { north: 5, east: 10, south: 0, west: 7.5 };
    const at = { x: (x: number) => x - 3, y: (y: number) => y - 2 };
    const sides = await after([{ op: 'pad', by, with: 42 }], 5, numbered, 4, { georeference });
    expect([sides.info.width, sides.info.height]).toEqual([12, 6]);
    expect(sides.info.georeference).toMatchObject({ x: 492.5, y: 9005 });
    const edge = await after([{ op: 'pad', by, with: 'edge' }], 5, numbered, 4);
    const mirror = await after([{ op: 'pad', by, with: 'mirror' }], 5, numbered, 4);
    const held = (v: number, n: number): number => Math.min(n - 1, Math.max(0, v));
    const folded = (v: number, n: number): number => (v < 0 ? -v : v >= n ? 2 * (n - 1) - v : v);
    for (let y = 0; y < 6; y++)
      for (let x = 0; x < 12; x++) {
        const [u, v] = [at.x(x), at.y(y)];
        const inside = u >= 0 && u < 5 && v >= 0;
        expect(sides.at(x, y)).toBe(inside ? numbered(u, v) : 42);
        expect(edge.at(x, y)).toBe(numbered(held(u, 5), held(v, 4)));
        expect(mirror.at(x, y)).toBe(numbered(folded(u, 5), folded(v, 4)));
      }
  });
  test('what is done to heights stays on its ground when that is turned', async () => {
    const mend = [
      { op: 'crop', at: [10, 5], size: [50, 40] },
      { op: 'sea', level: 20000, select: { spot: [5, 30] }, become: -4 },
    ];
    const turn = { op: 'turn', quarters: 1 };
    const before = await after([turn, ...mend], 40, numbered, 30);
    const behind = await after([...mend, turn], 40, numbered, 30);
    expect(before.found).toEqual(behind.found);
    expect(before.found).toContain(-4);
  });
});

test('an infinite sample is a void to every step: it is filled, and pulls at nothing', async () => {
  const ground = (x: number, y: number): number =>
    x === 9 && y === 7 ? Infinity : x === 3 && y === 2 ? -Infinity : 50 + x;
  const filled = await after([{ op: 'fill-voids', method: 'membrane' }], 20, ground, 15);
  expect([filled.at(9, 7), filled.at(3, 2)]).toEqual([expect.closeTo(59, 7), expect.closeTo(53, 7)]);
  const step = { op: 'sea', level: 52, select: 'all', become: { slope: 0.1, depth: 5 } };
  const sea = await after([step], 20, ground, 15);
  expect(sea.at(3, 2)).toBeNaN();
  const smooth = await after([{ op: 'smooth', radius: 3, strength: 1 }], 20, ground, 15);
  expect(smooth.at(9, 7)).toBeNaN();
  expect(Math.abs(smooth.at(10, 7) - 60)).toBeLessThan(1);
});

test('where choices begin is said in true metres, whatever the world is shrunk to', () => {
  const info = floats(40, 30);
  const stats = { ...NOTHING_COUNTED, min: 120, max: 480 };
  const recipe = recipeWith({ source: METRES, fit: { size: 22, worldScale: 0.25 }, height: { exaggeration: 3 } });
  expect(plan(recipe, { file: 'fells.raw', info, warnings: [], stats }, null).work.trueEnds).toEqual({
    low: 120,
    high: 480,
  });
});
const NOTHING_COUNTED = { samples: 1200, voids: 0, mean: 300, distinctCodes: 900, codeStep: null };

test('steps that work with heights stand where they can', async () => {
  const degrees = { x: 80.1, y: -46.6, dx: 3e-4, dy: 3e-4, metres: null, degrees: true, crs: null };
  const metric = (spacing: number | 'rung') => ({ op: 'reproject', zone: 44, south: true, spacing });
  const smooth = { op: 'smooth', radius: 10, strength: 1 };
  const rung = await faultOf(() => after([metric('rung'), smooth], 40, () => 5, 30, { georeference: degrees }));
  expect(rung).toMatchObject({ code: 'step-order', found: expect.stringContaining('smoothing after a reprojection') });
  await after([metric(25), smooth], 40, () => 5, 30, { georeference: degrees });
  const curved = planChain(recipeWith({ steps: [smooth, { op: 'linearise', curve: 2 }] }), floats(40, 30));
  expect(curved.refusal?.error).toMatchObject({
    code: 'step-order',
    found: expect.stringContaining('display curve undone after a step that works with heights'),
  });
  const radius = await faultOf(() => after([{ ...smooth, radius: 1000 }], 40, () => 5, 30));
  expect(radius).toMatchObject({ code: 'too-large', expected: expect.stringContaining('640 m') });
  const value = await faultOf(() => after([smooth, { op: 'values', from: 0, become: 'void' }], 40, () => 5, 30));
  expect(value.code).toBe('step-order');
  const large = await faultOf(() =>
    Promise.resolve(
      planChain(
        recipeWith({ source: METRES, steps: [{ op: 'fill-voids', method: 'lowest' }] }),
        floats(16385, 16385, { bitDepth: 32 }),
      ),
    ).then(({ refusal }) => {
      throw refusal!.error;
    }),
  );
  expect(large).toMatchObject({ code: 'too-large', found: expect.stringContaining('16385 × 16385') });
});
