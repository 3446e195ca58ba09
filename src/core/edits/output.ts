import { HELD_BY, PACKED } from '../raster';
import type { Recipe } from '../recipe';

type Output = Recipe['output'];

/** How files are written. A way of storing or packing heights that another format can't have is let go. */
export function withOutput(recipe: Recipe, values: { readonly [K in keyof Output]?: Output[K] | undefined }): Recipe {
  const { encoding, compression, ...rest } = { ...recipe.output, ...values } as Output;
  const held = encoding !== undefined && (values.encoding !== undefined || HELD_BY[rest.format].includes(encoding));
  const packed = compression !== undefined && (values.compression !== undefined || PACKED.includes(rest.format));
  return {
    ...recipe,
    output: { ...rest, ...(packed ? { compression } : {}), ...(held ? { encoding } : {}) },
  };
}
