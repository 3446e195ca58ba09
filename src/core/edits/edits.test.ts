import type { SourceFacts } from '../plan';
import { plan } from '../plan';
import type { Georeference, RasterInfo } from '../raster';
import { parseRecipe, type Recipe } from '../recipe';
import { trueCalibration } from '../height';
import { faultOf, recipeWith } from '../../../tests/helpers/rasters';
import {
  asMetres,
  asShares,
  clippedToFit,
  confirmed,
  draftRecipe,
  flattenedToFit,
  flatteningFactor,
  forReplacement,
  freshRecipe,
  renamed,
  rereads,
  forSource,
  keptReading,
  type SourceLook,
  applyEdit,
  spentOnGround,
  withAnchor,
  withBestFit,
  withFit,
  withGroundCentred,
  withHeight,
  withMethod,
  withOffset,
  withOutput,
  withPlace,
  withRange,
  withRawLayout,
  heightsGivenAs,
  throughSpots,
  withCurve,
  withHeights,
  withSpacing,
  withSplit,
  withStrategy,
  withTarget,
  withTiles,
  withCeiling,
  withComponents,
  withTileSide,
  withTypedSide,
  withVoids,
  withWindowAt,
} from '.';

const facts = (width: number, height = width, sampleType: 'uint' | 'float' = 'uint'): SourceFacts => ({
  file: 'sluice-delta.png',
  info: {
    format: 'png',
    width,
    height,
    channels: 1,
    bitDepth: sampleType === 'float' ? 32 : 16,
    sampleType,
    byteOrder: null,
    warnings: [],
  },
  warnings: [],
  stats: {
    samples: width * height,
    voids: 0,
    min: sampleType === 'float' ? 4000 : 0,
    max: sampleType === 'float' ? 4015 : 65535,
    mean: null,
    distinctCodes: 60000,
    codeStep: sampleType === 'float' ? null : 1,
  },
});
const ends = (low: number, high: number) => ({ as: 'ends', low, high }) as const;
const sized = (recipe: Recipe) => recipe.fit.size;
/** Every edit must make a recipe that a file could hold. */
const valid = (recipe: unknown): Recipe => parseRecipe(JSON.parse(JSON.stringify(recipe)));

describe('a fresh recipe', () => {
  test('marks each placeholder, holds overshoot and takes the rung that keeps the ground', () => {
    const r = freshRecipe(facts(2048), 'Sluice Delta', 'odd-grid');
    expect(r).toMatchObject({
      version: 4,
      source: { heights: ends(0, 500), spacing: 1, assumed: ['low', 'high', 'spacing'] },
      fit: { size: 2049, method: 'resample', clamp: true },
      output: { format: 'raw' },
    });
    expect(plan(r, facts(2048), null).refusals).toEqual([]);
  });
  test('of metres only the spacing is a placeholder', () => {
    const r = freshRecipe(facts(300, 300, 'float'), 'Sluice Delta');
    expect(r.source).toEqual({ heights: { as: 'elevations' }, spacing: 1, assumed: ['spacing'] });
    expect(r.height.range).toBe('ground');
  });
  test.each([
    ['component-grid', 2049, 1025],
    ['odd-grid', 2049, 1025],
    ['component-grid', 1, 1],
    ['component-grid', 2, 2],
    ['odd-grid', 2, 2],
    ['odd-grid', 1, 7],
    ['component-grid', 40000, 30000],
  ])('on the %s of %d × %d samples can be written without stretching', (target, w, h) => {
    const f = facts(w, h);
    const p = plan(freshRecipe(f, 'Kettle', target), f, null);
    expect(p.refusals).toEqual([]);
    expect(p.document.checks.find((c) => c.id === 'square')?.state ?? 'holds').toBe('holds');
    expect(JSON.stringify(p.document)).not.toMatch(/NaN|Infinity/);
  });
  test('a guessed layout is no choice, a stated one is', () => {
    const raw = { width: 300, height: 300, type: 'u16', byteOrder: 'big', skip: 0 } as const;
    expect(freshRecipe({ ...facts(300), raw }, 'k').source.raw).toEqual(raw);
    const guess = { layout: raw, lead: 0.5, next: [] };
    expect(freshRecipe({ ...facts(300), raw, guess }, 'k').source.raw).toBeUndefined();
  });
});

