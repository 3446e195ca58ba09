import type { ByteOrder, Codes, Encoding } from '../raster';
import { HOST_IS_LITTLE, swapBytes } from './bytes';

/** Stored heights as the bytes of a file, without gaps; the array that is given stays as it is. */
export function bytesOfStored(
  codes: Codes,
  { bits }: Pick<Encoding, 'bits'>,
  order: ByteOrder,
): Uint8Array<ArrayBuffer> {
  if (bits === 8) return Uint8Array.from(codes);
  const size = bits === 32 ? 4 : 2;
  const bytes = new Uint8Array(codes.slice().buffer);
  if ((order === 'little') !== HOST_IS_LITTLE) swapBytes(bytes, size);
  return bytes;
}
