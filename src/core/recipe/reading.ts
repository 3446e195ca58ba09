import type { Recipe } from './schema';

/** How a file is read, as far as it doesn't say so itself. */
export type SourceReading = Partial<Pick<Recipe['source'], 'raw' | 'curve' | 'partial' | 'files' | 'squares'>>;

/** How the source of a recipe is read. */
export const sourceReading = ({ source: { raw, curve, partial, files, squares } }: Recipe): SourceReading => ({
  ...(raw ? { raw } : {}),
  ...(partial ? { partial } : {}),
  ...(files ? { files } : {}),
  ...(squares ? { squares } : {}),
  ...(curve === undefined ? {} : { curve }),
});
