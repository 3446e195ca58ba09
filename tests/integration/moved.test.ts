/** Ground turned by any angle and moved onto control points: where it comes to lie, how often it is sampled, and its proof. */
import { affineBack, affinePlace, affineThen, nearestAffine, type Pair } from '@/core/base';
import { faultTable } from '../helpers/fault-table';
import { after, exchanged, faults, otherwise, proved, SPACING } from '../helpers/mended';
import { faultOf } from '../helpers/rasters';

jest.setTimeout(60_000);
afterEach(() => jest.restoreAllMocks());

/** Smooth ground that can be said anywhere, in samples. */
const ground = (x: number, y: number): number =>
  500 + 40 * Math.sin(x / 17 + 0.4) * Math.cos(y / 13) + 0.3 * x - 0.2 * y;
const [W, H] = [91, 77];

test('a turn goes clockwise about its place, its frame stays, and what comes in from outside is void', async () => {
  const about = [100, 75] as const;
  const { at, info } = await after([{ op: 'rotate', degrees: 30, about }], W, ground, H);
  expect([info.width, info.height]).toEqual([W, H]);
  const [cx, cy] = [about[0] / SPACING, about[1] / SPACING];
  let [worst, voids, met] = [0, 0, 0];
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      // clockwise, with rows running south: what lay in the north comes to lie in the east
      const [cos, sin] = [Math.cos(Math.PI / 6), Math.sin(Math.PI / 6)];
      const [dx, dy] = [x - cx, y - cy];
      const [u, v] = [cx + cos * dx + sin * dy, cy - sin * dx + cos * dy];
      if (u < -1e-3 || v < -1e-3 || u > W - 1 + 1e-3 || v > H - 1 + 1e-3) {
        expect(at(x, y)).toBeNaN();
        voids++;
      } else if (u > 2 && v > 2 && u < W - 3 && v < H - 3) {
        worst = Math.max(worst, Math.abs(at(x, y) - ground(u, v)));
        met++;
      }
    }
  expect(worst).toBeLessThan(0.02);
  expect(voids).toBeGreaterThan(500);
  expect(met).toBeGreaterThan(3000);
  // the mark in the north of the place
  const mark = await after([{ op: 'rotate', degrees: 90, about }], W, (x, y) => (x === 40 && y === 10 ? 900 : 500), H);
  expect(mark.at(60, 30)).toBeCloseTo(900, 3);
});

test('a warp of three points lands them within a hundredth of a sample; of more, as near as least squares go', async () => {
  /** A hill whose top can be found from four samples: cubics keep squares. */
  const hill = (px: number, py: number) => (x: number, y: number) => 900 - 0.4 * ((x - px) ** 2 + 1.3 * (y - py) ** 2);
  const points: [Pair, Pair][] = [
    [
      [50, 40],
      [62.5, 35],
    ],
    [
      [180, 55],
      [190, 70],
    ],
    [
      [90, 150],
      [80, 160],
    ],
  ];
  for (const [from, to] of points) {
    const { at } = await after([{ op: 'warp', points }], W, hill(from[0] / SPACING, from[1] / SPACING), H);
    const [cx, cy] = [Math.round(to[0] / SPACING), Math.round(to[1] / SPACING)];
    // the top of the square surface through the nine samples around (I. Newton)
    const [gx, gy] = [(at(cx + 1, cy) - at(cx - 1, cy)) / 2, (at(cx, cy + 1) - at(cx, cy - 1)) / 2];
    const [xx, yy] = [
      at(cx + 1, cy) + at(cx - 1, cy) - 2 * at(cx, cy),
      at(cx, cy + 1) + at(cx, cy - 1) - 2 * at(cx, cy),
    ];
    const xy = (at(cx + 1, cy + 1) - at(cx - 1, cy + 1) - at(cx + 1, cy - 1) + at(cx - 1, cy - 1)) / 4;
    const area = xx * yy - xy * xy;
    const top = [cx - (gx * yy - gy * xy) / area, cy - (gy * xx - gx * xy) / area];
    expect(Math.hypot(top[0]! - to[0] / SPACING, top[1]! - to[1] / SPACING)).toBeLessThan(0.01);
  }
});

test('the affine map of least squares: exact where it can be, the mean of errors where not, none for a line', () => {
  const map = { xx: 1.1, xy: -0.2, x0: 7, yx: 0.3, yy: 0.9, y0: -5 };
  const places: Pair[] = [
    [3, 4],
    [90, 10],
    [40, 70],
    [5, 55],
  ];
  const found = nearestAffine(places.map((p) => [p, affinePlace(map, p)]))!;
  for (const key of ['xx', 'xy', 'x0', 'yx', 'yy', 'y0'] as const) expect(found[key]).toBeCloseTo(map[key], 9);
  const there = affineThen(map, affineBack(map)!);
  for (const p of places) expect(affinePlace(there, p)).toEqual([expect.closeTo(p[0], 9), expect.closeTo(p[1], 9)]);
  // four corners of a square, one pulled away: each is a quarter of that beside it
  const corners: [Pair, Pair][] = [
    [
      [0, 0],
      [0, 0],
    ],
    [
      [1, 0],
      [1, 0],
    ],
    [
      [0, 1],
      [0, 1],
    ],
    [
      [1, 1],
      [1.4, 1],
    ],
  ];
  const near = nearestAffine(corners)!;
  for (const [from, to] of corners) expect(Math.abs(affinePlace(near, from)[0] - to[0])).toBeCloseTo(0.1, 9);
  expect(
    nearestAffine(
      [0, 1, 2].map((k) => [
        [k, 2 * k],
        [k, k],
      ]),
    ),
  ).toBeNull();
});

