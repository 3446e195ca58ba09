import { plan } from '.';
import { digitsWithin } from './card';
import { groundOf as ground, wideFacts as facts } from '../../../tests/helpers/facts';
import { recipeWith } from '../../../tests/helpers/rasters';

const values = (p: ReturnType<typeof plan>): Record<string, number | string> =>
  Object.fromEntries(p.document.card.map((r) => [r.id, r.value]));
const check = (p: ReturnType<typeof plan>, id: string) => p.document.checks.find((c) => c.id === id);

describe('the component grid', () => {
  test('Kettle Tarn on 1525 vertices', () => {
    const p = plan(recipeWith({ fit: { size: 1525 } }), facts(), ground(0, 65535));
    expect(values(p)).toMatchObject({
      groundScaleX: 251.8045,
      groundScaleY: 251.8045,
      heightScale: 162.1118,
      heightOffset: 41500.63,
    });
    expect(p.document.fit.spacing.x).toBeCloseTo((2.5 * 1535) / 1524, 12);
    expect(p.document.height).toMatchObject({ low: 1310, high: 2140, step: 830 / 65535, zero: 1310 });
    expect(p.document.layout).toEqual({ quads: 127, patches: 2, componentsX: 6, componentsY: 6 });
    expect(p.document.layoutText).toBe('6 × 6 components, each 2 × 2 patches of 127 quads');
    expect(p.document.layoutReason).toBe('the fewest components of the 2 layouts of this size');
    expect(p.provisional).toBe(false);
  });
  test('spacing goes through intervals, never through counts: 1201 samples at 25 m on 2017 vertices', () => {
    const p = plan(recipeWith({ source: { spacing: 25 }, fit: { size: 2017 } }), facts(1201), null);
    expect(p.document.fit.spacing.x).toBeCloseTo(14.880952380952, 10);
    expect(values(p)['groundScaleX']).toBe(1488.0952);
    expect(p.document.fit.extent.x).toBe(30000);
  });
  test('a range of 874.5 m has the height scale 170.8034 and, lowest code at zero, the offset 43 725.67', () => {
    const p = plan(recipeWith({ source: { low: 0, high: 874.5 } }), facts(), null);
    expect(values(p)).toMatchObject({ heightScale: 170.8034, heightOffset: 43725.67 });
  });
  test.each([
    ['lowest-code', {}, 25600],
    ['sea', { sea: 140 }, 21600],
    ['survey', {}, 35600],
    ['middle-code', {}, 0],
  ])('height scale 100 anchored at 100 m with %s at zero', (offset, extra, expected) => {
    const p = plan(
      recipeWith({
        height: { strategy: 'fixed', scale: 100, anchor: { at: 'lowest', elevation: 100 }, offset, ...extra },
      }),
      facts(),
      ground(0, 65535),
    );
    expect(values(p)['heightScale']).toBe(100);
    expect(values(p)['heightOffset']).toBeCloseTo(expected, 6);
  });
  test.each([
    ['lowest', 0],
    ['middle', 32768],
    ['highest', 65535],
  ])('a fixed scale keeps the %s code where it was anchored', (at, code) => {
    const { document } = plan(
      recipeWith({ height: { strategy: 'fixed', scale: 200, anchor: { at, elevation: 1500 } } }),
      facts(),
      null,
    );
    const step = 200 / 12800;
    expect(document.height.step).toBeCloseTo(step, 12);
    expect(document.height.low + code * step).toBeCloseTo(1500, 9);
  });
  test('headroom keeps the ground where it is and its own lowest by name', () => {
    const p = plan(
      recipeWith({ height: { strategy: 'headroom', below: 10, above: 15, offset: 'lowest-ground' } }),
      facts(),
      null,
    );
    const total = 830 / 0.75;
    expect(p.document.height.low).toBeCloseTo(1310 - 0.1 * total, 9);
    expect(p.document.height.high).toBeCloseTo(2140 + 0.15 * total, 9);
    expect(p.document.height.zero).toBe(1310);
    expect(values(p)['heightOffset']).toBeCloseTo(100 * (-0.1 * total) + (256 * total * 12800) / 65535, 2);
  });
  test('the range of the source is that of the codes that occur', () => {
    const { document } = plan(recipeWith({}), facts(1536, 1536, 6553, 52428), null);
    expect(document.height.low).toBeCloseTo(1310 + (830 * 6553) / 65535, 9);
    expect(document.height.high).toBeCloseTo(1310 + (830 * 52428) / 65535, 9);
  });
  test('the range of the ground waits for the ground', () => {
    const recipe = recipeWith({ height: { range: 'ground' } });
    expect(plan(recipe, facts(), null).provisional).toBe(true);
    const { document, provisional } = plan(recipe, facts(), ground(100, 60000));
    expect(provisional).toBe(false);
    expect(document.height.high).toBeCloseTo(1310 + (830 * 60000) / 65535, 9);
  });
  test('a miniature at 1 : 4 shrinks ground and heights by one factor', () => {
    const p = plan(recipeWith({ fit: { size: 1525, worldScale: 0.25 }, height: { offset: 'survey' } }), facts(), null);
    expect(p.document.fit.extent.x).toBeCloseTo(3837.5 / 4, 9);
    expect(p.document.height.high - p.document.height.low).toBeCloseTo(207.5, 9);
    expect(values(p)['heightScale']).toBeCloseTo(162.1118 / 4, 3);
    expect(check(p, 'miniature')?.state).toBe('holds');
  });
  test('world zero may lie at a corner or in the middle', () => {
    const at = (origin: string) => values(plan(recipeWith({ fit: { size: 1525, origin } }), facts(), null));
    expect(at('centre')).toMatchObject({ eastOffset: -191875, northOffset: 191875 });
    expect(at('south-west')).toMatchObject({ eastOffset: 0, northOffset: 383750 });
  });
  test('typing stays within a tenth of a step, however flat the ground', () => {
    for (const range of [0.5, 3, 40, 830, 9000]) {
      const p = plan(recipeWith({ source: { low: 0, high: range } }), facts(), null);
      expect(p.document.typing.budget).toBeLessThanOrEqual(p.document.height.step / 10);
      for (const row of p.document.card)
        if (typeof row.value === 'number')
          expect(Math.abs(row.value - (row.exact ?? NaN))).toBeLessThanOrEqual(0.5 * 10 ** -row.digits + 1e-9);
    }
    expect(digitsWithin(1, 2)).toBe(2);
    expect(digitsWithin(0.0004, 2)).toBe(4);
  });
});