describe('placeholders', () => {
  const open = freshRecipe(facts(300), 'k');
  test('typing one clears that one alone; the last takes the list away', () => {
    const a = withHeights(open, ends(100, 600), ['low']);
    expect(a.source).toMatchObject({ heights: ends(100, 600), assumed: ['high', 'spacing'] });
    const b = confirmed(a, ['high']);
    expect(b.source.assumed).toEqual(['spacing']);
    expect(withSpacing(b, 2).source).not.toHaveProperty('assumed');
    expect(open.source.assumed).toEqual(['low', 'high', 'spacing']);
  });
  test('every value of the card that rests on one says so', () => {
    const rows = (r: Recipe) =>
      Object.fromEntries(plan(r, facts(300), null).document.card.map((c) => [c.id, c.assumed]));
    expect(rows(open)).toMatchObject({ groundScaleX: ['spacing'], heightScale: ['low', 'high'], quads: [] });
    expect(rows(confirmed(open, ['low', 'high']))).toMatchObject({ groundScaleX: ['spacing'], heightScale: [] });
  });
  test('floats are metres or shares', () => {
    const metres = asMetres(asShares(freshRecipe(facts(300, 300, 'float'), 'k')));
    expect(metres.source).toEqual({ heights: { as: 'elevations' }, spacing: 1, assumed: ['spacing'] });
    expect(asShares(metres).source).toMatchObject({ heights: ends(0, 500), assumed: ['low', 'high', 'spacing'] });
    const codes = { ...asShares(metres), height: { ...metres.height, range: 'codes' as const } };
    expect(asMetres(codes).height.range).toBe('source');
  });
});

