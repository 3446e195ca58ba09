/**
 * What Level Grid proposes its own checks must not object to: first recipes, repairs, and sizes of tiles, over random
 * sizes of sources and every target.
 */
import fc from 'fast-check';
import { applyEdit, freshRecipe, withTiles } from '@/core/edits';
import { splitOffers } from '@/core/grid';
import { plan, type PlanDocument } from '@/core/plan';
import type { Recipe } from '@/core/recipe';
import { BUILT_IN_TARGETS, targetOf } from '@/core/targets';
import { wideFacts } from '../helpers/facts';

/** `PROPOSALS=10000` tries so many sources. */
const RUNS = Number(process.env['PROPOSALS'] ?? 400);
jest.setTimeout(60_000 + RUNS * 20);

const BUDGETS = ['vertices-budget', 'components-budget'];
const objected = ({ checks }: PlanDocument): string[] =>
  checks
    .filter((c) => BUDGETS.includes(c.id) && (c.state === 'caution' || c.state === 'fault'))
    .map((c) => `${c.id}: ${c.message}`);

const side = fc.oneof(
  fc.integer({ min: 2, max: 17_000 }),
  fc.constantFrom(1024, 1025, 1081, 1536, 2048, 2049, 4096, 4097, 8129, 8192, 8193, 16_384),
);
const sources = fc.record({
  width: side,
  // squares, and what is none
  height: fc.option(side, { nil: null, freq: 2 }),
  target: fc.constantFrom(...BUILT_IN_TARGETS.map((t) => t.id)),
});

test('a first recipe, every repair and every size of tiles stays within the budgets of its target', () => {
  let repairs = 0;
  let offers = 0;
  fc.assert(
    fc.property(sources, fc.integer({ min: 1, max: 6 }), fc.integer({ min: 1, max: 6 }), (s, across, down) => {
      const [width, height] = [s.width, s.height ?? s.width];
      const facts = wideFacts(width, height);
      const of = (recipe: Recipe): PlanDocument => plan(recipe, facts, null).document;
      const fresh = freshRecipe({ info: facts.info }, 'fells', s.target);
      const first = of(fresh);
      expect(objected(first)).toEqual([]);
      for (const { id, repair } of first.checks) {
        if (!repair) continue;
        repairs++;
        const mended = of(applyEdit(fresh, repair));
        expect({ id, repair, objected: objected(mended) }).toMatchObject({ objected: [] });
        expect({ id, repair, again: mended.checks.find((c) => c.id === id)?.repair ?? null }).not.toMatchObject({
          again: repair,
        });
      }
      const target = targetOf(s.target);
      const edges = target.registration === 'cell' ? ('abutting' as const) : ('shared' as const);
      for (const { tile } of splitOffers(target.grid, facts.info, { across, down, edges }, target.budgets)) {
        offers++;
        const split = { ...fresh, ...(across * down > 1 ? { split: { ...SPLIT, across, down, edges } } : {}) };
        expect({ tile, objected: objected(of(withTiles(split, tile))) }).toEqual({ tile, objected: [] });
      }
    }),
    { numRuns: RUNS },
  );
  expect(repairs).toBeGreaterThan(RUNS / 20);
  expect(offers).toBeGreaterThan(RUNS);
});

const SPLIT = { pattern: '{name}-r{row:2}c{col:2}', first: 0, rows: 'north' } as const;
