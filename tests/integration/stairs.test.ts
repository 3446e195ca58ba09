/** Stairs of coarse sources made slopes: what it does to samples, how near the result comes to the ground, and its proof. */
import { faultTable } from '../helpers/fault-table';
import { after, faults, otherwise, proved, skipped, SPACING } from '../helpers/mended';

jest.setTimeout(60_000);
afterEach(() => jest.restoreAllMocks());

type Ground = (x: number, y: number) => number;
const HEAL = { op: 'heal-steps' };
const [W, H] = [121, 90];
const places = (use: (x: number, y: number) => void, width = W, height = H): void => {
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) use(x, y);
};
/** Waves of several lengths, the short ones as high as `rough` says. */
const waves =
  (rough: number): Ground =>
  (x, y) => {
    let sum = 0;
    for (let k = 0; k < 6; k++)
      sum += rough ** k * Math.sin((x * Math.cos(2.4 * k) + y * Math.sin(2.4 * k)) * 0.05 * 1.8 ** k + 1.7 * k);
    return 700 + 90 * sum;
  };
const stored =
  (ground: Ground, step: number, by: (v: number) => number = Math.round): Ground =>
  (x, y) =>
    step * by(ground(x, y) / step);

test.each<[string, number, (v: number) => number, object, number]>([
  ['rounded', 8, Math.round, {}, 1],
  ['cut', 8, Math.floor, { stored: 'cut' }, 1],
  ['of less than a metre', 0.3125, Math.round, {}, 0.04],
])('each sample stays within its own step, so that it is stored as it was: %s', async (_, step, by, over, high) => {
  const coarse = stored((x, y) => high * waves(0.3)(x, y), step, by);
  const { at } = await after([{ ...HEAL, ...over }], W, coarse, H);
  let moved = 0;
  places((x, y) => {
    expect(step * by(at(x, y) / step)).toBe(coarse(x, y));
    if (at(x, y) !== coarse(x, y)) moved++;
  });
  expect(moved).toBeGreaterThan((W * H) / 2);
});

test('a plane comes back: its stairs are gone, up to its border and beside voids', async () => {
  const plane: Ground = (x, y) => 300 + 0.11 * x + 0.07 * y;
  const missing = (x: number, y: number): boolean => (x - 60) ** 2 + (y - 40) ** 2 < 30;
  const { at } = await after([HEAL], W, (x, y) => (missing(x, y) ? NaN : Math.round(plane(x, y))), H);
  let [square, n] = [0, 0];
  places((x, y) => {
    if (missing(x, y)) expect(at(x, y)).toBeNaN();
    // the ends of the ground stay: nobody knows what lay beyond them
    else if (plane(x, y) > 301 && plane(x, y) < 318) {
      square += (at(x, y) - plane(x, y)) ** 2;
      n++;
    }
  });
  // stairs of a metre are 0.29 m away from it in the mean
  expect(Math.sqrt(square / n)).toBeLessThan(0.07);
});

test.each<[string, number, number]>([
  ['smooth', 0.2, 0.67],
  ['medium', 0.45, 0.8],
  ['rough', 0.6, 1],
])('%s ground comes nearer to what was stored', async (_, rough, share) => {
  const ground = waves(rough);
  const coarse = stored(ground, 4);
  const { at } = await after([HEAL], W, coarse, H);
  let [before, behind] = [0, 0];
  places((x, y) => {
    before += (coarse(x, y) - ground(x, y)) ** 2;
    behind += (at(x, y) - ground(x, y)) ** 2;
  });
  expect(Math.sqrt(behind / before)).toBeLessThan(share);
});

test('cliffs and ground without flat runs stay; so do constant ground and ground that is not coarse', async () => {
  // no two neighbours are as high
  const rough: Ground = (x, y) => 100 + 3 * ((x * 7 + y * 13) % 5) + x;
  expect((await after([HEAL], 40, rough, 30)).found).toEqual(
    Array.from({ length: 1200 }, (_, i) => rough(i % 40, Math.floor(i / 40))),
  );
  // the top and the foot of a cliff are the ends of the ground
  const cliff: Ground = (x) => (x < 20 ? 10 : 90);
  const { at } = await after([{ ...HEAL, step: 4 }], 40, cliff, 30);
  for (let x = 0; x < 40; x++) expect(Math.abs(at(x, 15) - cliff(x, 0))).toBeLessThanOrEqual(2);
  expect((await after([HEAL], 7, () => 5, 1)).found).toEqual(Array<number>(7).fill(5));
  expect((await after([HEAL], 1, () => 5, 1)).found).toEqual([5]);
  const fine: Ground = (x, y) => Math.sin(Math.floor(x / 2) + 300 * y);
  expect((await after([HEAL], 600, fine, 250)).at(7, 9)).toBe(fine(7, 9));
});

test('within an outline alone', async () => {
  const coarse = stored(waves(0.2), 8);
  const ring = [
    [50, 50],
    [200, 50],
    [200, 150],
    [50, 150],
  ];
  const { at } = await after([{ ...HEAL, ring }], W, coarse, H);
  let moved = 0;
  places((x, y) => {
    const inside = x >= 20 && x < 80 && y >= 20 && y < 60;
    if (at(x, y) === coarse(x, y)) return;
    expect(inside).toBe(true);
    moved++;
  });
  expect(moved).toBeGreaterThan(1000);
});

const coarse: Ground = (x, y) => ((x - 50) ** 2 + (y - 30) ** 2 < 20 ? NaN : 365 + stored(waves(0.3), 4)(x, y) / 8);
const RING = [
  [20, 10],
  [180, 20],
  [150, 120],
  [30, 100],
];
test.each<[string, readonly object[]]>([
  ['everywhere', [HEAL]],
  ['of a step that is typed', [{ ...HEAL, step: 0.4 }]],
  ['cut off', [{ ...HEAL, stored: 'cut' }]],
  [
    'within an area, on turned ground',
    [
      { op: 'turn', quarters: 3 },
      { ...HEAL, ring: RING },
    ],
  ],
  ['before voids are filled', [HEAL, { op: 'fill-voids', method: 'distance' }]],
])('a pack is proved through it: %s', async (_, steps) => {
  const { proof, document } = await proved(steps, coarse);
  expect(faults(proof)).toEqual([]);
  expect(document.steps.find((s) => s.op === 'heal-steps')).toMatchObject({ largest: expect.any(Number) });
});

const noted = faultTable('stairs');
test.each<[string, object, () => void]>([
  ['a step larger by a twentieth', { ...HEAL, step: 0.5 }, () => otherwise(HEAL, (p) => ({ ...p, step: 0.525 }))],
  ['cut where it was rounded', HEAL, () => otherwise(HEAL, (p) => ({ ...p, stored: 'cut' }))],
  ['stairs left', HEAL, () => skipped(HEAL)],
  [
    'an outline shifted by a sample',
    { ...HEAL, ring: RING },
    () => otherwise(HEAL, (p) => ({ ...p, ring: RING.map(([e, s]) => [e! + SPACING, s!]) })),
  ],
])('a slip turns the proof red: %s', async (what, step, slip) => {
  slip();
  const { proof } = await proved([step], coarse);
  expect(faults(proof).join('; ')).toMatch(/codes: |-change: /);
  noted('heal-steps', what, faults(proof)[0]!);
});
