/** What follows from the ground that was measured, and what a target has no use for. */
import { groundKey, plan } from '.';
import { groundOf as ground, wideFacts as facts } from '../../../tests/helpers/facts';
import { recipeWith } from '../../../tests/helpers/rasters';

const check = (p: ReturnType<typeof plan>, id: string) => p.document.checks.find((c) => c.id === id);

test('what was measured of the ground belongs to its steps: another threshold is other ground, another name is not', () => {
  const key = (over: Parameters<typeof recipeWith>[0]) =>
    groundKey(recipeWith({ fit: { size: [253, 127] }, ...over }), facts(300, 200));
  const despiked = (threshold: number) => key({ steps: [{ op: 'despike', threshold }] });
  expect(despiked(5)).not.toBe(despiked(6));
  expect(key({ steps: [{ op: 'turn', quarters: 2 }] })).not.toBe(key({ steps: [{ op: 'mirror', axis: 'x' }] }));
  expect(key({ fit: { size: [253, 127], filter: 'area' } })).not.toBe(key({}));
  expect(key({ name: 'Fells' })).toBe(key({}));
});

test.each([
  ['fixed-step', { fit: { size: 1081 }, height: { strategy: 'headroom', above: 10 } }, 'strategy'],
  ['exchange', { output: { format: 'exr' }, height: { strategy: 'headroom', above: 10 } }, 'strategy'],
  [
    'exchange',
    { output: { format: 'exr' }, height: { strategy: 'fixed', scale: 500, anchor: { at: 'lowest', elevation: 1310 } } },
    'strategy',
  ],
  ['exchange', { output: { format: 'exr' }, height: { range: 'pinned', low: 1300, high: 2200 } }, 'range'],
] as const)('what %s has no use for is told, and let go with one click', (target, over, edit) => {
  const recipe = recipeWith({ fit: { size: 505 }, ...over, target });
  expect(check(plan(recipe, facts(), null), 'range-unused')).toMatchObject({ state: 'caution', repair: { edit } });
  const used = recipeWith({ fit: { size: 505 }, ...over, output: { format: 'raw' }, target: 'exchange' });
  expect(check(plan(used, facts(), null), 'range-unused')).toBeUndefined();
});

test('how much is flooded: whole classes and a share of the last one', () => {
  const under = (sea: number) =>
    plan(recipeWith({ height: { sea } }), facts(), ground(0, 65535, { histogram: [30, 10, 0, 60] })).work.flooded;
  // classes of 207.5 m from 1310 m on
  expect(under(1310 + 207.5 / 2)).toBeCloseTo(0.15, 9);
  expect(under(1310 + 1.5 * 207.5)).toBeCloseTo(0.35, 9);
  expect(under(1200)).toBe(0);
  expect(under(2140)).toBeCloseTo(1, 9);
  expect(plan(recipeWith({ height: { sea: 1400 } }), facts(), null).work.flooded).toBeNull();
});
