import { parseRecipe } from '../core/recipe';
import { editRecipe, keepRecipe, loadRecipe, redo, undo, useRecipe } from './recipe-store';

const recipe = (name: string) =>
  parseRecipe({
    version: 1,
    name,
    source: { low: 0, high: 500, spacing: 1 },
    target: 'component-grid',
    fit: { size: 505 },
  });
const size = () => useRecipe.getState().recipe?.fit.size;
const fit = (to: number) => editRecipe((r) => ({ ...r, fit: { ...r.fit, size: to } }));

test('every edit can be undone and redone; another document has nothing to undo', () => {
  loadRecipe(recipe('Kettle Tarn'));
  fit(1009);
  fit(2017);
  undo();
  expect(size()).toBe(1009);
  undo();
  expect(size()).toBe(505);
  undo();
  expect(size()).toBe(505);
  redo();
  redo();
  expect(size()).toBe(2017);
  loadRecipe(recipe('Far Shore'));
  undo();
  expect(useRecipe.getState().recipe?.name).toBe('Far Shore');
});

test('an edit that makes no valid recipe is told and changes nothing', () => {
  loadRecipe(recipe('Kettle Tarn'));
  expect(() => editRecipe((r) => ({ ...r, source: { ...r.source, spacing: -1 } }))).toThrow();
  expect(useRecipe.getState().recipe?.source.spacing).toBe(1);
  undo();
  expect(size()).toBe(505);
});

test('a document that was put aside comes back with all that could be undone and redone in it', () => {
  loadRecipe(recipe('Kettle Tarn'));
  fit(1009);
  fit(2017);
  undo();
  const back = keepRecipe();
  loadRecipe(recipe('Cold Ridge'));
  fit(253);
  back();
  expect([useRecipe.getState().recipe?.name, size()]).toEqual(['Kettle Tarn', 1009]);
  redo();
  expect(size()).toBe(2017);
  undo();
  undo();
  expect(size()).toBe(505);
});
