import { targetById } from '../targets';
import { bestRungs, ladder, layoutsFor, rectangleLayouts, sizesOf, textureSamples } from '.';

const component = targetById('component-grid').grid;
const odd = targetById('odd-grid').grid;

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
      { quads: 255, patches: 2, components: 3 },
    ]);
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
