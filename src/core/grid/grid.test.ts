import fc from 'fast-check';
import { targetOf } from '../targets';
import { bestRungs, firstFit, ladder, layoutsFor, rectangleLayouts, sizesOf, splitOffers, textureSamples } from '.';

const component = targetOf('component-grid').grid;
const odd = targetOf('odd-grid').grid;

describe('the ladder of the component grid', () => {
  test('has 272 sizes up to 16321, well-worn ones among them', () => {
    const sizes = sizesOf(component);
    expect(sizes).toHaveLength(272);
    expect(sizes.at(-1)).toBe(16321);
    expect([...sizes].sort((a, b) => a - b)).toEqual(sizes);
    for (const n of [127, 253, 505, 1009, 1513, 1525, 1531, 2017, 2033, 2041, 3025, 4033, 6097, 8129])
      expect(sizes).toContain(n);
  });
  test('a source of 1536 samples fills 1531, 1525 and 1513 best', () => {
    const rungs = ladder(component, 1536);
    expect(bestRungs(rungs, 3).map((r) => r.vertices)).toEqual([1531, 1525, 1513]);
    const at = (n: number) => rungs.find((r) => r.vertices === n);
    expect(at(1531)?.layouts).toEqual([
      { quads: 255, patches: 1, components: 6 },
      // the fewest components on the rung that a new project takes
      { quads: 255, patches: 2, components: 3, default: true },
    ]);
    expect(rungs.filter((r) => r.default).map((r) => r.vertices)).toEqual([1531]);
    expect(at(1525)).toEqual({
      vertices: 1525,
      layouts: [
        { quads: 127, patches: 1, components: 12 },
        { quads: 127, patches: 2, components: 6 },
      ],
      filled: true,
      rim: 0,
      cut: 11,
      upsampling: 1524 / 1535,
    });
    expect(at(1652)).toMatchObject({ filled: false, rim: 116, cut: 0 });
    expect(at(1398)).toMatchObject({ filled: true, rim: 0, cut: 138 });
  });
  test('every layout makes its size', () => {
    for (const rung of ladder(component, 1000)) {
      expect(rung.layouts.length).toBeGreaterThan(0);
      for (const l of rung.layouts) expect(l.quads * l.patches * l.components + 1).toBe(rung.vertices);
    }
  });
});

test('the odd grid takes powers of two plus one', () => {
  expect(sizesOf(odd)).toEqual([33, 65, 129, 257, 513, 1025, 2049, 4097]);
  expect(ladder(odd, 1000).every((r) => r.layouts.length === 0)).toBe(true);
});

test('a longer terrain shares its patches both ways', () => {
  if (component.kind !== 'components') throw new Error('unexpected');
  expect(layoutsFor(1000, component)).toEqual([]);
  expect(rectangleLayouts(1009, 505, component)).toEqual([
    { quads: 63, patches: 1, componentsX: 16, componentsY: 8 },
    { quads: 63, patches: 2, componentsX: 8, componentsY: 4 },
  ]);
  expect(rectangleLayouts(1525, 505, component)).toEqual([]);
  expect(textureSamples({ quads: 127, patches: 1, componentsX: 12, componentsY: 12 })).toBe(1536 ** 2);
});

test.each([
  // component grid: the source's own size, else few components within 2 %
  ['component-grid', 2017, 2017],
  ['component-grid', 1536, 1531],
  ['component-grid', 2048, 2041],
  ['component-grid', 1024, 1021],
  ['component-grid', 127, 127],
  ['component-grid', 3, 8],
  // odd grid: 2ⁿ fills 2ⁿ + 1
  ['odd-grid', 2048, 2049],
  ['odd-grid', 1024, 1025],
  ['odd-grid', 1025, 1025],
  ['odd-grid', 1536, 1025],
  ['odd-grid', 4096, 4097],
  ['odd-grid', 9000, 4097],
])('a new project on the %s of a source of %d takes %d', (target, samples, vertices) => {
  const { grid, budgets } = targetOf(target);
  expect(ladder(grid, samples, budgets).find((r) => r.default)?.vertices).toBe(vertices);
});

test('2017 is laid out with 256 components, not 1024', () => {
  const rung = ladder(component, 2017, { components: 1024, verticesAdvised: 8129 }).find((r) => r.default);
  expect(rung?.layouts.find((l) => l.default)).toMatchObject({ components: 16, patches: 2, quads: 63 });
});

