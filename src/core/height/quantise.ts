import { quantiseKernel, floatsAt, type KernelPlace } from '../wasm';

/** code = round(scale · value + offset), held to 0..highest. */
export interface Quantiser {
  readonly scale: number;
  readonly offset: number;
  readonly highest: number;
}

/** Below this the way into the kernel costs more than it saves. */
const LEAST_FOR_KERNEL = 64;

export interface QuantiseTally {
  below: number;
  above: number;
  voids: number;
}

/**
 * Elevations become codes by one rounding, half up. Samples beyond half a step outside the range are clipped and
 * counted; voids become code 0 and are counted.
 */
export function quantise(
  out: Uint16Array,
  heights: Float32Array | KernelPlace,
  q: Quantiser,
  tally: QuantiseTally,
): void {
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

/** The quantiser for samples whose elevation is `offset + unit · value` over the range low..high. */
export function quantiserFor(
  calibration: { unit: number; offset: number },
  range: { low: number; high: number },
  highest: number,
): Quantiser {
  const perMetre = highest / (range.high - range.low);
  return {
    scale: calibration.unit * perMetre,
    offset: (calibration.offset - range.low) * perMetre,
    highest,
  };
}
