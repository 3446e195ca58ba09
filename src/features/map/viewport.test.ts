import fc from 'fast-check';
import { fitTo, innerOf, toGroundX, toGroundY, toScreenX, toScreenY, within, zoomAt } from './viewport';

const inner = innerOf(900, 600);
const viewport = fc.record({
  x: fc.double({ min: -1e4, max: 1e4, noNaN: true }),
  y: fc.double({ min: -1e4, max: 1e4, noNaN: true }),
  scale: fc.double({ min: 0.01, max: 48, noNaN: true }),
});
const onScreen = fc.record({ px: fc.integer({ min: 46, max: 870 }), py: fc.integer({ min: 22, max: 570 }) });

test('screen and ground are each other’s inverse', () => {
  fc.assert(
    fc.property(viewport, onScreen, (v, { px, py }) => {
      expect(toScreenX(v, inner, toGroundX(v, inner, px))).toBeCloseTo(px, 5);
      expect(toScreenY(v, inner, toGroundY(v, inner, py))).toBeCloseTo(py, 5);
    }),
  );
});

test('zooming keeps the ground under the pointer and the scale within its bounds', () => {
  fc.assert(
    fc.property(viewport, onScreen, fc.double({ min: 0.01, max: 100, noNaN: true }), (v, { px, py }, factor) => {
      const z = zoomAt(v, inner, factor, px, py, 0.005);
      expect(z.scale).toBeGreaterThanOrEqual(0.005);
      expect(z.scale).toBeLessThanOrEqual(48);
      expect(Math.abs(toGroundX(z, inner, px) - toGroundX(v, inner, px)) * z.scale).toBeLessThan(1e-3);
      expect(Math.abs(toGroundY(z, inner, py) - toGroundY(v, inner, py)) * z.scale).toBeLessThan(1e-3);
    }),
  );
});

test('an extent that is shown whole lies inside the collar, its middle in the middle', () => {
  const extent = { left: 0, top: 0, right: 8128, bottom: 4000 };
  const v = fitTo(extent, inner);
  expect(toScreenX(v, inner, 4064)).toBeCloseTo(inner.left + inner.width / 2);
  for (const x of [0, 8128]) {
    expect(toScreenX(v, inner, x)).toBeGreaterThanOrEqual(inner.left);
    expect(toScreenX(v, inner, x)).toBeLessThanOrEqual(inner.left + inner.width);
  }
  expect(within({ ...v, x: -50, y: 9000 }, extent)).toEqual({ ...v, x: 0, y: 4000 });
});
