import type { MeshOptions } from '../raster';
import type { Recipe } from './schema';

/** How a file is read, as far as it doesn't say so itself: what is done to its samples afterwards are steps. */
export type SourceReading = Partial<Pick<Recipe['source'], 'raw' | 'partial' | 'files'>> & {
  /** What is left out is found. */
  readonly mesh?: Partial<MeshOptions>;
};

/** How the source of a recipe is read. */
export const sourceReading = ({ source: { raw, partial, files, mesh, spacing } }: Recipe): SourceReading => ({
  ...(raw ? { raw } : {}),
  ...(partial ? { partial } : {}),
  ...(files ? { files } : {}),
  ...(mesh ? { mesh: { ...mesh, spacing } } : {}),
});
