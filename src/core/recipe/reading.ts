import type { MeshOptions } from '../raster';
import type { Recipe } from './schema';

/** How a file is read, as far as it doesn't say so itself. */
export type SourceReading = Partial<
  Pick<Recipe['source'], 'raw' | 'curve' | 'partial' | 'files' | 'blend' | 'squares'>
> & {
  /** What is left out is found. */
  readonly mesh?: Partial<MeshOptions>;
};

/** How the source of a recipe is read. */
export const sourceReading = ({
  source: { raw, curve, partial, files, blend, squares, mesh, spacing },
}: Recipe): SourceReading => ({
  ...(raw ? { raw } : {}),
  ...(partial ? { partial } : {}),
  ...(files ? { files } : {}),
  ...(blend === undefined ? {} : { blend }),
  ...(squares ? { squares } : {}),
  ...(mesh ? { mesh: { ...mesh, spacing } } : {}),
  ...(curve === undefined ? {} : { curve }),
});