describe('the odd grid', () => {
  test('asks for extents, range and base', () => {
    const p = plan(
      recipeWith({
        target: 'odd-grid',
        fit: { size: 1025 },
        height: { offset: 'sea', sea: 1300 },
        output: { format: 'raw' },
      }),
      facts(),
      null,
    );
    expect(values(p)).toEqual({
      vertices: 1025,
      extentX: 3837.5,
      extentY: 3837.5,
      heightRange: 830,
      baseElevation: 10,
      eastOffset: 0,
      northOffset: 0,
      bitDepth: 16,
      byteOrder: 'little',
      rowOrder: 'north',
      // 1025 · 1025 · 2
      fileSize: 2101250,
    });
    expect(p.document.layout).toBeNull();
  });
  test('of a split, the card is that of one tile', () => {
    const p = plan(
      recipeWith({ target: 'odd-grid', fit: { size: 1025 }, split: { across: 2, down: 2 }, output: { format: 'raw' } }),
      facts(),
      null,
    );
    expect(values(p)).toMatchObject({ vertices: 513, extentX: 1918.75 });
    expect(p.refusals).toEqual([]);
  });
});

test('negative elevations stand in brackets behind a minus', () => {
  const p = plan(
    recipeWith({
      target: 'odd-grid',
      source: { low: -20, high: 80 },
      fit: { size: 257 },
      height: { offset: 'survey' },
    }),
    facts(),
    null,
  );
  const formula = (id: string) => p.document.card.find((r) => r.id === id)?.formula;
  expect(formula('heightRange')).toBe('80 − (−20) = 100.0000 m');
  expect(formula('baseElevation')).toBe('−20 − 0 = −20.0000 m');
});

