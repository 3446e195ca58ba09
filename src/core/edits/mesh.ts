import type { Box, MeshFacts, MeshOptions } from '../raster';
import type { Recipe } from '../recipe';
import { confirmed } from './source';

type MeshChoice = NonNullable<Recipe['source']['mesh']>;
type Corner = MeshChoice['up'] extends string ? [number, number, number] : never;

const corner = ([x, y, z]: readonly [number, number, number]): Corner => [x, y, z];

/** How a mesh was baked, as a recipe has it. */
export const meshOf = ({ options: { up, metres, volume } }: Pick<MeshFacts, 'options'>): MeshChoice => ({
  up,
  metres,
  ...(volume ? { volume: { min: corner(volume.min), max: corner(volume.max) } } : {}),
});

/** A mesh baked in another way. */
export function withMesh(recipe: Recipe, { spacing, ...options }: MeshOptions): Recipe {
  const mesh = meshOf({ options: { ...options, spacing } });
  return confirmed({ ...recipe, source: { ...recipe.source, mesh, spacing } }, ['spacing']);
}

/** Share of the height of a mesh that a pinned volume leaves free above and below, for what is sculpted later. */
const ROOM = 0.1;

/** A volume around a mesh with room above and below, in whole centimetres outwards. */
export function roomyVolume({ min, max }: Box): Box {
  const room = ROOM * Math.max(max[2] - min[2], 1);
  return {
    min: [min[0], min[1], Math.floor((min[2] - room) * 100) / 100],
    max: [max[0], max[1], Math.ceil((max[2] + room) * 100) / 100],
  };
}

/**
 * The volume pinned: whatever the mesh becomes, its place, its size and what codes stand for stay. Null lets it go: the
 * range stays as it was last.
 */
export function withVolume(recipe: Recipe, options: MeshOptions, volume: Box | null): Recipe {
  const { volume: _, ...free } = options;
  if (!volume) return withMesh(recipe, free);
  const next = withMesh(recipe, { ...free, volume });
  return { ...next, height: { ...next.height, range: 'pinned', low: volume.min[2], high: volume.max[2] } };
}