describe('what the numbers of a source stand for', () => {
  const codes = { bitDepth: 16, sampleType: 'uint' } as const;
  const r = recipeWith({ source: { low: 1310, high: 2140 } });
  const heights = (x: Recipe) => valid(x).source.heights;

  test('said in another way they stay what they are', () => {
    const step = heightsGivenAs(r, codes, 'step');
    // 830 m over 65535 codes
    expect(heights(step)).toEqual({ as: 'step', step: 830 / 65535, base: 1310 });
    expect(heights(heightsGivenAs(step, codes, 'ends'))).toEqual(ends(1310, 2140));
    const metres = heightsGivenAs(r, codes, 'elevations');
    expect(heights(metres)).toEqual({ as: 'elevations', unit: 'metre' });
    expect(heights(heightsGivenAs(metres, codes, 'ends'))).toEqual(ends(0, 65535));
    // floats that were elevations know nothing of 0 and 1
    const float = recipeWith({ source: { low: undefined, high: undefined } });
    const shares = heightsGivenAs(float, { bitDepth: 32, sampleType: 'float' }, 'ends');
    expect(shares.source).toMatchObject({ heights: ends(0, 500), assumed: ['low', 'high'] });
  });

  test('one known spot moves all heights, two lay them out', () => {
    // code 30000 at 1310 + 30000 · 830 / 65535 = 1689.949 m is 1700 m in truth: all 10.051 m higher
    const one = heights(throughSpots(r, codes, [{ stored: 30000, elevation: 1700 }]));
    expect(one).toMatchObject({ as: 'ends' });
    if (one.as !== 'ends') throw new Error('not ends');
    expect(one.low).toBeCloseTo(1320.0504, 4);
    expect(one.high - one.low).toBeCloseTo(830, 9);
    // codes 1000 at 1200 m and 61000 at 2400 m: 0.02 m a code, code 0 at 1180, code 65535 at 2490.7
    const both = [
      { stored: 1000, elevation: 1200 },
      { stored: 61000, elevation: 2400 },
    ];
    const two = throughSpots(r, codes, both);
    expect(two.source.heights).toMatchObject({ as: 'ends', low: 1180 });
    if (two.source.heights.as !== 'ends') throw new Error('not ends');
    expect(two.source.heights.high).toBeCloseTo(2490.7, 9);
    expect(two.source.assumed).toBeUndefined();
    // elevations that lie 3 m too low get a base
    const metres = heightsGivenAs(r, codes, 'elevations');
    expect(heights(throughSpots(metres, codes, [{ stored: 500, elevation: 503 }]))).toEqual({
      as: 'step',
      step: 1,
      base: 3,
    });
  });

  test('spots that can’t be are refused in words', async () => {
    const at = (stored: number, elevation: number) => ({ stored, elevation });
    const fault = (spots: { stored: number; elevation: number }[]) => faultOf(() => throughSpots(r, codes, spots));
    expect((await fault([at(5, 1), at(5, 2)])).found).toBe('the same value at both spots');
    expect((await fault([at(5, 10), at(9, 2)])).found).toBe('the higher value on the lower ground at both spots');
  });

  test('a spot keeps a stretch and halves of codes in place', () => {
    const cut = withHeights(r, { as: 'ends', low: 0, high: 65535, stretch: 2, truncated: true }, []);
    const through = throughSpots(cut, codes, [{ stored: 1000, elevation: 700 }]);
    const { unit, offset } = trueCalibration(through.source.heights, codes);
    expect(offset + unit * 1000).toBeCloseTo(700, 9);
    expect(unit).toBeCloseTo(0.5, 12);
  });

  test('a curve needs ends, and leaves with them', () => {
    const info = facts(300).info;
    const cut = withHeights(r, { as: 'step', step: 0.01, base: 100, truncated: true }, []);
    const curved = valid(withCurve(cut, info, 'srgb'));
    expect(curved).toMatchObject({
      steps: [{ op: 'linearise', curve: 'srgb' }],
      source: { heights: { as: 'ends', low: 100 } },
    });
    expect(curved.source.heights).not.toHaveProperty('truncated');
    expect(withCurve(curved, info, null).steps).toEqual([]);
    expect(heightsGivenAs(curved, codes, 'elevations').steps).toEqual([]);
  });
});

