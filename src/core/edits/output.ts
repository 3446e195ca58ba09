import { HELD_BY } from '../raster';
import type { Recipe } from '../recipe';

type Output = Recipe['output'];

/** How files are written. A way of storing heights that another format can't hold is let go. */
export function withOutput(recipe: Recipe, values: { readonly [K in keyof Output]?: Output[K] | undefined }): Recipe {
  const { encoding, ...rest } = { ...recipe.output, ...values } as Output;
  const held = encoding !== undefined && (values.encoding !== undefined || HELD_BY[rest.format].includes(encoding));
  return { ...recipe, output: held ? { ...rest, encoding } : rest };
}
