import type { ByteSource } from '@/core/base';
import { openEntering, planChain } from '@/core/chain';
import type { OpenRaster } from '@/core/raster';
import { sourceReading, type Recipe } from '@/core/recipe';
import { openReading, type ReadRaster } from '@/core/run';

/** What enters the fit of a recipe, of a source that is opened as it says. */
export async function enteringOf(source: ByteSource, recipe: Recipe): Promise<OpenRaster> {
  return enteringFrom(await openReading(source, sourceReading(recipe)), recipe);
}

/** The same of one that is open. Throws what a step stumbles over. */
export function enteringFrom(opened: ReadRaster, recipe: Recipe): OpenRaster {
  const chain = planChain(recipe, opened.info);
  if (chain.refusal) throw chain.refusal.error;
  return openEntering(opened, chain).shown;
}

/** All samples of a raster, as numbers. */
export async function samplesOf(raster: OpenRaster): Promise<number[]> {
  const samples: number[] = [];
  for await (const { data } of raster.bands()) for (const v of data) samples.push(Number(v));
  return samples;
}