describe('size, sides, target', () => {
  const r = recipeWith({ fit: { size: 1525, layout: { quads: 127, patches: 1 } } });
  test('one side alone, both, and tiles; a layout of the old size is forgotten', () => {
    const source = { width: 1536, height: 1536 };
    expect(sized(withTileSide(r, 1009, source))).toBe(1009);
    expect(withTileSide(r, 1009, source).fit).not.toHaveProperty('layout');
    expect(sized(withTileSide(r, 1009, source, 'across'))).toEqual([1009, 1525]);
    expect(sized(withTileSide(r, 1009, source, 'down'))).toEqual([1525, 1009]);
    expect(sized(withTypedSide(r, 1009, source))).toBe(1009);
    expect(() => withTypedSide(r, 1600, source)).toThrow('Next to it: 1576 and 1613.');
    expect(() => withTypedSide(r, 3, source)).toThrow('Next to it: 8.');
    const built = withComponents(r, { quads: 63, patches: 2 }, 8, source, 'across');
    expect(sized(built)).toEqual([8 * 126 + 1, 1525]);
    expect(built.fit.layout).toEqual({ quads: 63, patches: 2 });
    const tiled = withSplit(r, { across: 3, down: 3 });
    expect(sized(withTileSide(tiled, 505, source))).toBe(1513);
    expect(sized(withTiles(withSplit(r, { across: 3, down: 2, edges: 'abutting' }), 127))).toEqual([381, 254]);
  });
  test('cropped and padded ground begins in the middle and stays there', () => {
    const source = { width: 1536, height: 1536 };
    expect(withMethod(r, 'crop', source).fit).toMatchObject({ method: 'crop', at: [5, 5] });
    const padded = withMethod(withTileSide(r, 2017, source), 'pad', source);
    expect(padded.fit).toMatchObject({ method: 'pad', at: [240, 240] });
    expect(withTileSide(withMethod(r, 'crop', source), 1009, source).fit.at).toEqual([263, 263]);
    expect(withMethod(padded, 'resample', source).fit.at).toEqual([0, 0]);
  });
  test('a ceiling of one’s own is set, holds on another target, and is taken off', () => {
    const source = { width: 1536, height: 1536 };
    const held = valid(withCeiling(r, 800));
    expect(held.fit.atMost).toBe(800);
    // 26 components of 2 × 2 × 15 quads
    expect(sized(withBestFit(held, source))).toBe(781);
    expect(sized(withTarget(held, 'odd-grid', source))).toBe(513);
    expect(withCeiling(held, null).fit).not.toHaveProperty('atMost');
    expect(sized(withBestFit(withCeiling(held, null), source))).toBe(sized(withBestFit(r, source)));
  });
  test('a window that was moved keeps its place when the method changes and back, and its middle when the size does', () => {
    const source = { width: 1536, height: 1200 };
    const cropped = withPlace(withMethod(withTileSide(r, 505, source), 'crop', source), { column: 900, row: 40 });
    for (const method of ['resample', 'pad'] as const) {
      const there = withMethod(cropped, method, source);
      expect(withMethod(there, 'crop', source).fit).toEqual(cropped.fit);
    }
    // padded with a grid that is smaller than the source, the same ground is taken
    expect(withMethod(cropped, 'pad', source).fit.at).toEqual([-900, -40]);
    const larger = withTileSide(cropped, 1009, source);
    // the middle would lie at row −212: it is held within the source
    expect(larger.fit.at).toEqual([527, 0]);
    expect(withTileSide(larger, 505, source).fit.at).toEqual([779, 252]);
    // also while it is resampled
    expect(
      withMethod(withTileSide(withMethod(cropped, 'resample', source), 1009, source), 'crop', source).fit.at,
    ).toEqual([527, 0]);
    // never moved, it stays in the middle whatever happens, to the sample
    const never = withMethod(withTileSide(r, 505, source), 'crop', source);
    expect(withMethod(never, 'resample', source).fit.at).toEqual([0, 0]);
    expect(withTileSide(withTileSide(never, 1010, source), 505, source).fit.at).toEqual([515, 347]);
    // moved on the map it stays within the source
    expect(withWindowAt(cropped, 5000, -8, source).fit.at).toEqual([1031, 0]);
    expect(withWindowAt(cropped, 12.6, 7.2, source).fit.at).toEqual([13, 7]);
    expect(withWindowAt(withTileSide(cropped, 2017, source), 40, 40, source).fit.at).toEqual([0, 0]);
  });
  test('another target takes the size that fits, its own format, and no scale of the old one', () => {
    const fixed = recipeWith({
      fit: { size: 1525 },
      height: { strategy: 'fixed', scale: 100, anchor: { at: 'lowest', elevation: 1310 } },
      split: { across: 1, down: 2 },
    });
    const other = valid(withTarget(fixed, 'odd-grid', { width: 2048, height: 2048 }));
    expect(other).toMatchObject({
      target: 'odd-grid',
      fit: { size: 2049 },
      height: { strategy: 'full' },
      output: { format: 'raw' },
    });
    expect(other.split).toBeUndefined();
    expect(other.height.scale).toBeUndefined();
  });
});