describe('refusals', () => {
  const refusal = (parts: Parameters<typeof recipeWith>[0], f = facts()) =>
    plan(recipeWith(parts), f, null).refusals[0];
  test('a size off the ladder names its neighbours', () => {
    expect(refusal({ fit: { size: 1500 } })).toMatchObject({
      code: 'size-not-on-ladder',
      found: '1500 vertices per side',
    });
    expect(refusal({ fit: { size: 1500 } })?.remedy).toMatch(/\d+ or \d+/);
  });
  test('2ⁿ where 2ⁿ + 1 is wanted', () => {
    const r = refusal({ target: 'odd-grid', fit: { size: 1024 }, output: { format: 'raw' } });
    expect(r?.found).toContain('without the one vertex more');
    expect(r?.remedy).toContain('1025');
  });
  test('a tile off the ladder names the tile, an indivisible whole the whole', () => {
    expect(refusal({ fit: { size: 1501 }, split: { across: 3, down: 3 } })).toMatchObject({
      code: 'size-not-on-ladder',
      found: '501 vertices per side of a tile',
    });
    expect(refusal({ fit: { size: 1500 }, split: { across: 3, down: 3 } })).toMatchObject({
      code: 'split-indivisible',
      found: '1500 vertices for 3 tiles across with shared edges',
    });
    expect(refusal({ fit: { size: 1513 }, split: { across: 3, down: 3 } })).toBeUndefined();
    expect(refusal({ fit: { size: 1515 }, split: { across: 3, down: 3, edges: 'abutting' } })).toBeUndefined();
  });
  test('a crop outside the source', () => {
    expect(refusal({ fit: { size: 1525, method: 'crop', at: [20, 0] } })).toMatchObject({ code: 'crop-outside' });
    expect(refusal({ fit: { size: 1525, method: 'crop', at: [11, 11] } })).toBeUndefined();
  });
  test('names that two tiles share, or that no system stores', () => {
    expect(refusal({ fit: { size: 1513 }, split: { across: 3, down: 3, pattern: '{name}-{col}' } })).toMatchObject({
      code: 'file-name',
    });
    expect(refusal({ fit: { size: 1513 }, split: { across: 3, down: 3, pattern: 'a/{index}' } })).toMatchObject({
      code: 'file-name',
      found: '"/" in the file name "a/0"',
    });
    expect(refusal({ fit: { size: 1513 }, split: { across: 3, down: 3, pattern: '{nam}{index}' } })).toMatchObject({
      code: 'file-name',
    });
  });
  test('a layout that the size does not have', () => {
    expect(refusal({ fit: { size: 1525, layout: { quads: 63, patches: 1 } } })?.expected).toContain('127 quads');
  });
});

describe('tiles', () => {
  const p = plan(
    recipeWith({ name: 'Kettle Tarn', fit: { size: 1513 }, split: { across: 3, down: 3, rows: 'south', first: 1 } }),
    facts(),
    null,
  );
  test('share their edges and are numbered from the south', () => {
    expect(p.document.files.map((f) => f.name).slice(0, 4)).toEqual([
      'Kettle-Tarn-r03c01.png',
      'Kettle-Tarn-r03c02.png',
      'Kettle-Tarn-r03c03.png',
      'Kettle-Tarn-r02c01.png',
    ]);
    expect(p.document.files[4]).toMatchObject({
      column: 2,
      row: 2,
      window: { x: 504, y: 504, width: 505, height: 505 },
    });
  });
  test('are placed so that each touches one already there', () => {
    const placed = new Set<string>();
    for (const t of p.document.placement) {
      if (placed.size > 0) expect(t.neighbours.some((n) => placed.has(n))).toBe(true);
      placed.add(t.file);
    }
    expect(placed.size).toBe(9);
    expect(p.document.placement[8]).toMatchObject({ componentsEast: 8, componentsSouth: 8 });
  });
  test('the whole of larger worlds', () => {
    for (const [k, n, whole] of [
      [3, 2017, 6049],
      [2, 4033, 8065],
      [4, 4033, 16129],
    ] as const) {
      expect(
        plan(recipeWith({ fit: { size: whole }, split: { across: k, down: k } }), facts(), null).document.tiles.width,
      ).toBe(n);
    }
  });
});

