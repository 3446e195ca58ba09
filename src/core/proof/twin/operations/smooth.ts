import type { StepOf } from '../../../recipe';
import { changed, type Grid } from './heights';
import type { TwinOperation } from './operation';

/** Weighed by a Gaussian along one axis, over what there is. */
function blurred({ width, height, at }: Grid, sigma: number, down: boolean): Float64Array {
  const reach = Math.ceil(4 * sigma);
  const [n, step] = down ? [height, width] : [width, 1];
  return Float64Array.from(at, (_, i) => {
    const place = down ? Math.floor(i / width) : i % width;
    let sum = 0;
    for (let k = -Math.min(reach, place); k <= Math.min(reach, n - 1 - place); k++)
      sum += Math.exp(-0.5 * (k / sigma) ** 2) * at[i + k * step]!;
    return sum;
  });
}

/** Smoothing a second time: heights and their presence, down first and then across. */
export const smooth: TwinOperation<StepOf<'smooth'>> = (before, { radius, strength }, context) => ({
  stage: changed(before, context, (grid) => {
    const sigma = radius / context.spacing;
    const both = (values: Float64Array): Float64Array =>
      blurred({ ...grid, at: blurred({ ...grid, at: values }, sigma, true) }, sigma, false);
    const sums = both(grid.at.map((v) => (Number.isNaN(v) ? 0 : v)));
    const weights = both(grid.at.map((v) => (Number.isNaN(v) ? 0 : 1)));
    return grid.at.map((own, i) => (1 - strength) * own + strength * (sums[i]! / weights[i]!));
  }),
  counts: true,
});