describe('choices that stand for themselves', () => {
  const r = recipeWith({ fit: { size: 1525, layout: { quads: 127, patches: 1 } } });
  const source = { width: 1536, height: 1300 };
  test('change their own part and nothing else', () => {
    const rest = { ...r, fit: null };
    const after = valid(withFit(r, { filter: 'nearest', clamp: false, origin: 'centre', worldScale: 0.25, rim: 1300 }));
    expect(after.fit).toEqual({
      ...r.fit,
      filter: 'nearest',
      clamp: false,
      origin: 'centre',
      worldScale: 0.25,
      rim: 1300,
    });
    expect({ ...after, fit: null }).toEqual(rest);
    expect(withHeight(r, { low: 1312, below: 3 })).toEqual({ ...r, height: { ...r.height, low: 1312, below: 3 } });
    expect(withOutput(r, { rows: 'south' })).toEqual({ ...r, output: { ...r.output, rows: 'south' } });
    expect(spentOnGround(withStrategy(r, 'headroom', { scale: 100, low: 0 })).height).toMatchObject({
      range: 'ground',
      strategy: 'full',
    });
  });
  test('an elevation of voids comes and goes', () => {
    expect(valid(withVoids(r, 12)).fit.voids).toBe(12);
    expect(withVoids(withVoids(r, 0), null).fit).not.toHaveProperty('voids');
    expect(withVoids(r, 0).fit.voids).toBe(0);
  });
  test('a place is moved along one axis, or to the middle', () => {
    const cropped = withMethod(recipeWith({ fit: { size: 1009 } }), 'crop', source);
    expect(cropped.fit.at).toEqual([263, 145]);
    expect(withPlace(cropped, { column: 0 }).fit.at).toEqual([0, 145]);
    expect(withPlace(cropped, { row: -3 }).fit.at).toEqual([263, -3]);
    expect(withGroundCentred(withPlace(cropped, { column: 0, row: 0 }), source).fit.at).toEqual([263, 145]);
  });
  test('an anchor keeps what is not said', () => {
    expect(withAnchor(r, { at: 'middle' }).height.anchor).toEqual({ at: 'middle', elevation: 0 });
    const hung = withAnchor(r, { at: 'middle', elevation: 1700 });
    expect(withAnchor(hung, { elevation: 1710 }).height.anchor).toEqual({ at: 'middle', elevation: 1710 });
    expect(withAnchor(hung, { at: 'highest' }).height.anchor).toEqual({ at: 'highest', elevation: 1700 });
  });
  test('the best fit of a source is the one a fresh project takes', () => {
    for (const s of [source, { width: 2048, height: 2048 }, { width: 1, height: 1 }, { width: 2049, height: 1025 }])
      expect(withBestFit(r, s).fit).toMatchObject({
        size: freshRecipe(facts(s.width, s.height), 'k').fit.size,
        method: freshRecipe(facts(s.width, s.height), 'k').fit.method,
      });
    expect(withBestFit(r, source).fit).not.toHaveProperty('layout');
  });
  test('a draft is marked, keeps its tiles and forgets the layout', () => {
    const tiled = withSplit(r, { across: 3, down: 2 });
    expect(draftRecipe(tiled, 127)).toMatchObject({ draft: 127, fit: { size: [379, 253] }, split: { across: 3 } });
    expect(draftRecipe(r, 127).fit).not.toHaveProperty('layout');
    expect(() => draftRecipe(withMethod(r, 'pad', source), 127)).toThrow('a draft of ground that is padded');
  });
});

describe('tiles', () => {
  const r = recipeWith({ fit: { size: 1525 } });
  test('change no vertex: where the whole can’t be divided the plan says so and offers one that can', () => {
    for (const n of [2, 3, 7]) expect(sized(withSplit(r, { across: n, down: n }))).toBe(1525);
    const seven = plan(withSplit(r, { across: 7, down: 7 }), facts(1536), null);
    const fault = seven.document.checks.find((c) => c.id === 'split-indivisible')!;
    const repairedRecipe = valid(applyEdit(withSplit(r, { across: 7, down: 7 }), fault.repair!));
    expect(plan(repairedRecipe, facts(1536), null).refusals).toEqual([]);
  });
  test('other names keep the layout of a tile, other tiles don’t', () => {
    const laid = recipeWith({ fit: { size: 253, layout: { quads: 63, patches: 2 } }, split: { across: 2, down: 1 } });
    expect(withSplit(laid, { pattern: '{name}_{index}', rows: 'south' })).toMatchObject({
      fit: { layout: { quads: 63, patches: 2 } },
      split: { across: 2, pattern: '{name}_{index}', rows: 'south' },
    });
    expect(withSplit(laid, { edges: 'abutting' }).fit).not.toHaveProperty('layout');
    expect(withSplit(laid, { down: 2 }).fit).not.toHaveProperty('layout');
  });
  test('one tile needs no split', () => {
    expect(withSplit(withSplit(r, { across: 3, down: 3 }), { across: 1, down: 1 })).not.toHaveProperty('split');
  });
});