describe('checks', () => {
  test('overshoot is counted against the very range that will be written, with a repair', () => {
    const recipe = recipeWith({ fit: { size: 1525 } });
    const first = plan(recipe, facts(), ground(-9, 65535));
    expect(check(first, 'clipped')?.state).toBe('not-yet');
    const bounds = { low: -0.5, high: 65535.5 };
    const exact = first.work.quantiser;
    const low = (-0.5 - exact.offset) / exact.scale;
    const high = (65535.5 - exact.offset) / exact.scale;
    // heights are counted from the middle of the range
    expect(first.work.fit.datum).toBe(32768);
    expect(low + 32768).toBeCloseTo(bounds.low, 6);
    expect(high + 32768).toBeCloseTo(bounds.high, 6);
    const counted = plan(recipe, facts(), ground(-9, 65535, { outside: { low, high, below: 12, above: 0 } }));
    expect(check(counted, 'clipped')).toMatchObject({
      state: 'caution',
      repair: { edit: 'clamp', args: { clamp: true } },
    });
    expect(counted.document.height.clipped).toEqual({ low: 12, high: 0 });
  });
  test('a ceiling of one’s own is told of, and what is offered stays below it', () => {
    const at = (fit: object) => plan(recipeWith({ fit: fit }), facts(), null);
    const above = check(at({ size: 1525, atMost: 1009 }), 'vertices-budget')!;
    expect(above).toMatchObject({ state: 'caution', message: expect.stringContaining('your own ceiling of 1009') });
    expect((above.repair!.args as { size: number }).size).toBe(1009);
    expect(check(at({ size: 1009, atMost: 1009 }), 'vertices-budget')).toMatchObject({
      state: 'holds',
      message: '1009 vertices per side, within your own ceiling of 1009.',
    });
    // less detail is kept than could be: what is offered are tiles below the ceiling, never a size above it
    const kept = check(at({ size: 1009, atMost: 1009 }), 'fill')!;
    expect(kept.repair!.label).toMatch(/^2 × 2 tiles of \d+$/);
    expect(Number(/\d+$/.exec(kept.repair!.label)![0])).toBeLessThanOrEqual(1009);
    expect(check(at({ size: 1009 }), 'fill')!.repair!.label).toBe('take 1513');
  });
  test('the size tells of invented detail, rims and cuts', () => {
    expect(check(plan(recipeWith({ fit: { size: 2017 } }), facts(), null), 'fill')?.message).toContain('42 %');
    expect(check(plan(recipeWith({ fit: { size: 1652, method: 'pad' } }), facts(), null), 'rim')?.message).toContain(
      'rim of 116 vertices',
    );
    expect(check(plan(recipeWith({ fit: { size: 1398, method: 'crop' } }), facts(), null), 'cut')?.message).toContain(
      '1398 × 1398 of the source’s 1536 × 1536 samples are kept, 83 %',
    );
    expect(check(plan(recipeWith({ fit: { size: 1525 } }), facts(1536, 1200), null), 'square')?.state).toBe('caution');
  });
  test('few bits and coarse steps are told', () => {
    const p = plan(recipeWith({ source: { spacing: 0.5 } }), facts(512, 512, 0, 255, { bitDepth: 8 }), null);
    expect(check(p, 'source-depth')?.state).toBe('caution');
    // only another source would help: no caution without a cure
    expect(check(p, 'precision')?.state).toBe('note');
    expect(check(plan(recipeWith({ fit: { size: 1525 } }), facts(), null), 'precision')?.state).toBe('holds');
  });
  test.each([
    // 65 535 steps over 360 m and over 361 m, on ground of a metre: jitters of 0.549 and 0.551 %, told as 0.5 and 0.6
    [360, 'holds'],
    [361, 'note'],
  ])('a range of %s m on a metre of spacing: its steps %s', (high, state) => {
    const source = { spacing: 1, low: 0, high: high };
    expect(
      check(plan(recipeWith({ source, fit: { size: 1525 } }), facts(1525), ground(0, 65535)), 'precision')?.state,
    ).toBe(state);
  });
  test.each([
    // 2 × 2 tiles of components of 7 quads: 4 × 16² = 1 024 are the budget itself, 4 × 17² = 1 156 are above it
    [225, 'holds'],
    [239, 'caution'],
  ])('a size of %s in tiles of components of 7 quads: the budget %s', (size, state) => {
    const fit = { size, layout: { quads: 7, patches: 1 } };
    const p = plan(recipeWith({ fit, split: { across: 2, down: 2 } }), facts(), null);
    expect(check(p, 'components-budget')?.state).toBe(state);
  });
  test('sea below everything, or over most of it', () => {
    const sea = (level: number) =>
      check(plan(recipeWith({ height: { sea: level } }), facts(), ground(0, 65535)), 'sea')?.state;
    expect(sea(1000)).toBe('caution');
    expect(sea(1400)).toBe('holds');
    expect(sea(2000)).toBe('caution');
  });
  test('flat ground, voids, abutting tiles, budgets', () => {
    const flat = plan(recipeWith({}), facts(600, 600, 77, 77), ground(77, 77));
    expect(check(flat, 'flat')?.state).toBe('caution');
    expect(flat.document.height.high - flat.document.height.low).toBe(1);
    const voids = plan(recipeWith({}), facts(), ground(0, 9, { voids: 3 }));
    expect(check(voids, 'voids')).toMatchObject({
      state: 'fault',
      repair: { edit: 'voids', args: { elevation: 1310 } },
    });
    expect(voids.refusals.map((r) => r.code)).toEqual(['voids']);
    expect(
      check(
        plan(recipeWith({ fit: { size: 1515 }, split: { across: 3, down: 3, edges: 'abutting' } }), facts(), null),
        'edges',
      ),
    ).toMatchObject({ state: 'caution', repair: { edit: 'tiles', args: { size: 1513, edges: 'shared' } } });
    expect(check(plan(recipeWith({ fit: { size: 16321 } }), facts(16321), null), 'vertices-budget')?.state).toBe(
      'caution',
    );
  });
  test('the target’s formats', () => {
    expect(check(plan(recipeWith({ output: { format: 'png' } }), facts(), null), 'format')).toBeUndefined();
  });
});

test('a plan is plain data: no NaN, nothing lost as JSON', () => {
  const { document } = plan(recipeWith({ fit: { size: 1525 } }), facts(), ground(0, 65535));
  expect(JSON.parse(JSON.stringify(document))).toEqual(document);
  expect(JSON.stringify(document)).not.toMatch(/NaN|null,null,null/);
});
