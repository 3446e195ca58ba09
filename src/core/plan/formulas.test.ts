import { Parser } from 'expr-eval-fork';
import fc from 'fast-check';
import { parseRecipe } from '../recipe';
import { plan } from './plan';
import { wideFacts } from '../../../tests/helpers/facts';

/** What a formula works out to, by an independent reader of sums. */
function worth(text: string): number {
  const plain = text
    .replace(/(\d) (?=\d{3}\b)/g, '$1')
    .replace(/(\d) (?=\d{3}\b)/g, '$1')
    .replace(/−/g, '-')
    .replace(/·/g, '*')
    .replace(/ m\b/g, '');
  return Parser.evaluate(plain);
}

const decimals = (text: string): number => /\.(\d+)/.exec(text)?.[1]?.length ?? 0;

test('every formula on the card gives what stands behind it, to the last digit shown', () => {
  let formulas = 0;
  fc.assert(
    fc.property(
      fc.record({
        target: fc.constantFrom('component-grid' as const, 'odd-grid' as const),
        low: fc.double({ min: -500, max: 3000, noNaN: true }),
        range: fc.double({ min: 1, max: 6000, noNaN: true }),
        spacing: fc.double({ min: 0.05, max: 90, noNaN: true }),
        zero: fc.double({ min: -100, max: 3000, noNaN: true }),
        worldScale: fc.constantFrom(1, 0.25, 1 / 3),
        method: fc.constantFrom('resample' as const, 'crop' as const),
        origin: fc.constantFrom('north-west' as const, 'centre' as const),
        exaggeration: fc.constantFrom(1, 2.5),
        side: fc.constantFrom(1536, 2048, 4033),
      }),
      ({ target, low, range, spacing, zero, worldScale, method, origin, exaggeration, side }) => {
        const recipe = parseRecipe({
          version: 2,
          name: 'Cold Ridge',
          source: { low, high: low + range, spacing },
          target,
          fit: { size: target === 'odd-grid' ? 1025 : 1525, worldScale, method, origin },
          height: { range: 'source', offset: 'sea', sea: zero, exaggeration },
          output: { format: 'png' },
        });
        for (const { id, formula, value, digits } of plan(recipe, wideFacts(side), null).document.card) {
          const [left, right] = formula.replace(/^heights × [\d.]+: /, '').split(' = ');
          if (left === undefined || right === undefined) continue;
          formulas++;
          const shown = worth(right.replace(/ for one tile$/, ''));
          const half = 0.5 * 10 ** -decimals(right);
          expect([id, formula, Math.abs(worth(left) - shown) <= half * 1.05]).toEqual([id, formula, true]);
          // and it is the value that is typed
          expect([id, formula, shown]).toEqual([id, formula, Number((value as number).toFixed(digits))]);
        }
      },
    ),
    { numRuns: 100 },
  );
  expect(formulas).toBeGreaterThan(300);
});
