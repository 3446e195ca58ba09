/** Packs that are proved through steps that mend the ground, and slips put into each of them, which the proof must name. */
import type { Step } from '@/core/recipe';
import { faultTable } from '../helpers/fault-table';
import { exchanged, faults, otherwise, proved, skipped, SPACING } from '../helpers/mended';

jest.setTimeout(60_000);
afterEach(() => jest.restoreAllMocks());

const FILL = { op: 'fill-voids', method: 'membrane' };
const SMOOTH = { op: 'smooth', radius: 6, strength: 0.8 };
const DESPIKE = { op: 'despike', threshold: 12 };
const SEA = { op: 'sea', level: 400, tolerance: 0.5, select: 'border', become: { slope: 0.4, depth: 6 } };
const LEVELS = {
  op: 'levels',
  points: [
    [430, 430],
    [520, 480],
  ],
};
const RANGE = { op: 'range', low: 410, high: 530, base: 100, factor: 1.1 };
const CROP = { op: 'crop', at: [20, 10], size: [120, 100] };
const PAD = { op: 'pad', by: { north: 10, east: 5, south: 20, west: 15 }, with: 'mirror' };
const TURN = { op: 'turn', quarters: 1 };
const RIVER = {
  op: 'river',
  line: [
    [30, 20],
    [90, 70],
    [160, 60],
    [190, 120],
  ],
  mode: 'deepen',
  depth: 5,
  width: 9,
  banks: 7,
};
const LAKE = { op: 'lake', spot: [10, 60], depth: 9, banks: 12 };
const AREA = {
  op: 'area',
  ring: [
    [60, 20],
    [170, 45],
    [110, 130],
    [100, 60],
  ],
  mode: 'level',
  by: 470,
  border: 8,
};
const PACKS: Record<string, readonly object[]> = {
  membrane: [FILL],
  'by distance': [{ op: 'fill-voids', method: 'distance' }],
  lowest: [{ op: 'fill-voids', method: 'lowest' }],
  'an elevation': [{ op: 'fill-voids', method: 'elevation', elevation: 333 }],
  spikes: [DESPIKE],
  smoothing: [SMOOTH],
  'the bed of the sea': [SEA],
  'all water': [{ op: 'sea', level: 440, select: 'all', maxSlope: 1.5, become: 410 }],
  'a lake at a spot': [{ ...SEA, select: { spot: [10, 60] }, become: 390 }],
  levels: [LEVELS],
  range: [RANGE],
  crop: [CROP],
  pad: [PAD],
  'padded with an elevation': [{ ...PAD, with: 444 }],
  'a river': [RIVER],
  'a river through the border, on the valley floor': [{ ...RIVER, snap: true, throughBorder: true, uphill: true }],
  'a dam': [{ ...RIVER, mode: 'raise', banks: 0 }],
  'a lake': [LAKE],
  'an area levelled': [AREA],
  'an area lowered': [{ ...AREA, mode: 'raise', by: -12, border: 0 }],
  'an area smoothed': [{ ...AREA, mode: 'smooth', by: 6 }],
  'drawn things on turned ground': [TURN, FILL, LAKE, RIVER, { op: 'mirror', axis: 'y' }, AREA],
  'all of them, on turned ground': [
    DESPIKE,
    TURN,
    SEA,
    FILL,
    CROP,
    LEVELS,
    { op: 'mirror', axis: 'x' },
    SMOOTH,
    RANGE,
    PAD,
  ],
  'switched off': [{ ...FILL, off: true }, SMOOTH, { ...CROP, off: true }],
};
test.each(Object.entries(PACKS))('a pack is proved through what was mended: %s', async (_, steps) => {
  const { proof, document } = await proved(steps);
  expect(faults(proof)).toEqual([]);
  expect(proof.holds).toBe(true);
  expect(document.steps.map((s) => s.op)).toEqual(steps.map((s) => (s as Step).op));
  for (const [index, step] of (steps as readonly Step[]).entries())
    if (!step.off)
      expect(proof.checks).toContainEqual(
        expect.objectContaining({ id: step.op, step: `steps.${index}`, state: 'holds' }),
      );
});

test('a bed that the grid is too coarse for, and levels that make slopes of next to nothing, are cautions', async () => {
  const cautions = async (step: object): Promise<string[]> => {
    const { document } = await proved([step]);
    return document.checks
      .filter((c) => c.step === 'clean' && c.state === 'caution')
      .map((c) => `${c.id}: ${c.message}`);
  };
  // 205 m on 56 quads: 3.66 m each, 11 m for three
  expect(await cautions({ ...RIVER, width: 11.1 })).toEqual([]);
  expect(await cautions({ ...RIVER, width: 7 })).toEqual([
    expect.stringMatching(
      /^bed-narrow: The bed of step 1 is 7 m wide, 1\.9 vertices of the grid.* From 10\.98\d* m on/,
    ),
  ]);
  const steep = {
    op: 'levels',
    points: [
      [430, 430],
      [450, 510],
      [520, 520],
    ],
  };
  expect(await cautions(steep)).toEqual([
    expect.stringContaining('levels-steep: Between 430 m and 450 m the levels of step 1 make slopes 4 times as steep'),
  ]);
  expect(await cautions(LEVELS)).toEqual([]);
});