describe('heights', () => {
  const r = recipeWith({ fit: { size: 253 } });
  test('a pinned range begins with the codes as they are', () => {
    expect(withRange(r, 'pinned', { low: 1310, high: 2140 }).height).toMatchObject({ low: 1310, high: 2140 });
    expect(withRange(r, 'codes', { low: 1, high: 2 }).height).not.toHaveProperty('low');
  });
  test('a strategy comes complete', () => {
    expect(withStrategy(r, 'headroom', { scale: 100, low: 1310 }).height).toMatchObject({ below: 5, above: 5 });
    expect(valid(withStrategy(r, 'fixed', { scale: 100, low: 1310 })).height).toMatchObject({
      scale: 100,
      anchor: { at: 'lowest', elevation: 1310 },
    });
  });
  test.each([
    ['lowest', 1310],
    ['highest', 2140],
    ['middle', 1725],
    ['lowest', 1400],
  ] as const)('ground flattened to a fixed scale anchored at the %s (%d m) fits it', (at, elevation) => {
    const fixed = recipeWith({
      fit: { size: 253 },
      height: { strategy: 'fixed', scale: 100, anchor: { at, elevation } },
    });
    const flat = valid(flattenedToFit(fixed, { low: 1310, high: 2140 }));
    const { low, high } = plan(flat, facts(300), null).document.height;
    const ends = plan(flat, facts(300), null).work.range;
    expect(low).toBeLessThanOrEqual(ends.groundLow + 1e-6);
    expect(high).toBeGreaterThanOrEqual(ends.groundHigh - 1e-6);
    // and fills it, as far as the anchor lets it
    expect((ends.groundHigh - ends.groundLow) / (high - low)).toBeGreaterThan(0.49);
    expect(clippedToFit(flat).height.exaggeration).toBe(1);
    expect(flatteningFactor(fixed, { low: 1310, high: 2140 })).toBe(flat.height.exaggeration);
    expect(flatteningFactor(r, { low: 1310, high: 2140 })).toBeNull();
  });
  test('sea level at zero begins at the lowest ground', () => {
    expect(withOffset(r, 'sea', 1310).height).toMatchObject({ offset: 'sea', sea: 1310 });
    expect(withOffset(r, 'survey', 1310).height.sea).toBeUndefined();
  });
});

test('a replaced source keeps the extent or the spacing', () => {
  const r = recipeWith({ source: { spacing: 2.5 } });
  const after = (keeps: 'extent' | 'spacing') =>
    forReplacement(r, { width: 1536, height: 1536, spacing: 2.5 }, { width: 3071, height: 3071 }, keeps).source.spacing;
  expect(after('extent')).toBe(1.25);
  expect(after('spacing')).toBe(2.5);
  expect(forReplacement(r, { width: 1, height: 1, spacing: 2.5 }, { width: 9, height: 9 }, 'extent')).toBe(r);
});

test('a layout of a headerless file comes and goes; a name is a name', () => {
  const raw = { width: 3, height: 4, type: 'u16', byteOrder: 'big', skip: 0 } as const;
  const r = withRawLayout(recipeWith({}), raw);
  expect(valid(r).source.raw).toEqual(raw);
  expect(withRawLayout(r, null).source).not.toHaveProperty('raw');
  expect(renamed(r, 'Port Quillam').name).toBe('Port Quillam');
});