test('control points on one line, and heights worked with after a turn, are refused in a sentence', async () => {
  const line = [0, 1, 2].map((k) => [
    [10 * k, 20 * k],
    [k, 5 * k * k],
  ]);
  const fault = await faultOf(() => after([{ op: 'warp', points: line }], W, ground, H));
  expect(fault).toMatchObject({ code: 'recipe-value', found: expect.stringContaining('on one line') });
  const turn = { op: 'rotate', degrees: 5, about: [0, 0] };
  const late = await faultOf(() => after([turn, { op: 'smooth', radius: 5, strength: 1 }], W, ground, H));
  expect(late).toMatchObject({ code: 'step-order', found: expect.stringContaining('turned by an angle') });
});

const ABOUT = { op: 'rotate', degrees: 12, about: [100, 80] };
const WARP = {
  op: 'warp',
  points: [
    [
      [20, 20],
      [25, 16],
    ],
    [
      [180, 30],
      [176, 38],
    ],
    [
      [40, 130],
      [44, 133],
    ],
    [
      [170, 120],
      [168, 126],
    ],
  ],
};
const CROP = { op: 'crop', at: [40, 35], size: [120, 75] };
const fells = (x: number, y: number): number => (x === 20 && y === 9 ? NaN : ground(x, y) - 30);

test('a turn, a warp and a crop are one map: the fit samples once, as near to the ground as one sampling comes', async () => {
  // ridges that sampling twice would wear away
  const ridges = (x: number, y: number): number => 500 + 30 * Math.sin((x + 0.6 * y) * 0.9);
  const { at } = await after(
    [
      { op: 'rotate', degrees: 12, about: [100, 80] },
      { op: 'rotate', degrees: -12, about: [100, 80] },
    ],
    W,
    ridges,
    H,
  );
  let worst = 0;
  for (let y = 8; y < H - 8; y++)
    for (let x = 8; x < W - 8; x++) worst = Math.max(worst, Math.abs(at(x, y) - ridges(x, y)));
  // there and back is no sampling at all
  expect(worst).toBeLessThan(1e-3);
});

test.each<[string, readonly object[]]>([
  ['a turn', [ABOUT]],
  [
    'a turn the other way, on turned and mirrored ground',
    [
      { op: 'turn', quarters: 1 },
      { ...ABOUT, degrees: -33.5 },
      { op: 'mirror', axis: 'x' },
    ],
  ],
  ['a warp', [WARP]],
  ['a turn and a warp, cropped', [ABOUT, WARP, CROP]],
  [
    'mended, turned, cropped, turned again',
    [{ op: 'fill-voids', method: 'membrane' }, ABOUT, CROP, { op: 'swap-axes' }],
  ],
])('a pack is proved through it: %s', async (_, steps) => {
  const { proof } = await proved(steps, fells);
  expect(faults(proof)).toEqual([]);
  expect(proof.holds).toBe(true);
});

const noted = faultTable('moved');
test.each<[string, readonly object[], () => void]>([
  ['a turn by 0.05° more', [ABOUT], () => otherwise(ABOUT, (p) => ({ ...p, degrees: 12.05 }))],
  ['counter-clockwise', [ABOUT], () => otherwise(ABOUT, (p) => ({ ...p, degrees: -12 }))],
  [
    'about a place a tenth of a sample beside',
    [{ ...ABOUT, degrees: 90 }],
    () => otherwise(ABOUT, (p) => ({ ...p, about: [100.25, 80] })),
  ],
  [
    'the map displaced by a tenth of a sample',
    [WARP],
    () => otherwise(WARP, (p) => ({ ...p, points: WARP.points.map(([a, b]) => [a, [b![0]! + SPACING / 10, b![1]!]]) })),
  ],
  ['a control point left out', [WARP], () => otherwise(WARP, (p) => ({ ...p, points: WARP.points.slice(0, 3) }))],
  ['a warp left out', [WARP], () => otherwise(WARP, (p) => ({ ...p, points: WARP.points.map(([a]) => [a, a]) }))],
  ['a warp before a turn', [ABOUT, WARP], () => exchanged(ABOUT, WARP)],
])('a slip turns the proof red: %s', async (what, steps, slip) => {
  slip();
  const { proof } = await proved(steps, fells);
  expect(faults(proof).join('; ')).toMatch(/codes: /);
  noted(steps.map((s) => (s as { op: string }).op).join(', '), what, faults(proof)[0]!);
});
