import type { Recipe } from './schema';

/** How a file is read, as far as it doesn't say so itself. */
export type SourceReading = Partial<Pick<Recipe['source'], 'raw' | 'curve'>>;

/** How the source of a recipe is read. */
export const sourceReading = ({ source: { raw, curve } }: Recipe): SourceReading => ({
  ...(raw ? { raw } : {}),
  ...(curve === undefined ? {} : { curve }),
});
