/** The passes in double precision and around voids: kernel and plain twin, to the bit. */
import * as fc from 'fast-check';
import { axisWeights, FILTERS } from '../raster/kernels';
import { clampInPlace, columnPassAround, LEAST_WEIGHT, rowPassAround } from '../raster/passes';
import { PreciseResampleKernel } from './doubles';
import { floatsAt } from './instance';

/** How the source is filled: whole codes, heights, or heights with voids: single, in a whole row, nearly everywhere. */
const KINDS = ['codes', 'heights', 'a void', 'a row of voids', 'mostly voids'] as const;

function filled(kind: (typeof KINDS)[number], w: number, h: number, seed: number): Uint16Array | Float32Array {
  const heights = Float32Array.from({ length: w * h }, (_, i) => {
    const [x, y] = [i % w, Math.floor(i / w)];
    return 1000.3 + 500 * Math.sin(x * 0.7 + y + seed) + ((x * 31 + y * 17) % 13);
  });
  if (kind === 'codes') return Uint16Array.from(heights);
  if (kind === 'a void') heights[seed % heights.length] = NaN;
  if (kind === 'a row of voids') heights.fill(NaN, (seed % h) * w, (seed % h) * w + w);
  if (kind === 'mostly voids') for (let i = 0; i < heights.length; i++) if ((i * 7 + seed) % 5 > 0) heights[i] = NaN;
  return heights;
}

test.each(FILTERS)('%s in double precision equals its twin to the bit, voids included', (filter) => {
  let voids = 0;
  fc.assert(
    fc.property(
      fc.integer({ min: 2, max: 60 }),
      fc.integer({ min: 2, max: 90 }),
      fc.integer({ min: 2, max: 30 }),
      fc.integer({ min: 2, max: 40 }),
      fc.constantFrom(...KINDS),
      fc.nat(1000),
      (w, W, h, H, kind, seed) => {
        const across = axisWeights({ sourceSamples: w, resultSamples: W, from: 0, to: W }, filter);
        const down = axisWeights({ sourceSamples: h, resultSamples: H, from: 0, to: H }, filter);
        const datum = kind === 'codes' ? 900 : 0;
        const band = filled(kind, w, h, seed);
        const kernel = PreciseResampleKernel.create(across, down, w, W, 3, datum)!;
        // all rows of the twin's row pass, kept
        const passed = new Float64Array(h * W * 2);
        for (let y = 0; y < h; y++) {
          const line = Float32Array.from(band.subarray(y * w, (y + 1) * w), (v) => v - datum);
          rowPassAround(passed.subarray(y * W * 2, (y + 1) * W * 2), line, across, W);
        }
        let next = 0;
        for (let y = 0; y < h;) {
          const count = Math.min(h - y, 1 + ((y * 7 + w) % 8));
          kernel.rows(band.subarray(y * w, (y + count) * w), y);
          y += count;
          for (; next < H && down.first[next]! + down.taps <= y; next++) {
            const twin = new Float32Array(W);
            const slot = next % 3;
            kernel.column(slot, next, 600 - datum, 1450 - datum, LEAST_WEIGHT);
            columnPassAround(twin, passed, down, next, h, W);
            clampInPlace(twin, 600 - datum, 1450 - datum);
            const found = floatsAt(kernel.band(slot + 1)).slice(slot * W);
            expect(found.findIndex((v, i) => !Object.is(v, twin[i]))).toBe(-1);
            voids += twin.reduce((n, v) => n + Number(v !== v), 0);
          }
        }
        expect(next).toBe(H);
      },
    ),
    { numRuns: 100 },
  );
  expect(voids).toBeGreaterThan(100);
});

test('more rows than go together are refused', () => {
  const axis = axisWeights({ sourceSamples: 4, resultSamples: 4, from: 0, to: 4 }, 'bilinear');
  const kernel = PreciseResampleKernel.create(axis, axis, 4, 4, 8)!;
  expect(() => kernel.rows(new Float32Array(9 * 4), 0)).toThrow('more rows');
});
