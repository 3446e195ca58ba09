import { plan } from '../plan';
import { wideFacts } from '../../../tests/helpers/facts';
import { recipeWith } from '../../../tests/helpers/rasters';
import { freshRecipe, withSplit, withTarget } from '.';

test('where every size is taken, samples become cells one by one, and none changes', () => {
  const { info } = wideFacts(300, 221);
  const fresh = freshRecipe({ info }, 'fells', 'voxel-layers');
  expect(fresh.fit).toMatchObject({ size: [300, 221], method: 'resample', mixed: 'centre-to-centre' });
  expect(plan(fresh, wideFacts(300, 221), null).document.checks.find((c) => c.id === 'fill')?.message).toContain(
    'Exact',
  );
  expect(withTarget(recipeWith({}), 'voxel-layers', info).fit).toMatchObject({ mixed: 'centre-to-centre' });
  expect(withTarget(recipeWith({}), 'exchange', info).fit.mixed).toBeUndefined();
  // and a target that has its own sizes begins anew; what was chosen for such a one goes along
  expect(withTarget(fresh, 'even-grid', info).fit.mixed).toBeUndefined();
  const chosen = recipeWith({ target: 'even-grid', fit: { size: 512, mixed: 'centre-to-centre' } });
  expect(withTarget(chosen, 'fixed-span', info).fit.mixed).toBe('centre-to-centre');
});

test('cells are split side by side, vertices share their edges', () => {
  const tiles = { across: 2, down: 3 };
  expect(withSplit(recipeWith({ target: 'even-grid', fit: { size: 1024 } }), tiles).split?.edges).toBe('abutting');
  expect(withSplit(recipeWith({}), tiles).split?.edges).toBe('shared');
});
