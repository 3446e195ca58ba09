/**
 * The card of the page is the card of the pack: statistics are kept under what they depend on, and after any sequence of
 * choices the values that stand on the page are those that the pack is written with.
 */
import fc from 'fast-check';
import { MemoryFolder, memorySource } from '@/core/base';
import { groundKey, plan } from '@/core/plan';
import type { GroundStatistics } from '@/core/raster';
import { countSource, enterFit, measureGround, run } from '@/core/run';
import { hills, recipeWith } from '../helpers/rasters';

jest.setTimeout(60_000);

const WIDTH = 83;
interface Kept {
  readonly key: string;
  readonly ground: GroundStatistics;
}

/** Gentle ground at 3900 m, a needle far above it, and a hole. */
const metres = Float32Array.from(hills(WIDTH, 61), (c) => 3900 + c * 0.00041);
metres[20 * WIDTH + 30] = 5200;
metres[40 * WIDTH + 50] = NaN;
const source = memorySource('fells.raw', new Uint8Array(metres.buffer));
const raw = { width: WIDTH, height: 61, type: 'f32', byteOrder: 'little' };

const heights = fc.record({
  range: fc.constantFrom('source', 'ground', 'pinned'),
  strategy: fc.constantFrom('full', 'headroom', 'fixed'),
  exaggeration: fc.constantFrom(1, 2.2, 0.3),
  offset: fc.constantFrom('lowest-code', 'lowest-ground', 'survey', 'middle-code'),
  low: fc.constantFrom(3890, 3905),
  stretch: fc.constantFrom(undefined, 1.8),
  // none changes the size of the grid
  steps: fc.constantFrom<readonly object[]>(
    [],
    [{ op: 'values', from: 5200, become: 'void' }],
    [{ op: 'values', from: 5200, become: 3907 }],
    [{ op: 'mirror', axis: 'x' }],
    [{ op: 'turn', quarters: 2 }],
  ),
});
const fits = fc.record({
  filter: fc.constantFrom('lanczos3', 'bilinear', 'nearest'),
  clamp: fc.boolean(),
  voids: fc.constantFrom(undefined, 3901.7),
  method: fc.constantFrom('resample', 'pad', 'crop', 'crop'),
  worldScale: fc.constantFrom(1, 0.3),
});

/** The cropped window holds neither the needle nor the hole. */
const GRIDS = {
  resample: { size: [127, 92] },
  pad: { size: [127, 92], at: [20, 15] },
  crop: { size: [43, 29], at: [32, 8] },
};
let compared = 0;

test('after any choices the card, spots and clipped samples of the page are those of the pack', async () => {
  const counted = await countSource(source, { raw: { ...raw, skip: 0 } as never });
  await fc.assert(
    fc.asyncProperty(fits, fc.array(heights, { minLength: 4, maxLength: 8 }), async (fit, sequence) => {
      // what a page keeps: the ground that was measured last, under its key
      let kept: Kept | undefined;
      for (const { range, strategy, exaggeration, offset, low, stretch, steps } of sequence) {
        const recipe = recipeWith({
          steps,
          source: { low: undefined, heights: { as: 'elevations', ...(stretch ? { stretch } : {}) }, raw },
          fit: { ...GRIDS[fit.method], ...fit },
          output: { format: 'raw' },
          height: {
            range,
            strategy,
            exaggeration,
            offset,
            ...(range === 'pinned' ? { low, high: 3960 } : {}),
            ...(strategy === 'headroom' ? { below: 10, above: 5 } : {}),
            ...(strategy === 'fixed' ? { scale: 100, anchor: { at: 'lowest', elevation: 3880 } } : {}),
          },
        });
        const { facts } = await enterFit(recipe, counted);
        const key = groundKey(recipe, facts);
        if (kept?.key !== key) kept = { key, ground: await measureGround(recipe, counted) };
        let shown = plan(recipe, facts, kept.ground);
        // samples that could not be counted against these bounds are counted anew
        if (shown.document.height.clipped.low === null) {
          kept = { key, ground: await measureGround(recipe, counted) };
          shown = plan(recipe, facts, kept.ground);
        }
        if (shown.refusals.length > 0) continue;
        compared++;
        const written = await run(recipe, counted, new MemoryFolder());
        expect(shown.document.card).toEqual(written.card);
        expect(shown.document.spots).toEqual(written.spots);
        expect(shown.document.height).toEqual(written.height);
      }
    }),
    {
      numRuns: 40,
      // a range that begins at the lowest ground, measured about a datum that follows from it
      examples: [
        [
          { filter: 'lanczos3', clamp: false, voids: undefined, method: 'crop', worldScale: 0.3 },
          [
            {
              range: 'ground',
              strategy: 'fixed',
              exaggeration: 0.3,
              offset: 'lowest-code',
              low: 3890,
              stretch: 1.8,
              steps: [{ op: 'mirror', axis: 'x' }],
            },
          ],
        ],
      ],
    },
  );
  expect(compared).toBeGreaterThan(60);
});
