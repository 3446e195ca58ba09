import { LevelGridError } from '../base';
import type { Recipe } from '../recipe';
import { wholeSide } from '../tiles';
import { withSize } from './fit';

/** The recipe at a low rung: the same ground, tiles and heights on `vertices` per tile side, for a trial import; marked as a draft. */
export function draftRecipe(recipe: Recipe, vertices: number): Recipe {
  if (recipe.fit.method !== 'resample') {
    throw new LevelGridError('recipe-value', {
      found: `a draft of ground that is ${recipe.fit.method === 'crop' ? 'cropped' : 'padded'}`,
      expected: 'resampled ground (cropped and padded ground keeps its spacing)',
      remedy: 'Make the full pack, or fit by resampling.',
    });
  }
  const { across = 1, down = 1, edges = 'shared' } = recipe.split ?? {};
  const size: [number, number] = [wholeSide(vertices, across, edges), wholeSide(vertices, down, edges)];
  return { ...withSize(recipe, size[0] === size[1] ? size[0] : size), draft: vertices };
}
