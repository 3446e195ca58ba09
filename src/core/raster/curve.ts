import { highestStored } from './stored-range';
import type { Curve, RasterInfo, StoredSamples } from './types';

/** The share of the height range, 0 to 1, that a stored share stands for (sRGB: IEC 61966-2-1). Odd below 0. */
export function straightShare(stored: number, curve: Curve): number {
  const share = Math.abs(stored);
  const straight =
    curve === 'srgb' ? (share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4) : share ** curve;
  return stored < 0 ? -straight : straight;
}

/** Codes of up to so many bits are looked up in a table. */
const TABLE_BITS = 16;

/**
 * Samples with the curve undone: shares of the range of codes, 0 to 1. `ends`: the type of the codes, whose highest is the
 * share 1; `info`: what the samples are by now.
 */
export function straightener(
  info: Pick<RasterInfo, 'sampleType' | 'bitDepth' | 'mayHoldVoids'>,
  ends: Pick<RasterInfo, 'sampleType' | 'bitDepth'>,
  curve: Curve,
): (data: StoredSamples) => Float32Array {
  const top = highestStored(ends);
  if (!isTabled(info)) return (data) => Float32Array.from(data, (value) => straightShare(value / top, curve));
  const table = Float32Array.from({ length: top + 1 }, (_, code) => straightShare(code / top, curve));
  return (data) => (data instanceof Uint16Array ? lookUp16(data, table) : lookUp(data, table));
}

function lookUp(data: StoredSamples, table: Float32Array): Float32Array {
  const out = new Float32Array(data.length);
  for (let i = 0; i < out.length; i++) out[i] = table[data[i] as number]!;
  return out;
}

/** The same in a loop that has met one type of array only, and is several times as fast. */
function lookUp16(data: Uint16Array, table: Float32Array): Float32Array {
  const n = data.length;
  const out = new Float32Array(n);
  for (let i = 0; i < n; i++) out[i] = table[data[i]!]!;
  return out;
}

/** What the curve has taken from a stored value: the value that would stand for the same height without it, less itself. */
export function curveChange(ends: Pick<RasterInfo, 'sampleType' | 'bitDepth'>, curve: Curve) {
  const top = highestStored(ends);
  return (stored: number): number => straightShare(stored / top, curve) * top - stored;
}

/** Few enough codes to have a table; samples that may be voids come as floats, whatever is stored. */
export const isTabled = ({
  sampleType,
  bitDepth,
  mayHoldVoids,
}: Pick<RasterInfo, 'sampleType' | 'bitDepth' | 'mayHoldVoids'>): boolean =>
  sampleType === 'uint' && bitDepth <= TABLE_BITS && !mayHoldVoids;

/** The stored share, 0 to 1, that stands for a share of the height range: the curve put on. */
export function curvedShare(straight: number, curve: Curve): number {
  const share = Math.abs(straight);
  const stored =
    curve === 'srgb' ? (share <= 0.0031308 ? share * 12.92 : 1.055 * share ** (1 / 2.4) - 0.055) : share ** (1 / curve);
  return straight < 0 ? -stored : stored;
}