describe('edits by their names', () => {
  test('do what the functions do, and leave the recipe they came from alone', () => {
    const before = recipeWith({});
    const after = applyEdit(before, { edit: 'clamp', args: { clamp: true } });
    expect([before.fit.clamp, after.fit.clamp]).toEqual([false, true]);
    expect(applyEdit(before, { edit: 'split', args: { across: 2 } }).split).toMatchObject({ across: 2, down: 1 });
    // what is not named stays as it is, and gets no default
    const tiled = withSplit(before, { across: 2, pattern: 'fells-{index}', rows: 'south' });
    expect(applyEdit(tiled, { edit: 'split', args: { down: 3 } }).split).toMatchObject({
      across: 2,
      down: 3,
      pattern: 'fells-{index}',
      rows: 'south',
    });
    expect(applyEdit(before, { edit: 'output', args: { byteOrder: 'big' } }).output).toMatchObject({ format: 'png' });
  });
  test('say which of them need the source read again', () => {
    const named = (edit: string) => rereads({ edit, args: {} });
    expect(['raw-layout', 'files', 'partial', 'mesh', 'volume'].map(named)).toEqual([true, true, true, true, true]);
    expect(['add-step', 'heights', 'spacing', 'size', 'blend'].map(named)).toEqual([false, false, false, false, false]);
  });
  test('that are unknown, or lack what they need, are refused by name', async () => {
    const r = recipeWith({});
    expect(await faultOf(() => applyEdit(r, { edit: 'explode', args: {} }))).toMatchObject({ code: 'usage' });
    const lacking = await faultOf(() => applyEdit(r, { edit: 'clamp', args: {} }));
    expect(lacking).toMatchObject({ code: 'recipe-value', found: 'nothing as "clamp"' });
    const left = await faultOf(() => applyEdit(r, { edit: 'exaggeration', args: { exaggeration: 0 } }));
    expect(left.found).toContain('height.exaggeration');
    const more = await faultOf(() => applyEdit(r, { edit: 'clamp', args: { clamp: true, colour: 1 } }));
    expect(more).toMatchObject({ code: 'recipe-key' });
  });
  test('the sea can be emptied, and world zero is there no more', () => {
    const r = recipeWith({ height: { sea: 1311, offset: 'sea' } });
    const dry = applyEdit(r, { edit: 'sea', args: { elevation: null } });
    expect(dry.height).not.toHaveProperty('sea');
    expect(dry.height.offset).toBe('lowest-code');
    expect(applyEdit(dry, { edit: 'sea', args: { elevation: 12 } }).height.sea).toBe(12);
  });
});

