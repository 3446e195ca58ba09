/** The thin plate between bounds: kernel and plain twin, to the bit. */
import * as fc from 'fast-check';
import { relaxed } from '../operations/heal-steps/relax';
import { flatRuns } from '../operations/heal-steps/terraces';

test('a surface by the kernel equals its twin to the bit, voids and borders included', () => {
  let moved = 0;
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 40 }),
      fc.integer({ min: 1, max: 33 }),
      fc.constantFrom(Float32Array, Float64Array),
      fc.constantFrom(0, 0, 3, 40),
      fc.nat(1000),
      (width, height, Stored, holes, seed) => {
        const steps = Array.from({ length: width * height }, (_, i) => {
          const [x, y] = [i % width, Math.floor(i / width)];
          return Math.round(20 + 6 * Math.sin(x * 0.23 + seed) * Math.cos(y * 0.31)) * 0.7;
        });
        const data = new Stored(steps);
        for (let i = 0; i < holes; i++) data[(i * 7919 + seed) % data.length] = NaN;
        const flat = flatRuns({ data, width, height }, 0.7, (x, y) => (x * 5 + y + seed) % 11 > 0);
        const bounds = { below: 0.35, above: 0.34, lowest: 9.8, highest: 18.2 };
        const [one, twin] = [false, true].map((plain) =>
          relaxed({ data, width, height, flat }, bounds, undefined, plain),
        ) as [Float64Array, Float64Array];
        expect(one.findIndex((v, i) => !Object.is(v, twin[i]))).toBe(-1);
        one.forEach((v, i) => (moved += Number(flat[i] === 1 && v !== data[i])));
      },
    ),
    { numRuns: 150 },
  );
  expect(moved).toBeGreaterThan(1000);
});