describe('the first fit', () => {
  const fit = (target: string, width: number, height: number) => {
    const { grid, square, budgets } = targetOf(target);
    return firstFit(grid, square, { width, height }, budgets);
  };
  test('never stretches ground: a rectangle keeps its shape where the target takes one', () => {
    const { size, method } = fit('component-grid', 2049, 1025);
    const [w, h] = size as [number, number];
    expect(method).toBe('resample');
    expect((w - 1) / 2048 / ((h - 1) / 1024)).toBeCloseTo(1, 4);
    expect(w).toBeGreaterThan(2000);
    fc.assert(
      fc.property(fc.integer({ min: 40, max: 5000 }), fc.integer({ min: 40, max: 5000 }), (width, height) => {
        for (const target of ['component-grid', 'odd-grid']) {
          const { size: s, method: how, at } = fit(target, width, height);
          const [a, b] = typeof s === 'number' ? [s, s] : s;
          if (how === 'resample') expect((a - 1) / (width - 1) / ((b - 1) / (height - 1))).toBeCloseTo(1, 3);
          // in the middle, to half a sample
          const sign = how === 'crop' ? 1 : -1;
          if (how !== 'resample') {
            expect(Math.abs(2 * at[0] * sign + a - width)).toBeLessThanOrEqual(1);
            expect(Math.abs(2 * at[1] * sign + b - height)).toBeLessThanOrEqual(1);
          }
          if (target === 'odd-grid') expect(a).toBe(b);
        }
      }),
      { numRuns: 200 },
    );
  });
  test('where sides must be equal it crops or pads in the middle, whichever gives more ground', () => {
    expect(fit('odd-grid', 2049, 1025)).toEqual({ size: 1025, method: 'crop', at: [512, 0] });
    expect(fit('odd-grid', 2048, 2000)).toEqual({ size: 2049, method: 'pad', at: [0, 24] });
  });
  test('where every size is taken a rectangle stays as it is, or is shrunk by one factor', () => {
    expect(fit('exchange', 1536, 1200)).toEqual({ size: [1536, 1200], method: 'resample', at: [0, 0] });
    expect(fit('voxel-layers', 300, 1081)).toEqual({ size: [300, 1081], method: 'resample', at: [0, 0] });
    // 8192 are advised: 16 383 : 5 461 intervals become 8 191 : 2 730.3
    expect(fit('voxel-layers', 16384, 5462)).toMatchObject({ size: [8192, 2731], method: 'resample' });
    expect(fit('voxel-layers', 300, 7)).toMatchObject({ method: 'pad' });
  });
  test.each([
    ['component-grid', 1081, 1021],
    ['component-grid', 8001, 7651],
    ['component-grid', 8192, 7651],
  ])('%s of %d samples: the budgets hold, and few components count', (target, samples, vertices) => {
    expect(fit(target, samples, samples)).toMatchObject({ size: vertices, method: 'resample' });
  });
  test('a single sample is padded, since it has no extent', () => {
    expect(fit('component-grid', 1, 1)).toEqual({ size: 8, method: 'pad', at: [3, 3] });
    expect(fit('odd-grid', 1, 40)).toMatchObject({ method: 'pad' });
    expect(fit('odd-grid', 2, 2)).toMatchObject({ method: 'resample', size: 33 });
  });
});

test.each([
  [3, 3, 5],
  [2, 7, 3],
])('what is offered for %s × %s tiles stays within the budgets', (across, down, count) => {
  const budgets = { components: 1024, verticesAdvised: 8129 };
  const question = { across, down, edges: 'shared' } as const;
  const offers = splitOffers(component, { width: 1536, height: 1536 }, question, budgets, count);
  expect(offers).toHaveLength(count);
  for (const o of offers) expect(o.components).toBeLessThanOrEqual(1024);
  // without budgets a nearer size stands over them
  const any = splitOffers(component, { width: 1536, height: 1536 }, { across: 3, down: 3, edges: 'shared' });
  expect(any.some((o) => o.components! > 1024)).toBe(true);
  // more tiles than there may be components
  expect(splitOffers(component, { width: 1536, height: 1536 }, { ...question, across: 40, down: 40 }, budgets)).toEqual(
    [],
  );
});

test('offers for a split come near to the source and count everything', () => {
  const offers = splitOffers(component, { width: 1536, height: 1536 }, { across: 3, down: 3, edges: 'shared' });
  for (const o of offers) {
    expect(o.width).toBe(3 * (o.tile - 1) + 1);
    expect(o.upsampling).toBeCloseTo((o.width - 1) / 1535, 12);
    expect(o.imports).toBe(9);
    expect(o.components).toBe(9 * o.layout!.components ** 2);
  }
  expect(offers.map((o) => o.tile)).toContain(511);
  expect(Math.min(...offers.map((o) => Math.abs(Math.log(o.upsampling))))).toBeLessThan(0.005);
});