describe('a recipe for another source', () => {
  const files = ['a.png', 'b.png'].map((name, i) => ({ name, at: [i * 9, 0] as [number, number], factor: 1.5 }));
  const mesh = { up: 'y' as const, metres: 0.01, volume: { min: [0, 0, 0], max: [9, 9, 5] } as never };
  const raw = { width: 3, height: 4, type: 'u16', byteOrder: 'big', skip: 0 } as const;
  const read = (source: Record<string, unknown>, look: SourceLook) => keptReading(recipeWith({ source }), look);
  test('keeps each choice where the source is of the same kind, and names it where it is not', () => {
    const picture = { takes: null, names: ['z.png'], size: 9 } as const;
    expect(read({ mesh }, { takes: 'mesh', names: ['arch.ply'], size: 7 })).toEqual({
      reading: { mesh: { ...mesh, spacing: 2.5 } },
      dropped: [],
    });
    expect(read({ mesh }, picture).dropped).toEqual(['axis, unit and volume of the mesh (the new source is none)']);
    expect(read({ files }, { takes: null, names: ['b.png', 'a.png'], size: 7 })).toEqual({
      reading: { files },
      dropped: [],
    });
    expect(read({ files }, { takes: null, names: ['a.png', 'c.png'], size: 7 }).dropped[0]).toMatch(
      /^where its 2 files lie, and the factors/,
    );
    expect(read({ raw }, { takes: 'raw', names: ['t.raw'], size: 24 })).toEqual({ reading: { raw }, dropped: [] });
    expect(read({ raw }, { takes: 'raw', names: ['t.raw'], size: 25 }).dropped[0]).toContain('another length');
    expect(read({ raw }, picture).dropped[0]).toContain('says its own');
    expect(read({ partial: true }, picture)).toEqual({ reading: { partial: true }, dropped: [] });
  });
  test('leaves out steps that can’t be done to it, by name, and keeps the others', () => {
    const metric = { op: 'reproject', zone: 44, south: true, spacing: 30 };
    const r = recipeWith({ steps: [{ op: 'blend', reach: 5 }, metric, { op: 'turn', quarters: 1 }] });
    const made = forSource(r, {}, { info: facts(300).info });
    expect(made.recipe.steps).toEqual([{ op: 'turn', quarters: 1 }]);
    expect(made.dropped.map((d) => d.replace(/ \(.*/, ''))).toEqual([
      'a step: seams blended over 5 samples',
      'a step: square metres, 30 m apart, zone 44 south',
    ]);
  });
});

describe('a fresh recipe takes what the file says, and asks for the rest', () => {
  const info = (parts: Partial<RasterInfo>): RasterInfo => ({
    format: 'tiff',
    width: 600,
    height: 400,
    channels: 1,
    bitDepth: 16,
    sampleType: 'int',
    byteOrder: 'little',
    warnings: [],
    ...parts,
  });
  const place = { x: 0, y: 1000, dx: 5, dy: 5, metres: 1, degrees: false, crs: null };
  const source = (parts: Partial<RasterInfo>, stats?: { min: number; max: number }) =>
    freshRecipe({ info: info(parts), ...(stats ? { stats } : {}) }, 'fells').source;

  test('signed codes are metres by custom, which is asked; where the file names their unit, it is not', () => {
    const metres = { as: 'elevations', unit: 'metre' };
    expect(source({})).toEqual({ heights: metres, spacing: 1, assumed: ['unit', 'spacing'] });
    expect(source({ unit: 'metre', georeference: place })).toEqual({ heights: metres, spacing: 5 });
    expect(source({ unit: 'foot', georeference: place }).heights).toEqual({ as: 'elevations', unit: 'foot' });
    // codes of 32 bits that name no unit are no elevations
    expect(source({ bitDepth: 32 })).toMatchObject({ heights: ends(0, 500) });
    expect(source({ sampleType: 'uint' })).toMatchObject({
      heights: ends(0, 500),
      assumed: ['low', 'high', 'spacing'],
    });
  });

  test('spacing in feet, unlike both ways, in degrees, and without a unit', () => {
    const spacing = (g: Partial<Georeference>) => source({ unit: 'metre', georeference: { ...place, ...g } });
    expect(spacing({ metres: 0.3048 })).toMatchObject({ spacing: 1.524 });
    expect(spacing({ metres: 0.3048 })).not.toHaveProperty('assumed');
    expect(spacing({ dx: 4 })).toMatchObject({ spacing: 5, assumed: ['spacing'] });
    expect(spacing({ metres: null })).toMatchObject({ spacing: 5, assumed: ['spacing'] });
    const degrees = spacing({ y: 0.1, dx: 1 / 3600, dy: 1 / 3600, degrees: true });
    // 110574.3 m a degree at the equator
    expect(degrees.spacing).toBeCloseTo(110574.3 / 3600, 2);
    expect(degrees.assumed).toEqual(['spacing']);
  });

  test('floats are metres, unless their samples turn out to lie between 0 and 1', () => {
    const float = { sampleType: 'float', bitDepth: 32 } as const;
    const metres = { heights: { as: 'elevations' }, spacing: 1, assumed: ['spacing'] };
    expect(source(float)).toEqual(metres);
    expect(source(float, { min: 0, max: 830 })).toEqual(metres);
    expect(source(float, { min: -0.2, max: 0.9 })).toEqual(metres);
    expect(source(float, { min: 0.5, max: 0.5 })).toEqual(metres);
    expect(source(float, { min: 0, max: 1 })).toMatchObject({
      heights: ends(0, 500),
      assumed: ['low', 'high', 'spacing'],
    });
  });
});
