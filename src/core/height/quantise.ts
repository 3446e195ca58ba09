import type { Codes, Encoding } from '../raster';
import { quantiseKernel, floatsAt, type KernelPlace } from '../wasm';

/**
 * stored = scale · value + offset, held to 0..highest and rounded to a whole code, or to a float of 32 bits. Metres have
 * no ends.
 */
export interface Quantiser {
  readonly stores: Encoding['stores'];
  readonly scale: number;
  readonly offset: number;
  /** The highest code, 1 of shares, infinity of metres. */
  readonly highest: number;
}

/** What is stored may lie so far beyond an end before it is clipped: half of what is told apart there. */
export const HALF_STEP: { readonly [K in Encoding['stores']]: number } = { codes: 0.5, shares: 2 ** -25, metres: 0 };

/** Below this the way into the kernel costs more than it saves. */
const LEAST_FOR_KERNEL = 64;

export interface QuantiseTally {
  below: number;
  above: number;
  voids: number;
}

/**
 * Elevations become what is stored by one rounding, codes half up. Samples beyond half a step outside the range are
 * clipped and counted; voids become 0 and are counted.
 */
export function quantise(out: Codes, heights: Float32Array | KernelPlace, q: Quantiser, tally: QuantiseTally): void {
  if (out instanceof Float32Array) {
    storeFloats(out, heights instanceof Float32Array ? heights : floatsAt(heights), q, tally);
    return;
  }
  const counted = heights.length < LEAST_FOR_KERNEL ? null : quantiseKernel(out, heights, q.scale, q.offset, q.highest);
  if (!counted) {
    quantisePlain(out, heights instanceof Float32Array ? heights : floatsAt(heights), q, tally);
    return;
  }
  tally.below += counted.below;
  tally.above += counted.above;
  tally.voids += counted.voids;
}

/** The plain twin of the kernel. */
export function quantisePlain(out: Uint16Array, heights: Float32Array, q: Quantiser, tally: QuantiseTally): void {
  const { scale, offset, highest } = q;
  const n = heights.length;
  let { below, above, voids } = tally;
  for (let i = 0; i < n; i++) {
    const code = Math.floor((heights[i] as number) * scale + offset + 0.5);
    if (code >= 0 && code <= highest) out[i] = code;
    else if (code > highest) {
      above++;
      out[i] = highest;
    } else {
      if (code < 0) below++;
      else voids++;
      out[i] = 0;
    }
  }
  tally.below = below;
  tally.above = above;
  tally.voids = voids;
}

function storeFloats(out: Float32Array, heights: Float32Array, q: Quantiser, tally: QuantiseTally): void {
  const { scale, offset, stores } = q;
  const lowest = stores === 'metres' ? -Infinity : 0;
  const highest = stores === 'metres' ? Infinity : q.highest;
  const half = HALF_STEP[stores];
  for (let i = 0; i < heights.length; i++) {
    const stored = (heights[i] as number) * scale + offset;
    if (stored !== stored) {
      tally.voids++;
      out[i] = 0;
      continue;
    }
    if (stored < lowest - half) tally.below++;
    else if (stored >= highest + half) tally.above++;
    out[i] = Math.min(highest, Math.max(lowest, stored));
  }
}

/** The quantiser for samples whose elevation is `offset + unit · value` over the range low..high. */
export function quantiserFor(
  calibration: { unit: number; offset: number },
  range: { low: number; high: number },
  highest: number,
  stores: 'codes' | 'shares' = 'codes',
): Quantiser {
  const perMetre = highest / (range.high - range.low);
  return {
    stores,
    scale: calibration.unit * perMetre,
    offset: (calibration.offset - range.low) * perMetre,
    highest,
  };
}

/** Elevations as they are, in metres. */
export const metresOf = ({ unit, offset }: { unit: number; offset: number }): Quantiser => ({
  stores: 'metres',
  scale: unit,
  offset,
  highest: Infinity,
});

/** What stored heights stand for: elevation = base + each · stored. */
export const elevationsOf = (
  { stores, highest }: Pick<Quantiser, 'stores' | 'highest'>,
  range: { low: number; high: number },
): { readonly base: number; readonly each: number } =>
  stores === 'metres' ? { base: 0, each: 1 } : { base: range.low, each: (range.high - range.low) / highest };
