import type { Recipe } from './schema';

/** How a file is read, as far as it doesn't say so itself. */
export type SourceReading = Partial<Pick<Recipe['source'], 'raw' | 'curve' | 'partial' | 'files'>>;

/** How the source of a recipe is read. */
export const sourceReading = ({ source: { raw, curve, partial, files } }: Recipe): SourceReading => ({
  ...(raw ? { raw } : {}),
  ...(partial ? { partial } : {}),
  ...(files ? { files } : {}),
  ...(curve === undefined ? {} : { curve }),
});