const noted = faultTable('mended');

test.each<[string, readonly object[], () => void]>([
  [
    'a membrane where distance was asked for',
    [{ op: 'fill-voids', method: 'distance' }],
    () => otherwise(FILL, (p) => ({ ...p, method: 'membrane' })),
  ],
  [
    'the lowest sample where a membrane was asked for',
    [FILL],
    () => otherwise(FILL, (p) => ({ ...p, method: 'lowest' })),
  ],
  ['voids left as they are', [FILL], () => skipped(FILL)],
  [
    'an elevation one metre higher',
    [{ op: 'fill-voids', method: 'elevation', elevation: 333 }],
    () => otherwise(FILL, (p) => ({ ...p, elevation: 334 })),
  ],
  ['another threshold', [DESPIKE], () => otherwise(DESPIKE, (p) => ({ ...p, threshold: 50 }))],
  ['spikes left in', [DESPIKE], () => skipped(DESPIKE)],
  ['a radius larger by a twentieth', [SMOOTH], () => otherwise(SMOOTH, (p) => ({ ...p, radius: 6.3 }))],
  ['a little less strength', [SMOOTH], () => otherwise(SMOOTH, (p) => ({ ...p, strength: 0.78 }))],
  ['smoothing left out', [SMOOTH], () => skipped(SMOOTH)],
  ['a steeper bed', [SEA], () => otherwise(SEA, (p) => ({ ...p, become: { slope: 0.41, depth: 6 } }))],
  [
    'all water where the sea was asked for',
    [{ ...SEA, level: 440, tolerance: 30 }],
    () => otherwise(SEA, (p) => ({ ...p, select: 'all' })),
  ],
  [
    'a spot beside the lake',
    [{ ...SEA, select: { spot: [10, 60] } }],
    () => otherwise(SEA, (p) => ({ ...p, select: { spot: [60, 60] } })),
  ],
  ['the sea left as it is', [SEA], () => skipped(SEA)],
  [
    'a point of the levels moved by a metre',
    [LEVELS],
    () =>
      otherwise(LEVELS, (p) => ({
        ...p,
        points: [
          [430, 430],
          [520, 481],
        ],
      })),
  ],
  ['levels left out', [LEVELS], () => skipped(LEVELS)],
  ['another factor', [RANGE], () => otherwise(RANGE, (p) => ({ ...p, factor: 1.101 }))],
  ['the high end not held', [RANGE], () => otherwise(RANGE, ({ high: _, ...p }) => p)],
  ['a crop one sample further east', [CROP], () => otherwise(CROP, (p) => ({ ...p, at: [20 + SPACING, 10] }))],
  [
    'padding one sample further west',
    [PAD],
    () => otherwise(PAD, (p) => ({ ...p, by: { ...PAD.by, east: 2.5, west: 17.5 } })),
  ],
  ['the edge where mirrored ground was asked for', [PAD], () => otherwise(PAD, (p) => ({ ...p, with: 'edge' }))],
  [
    'a river shifted by half a sample',
    [RIVER],
    () => otherwise(RIVER, (p) => ({ ...p, line: RIVER.line.map(([e, n]) => [e! + 1.25, n!]) })),
  ],
  ['a shallower river', [RIVER], () => otherwise(RIVER, (p) => ({ ...p, depth: 4.9 }))],
  ['narrower banks', [RIVER], () => otherwise(RIVER, (p) => ({ ...p, banks: 6 }))],
  ['a river that may run uphill', [RIVER], () => otherwise(RIVER, (p) => ({ ...p, uphill: true }))],
  ['a river left out', [RIVER], () => skipped(RIVER)],
  ['a shallower lake', [LAKE], () => otherwise(LAKE, (p) => ({ ...p, depth: 8.8 }))],
  [
    'an area shifted by a sample',
    [AREA],
    () => otherwise(AREA, (p) => ({ ...p, ring: AREA.ring.map(([e, n]) => [e! + 2.5, n!]) })),
  ],
  ['a harder border', [AREA], () => otherwise(AREA, (p) => ({ ...p, border: 6 }))],
  ['an area before a river', [RIVER, AREA], () => exchanged(RIVER, AREA)],
  ['smoothing before spikes are taken out', [DESPIKE, SMOOTH], () => exchanged(DESPIKE, SMOOTH)],
  ['voids filled after smoothing', [FILL, SMOOTH], () => exchanged(FILL, SMOOTH)],
  ['a range before levels', [LEVELS, RANGE], () => exchanged(LEVELS, RANGE)],
  ['a crop before padding', [PAD, CROP], () => exchanged(PAD, CROP)],
])('a slip turns the proof red: %s', async (what, steps, slip) => {
  slip();
  const { proof } = await proved(steps);
  expect(proof.holds).toBe(false);
  const named = faults(proof);
  // by its codes or by what it changed, not only as something that follows
  expect(named.join('; ')).toMatch(/codes: |-change: |grid|size/);
  noted(steps.map((s) => (s as Step).op).join(', '), what, named[0]!);
});
