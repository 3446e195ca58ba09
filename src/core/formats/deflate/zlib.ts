import { concatBytes } from '../../base';
import { adler32 } from './adler';
import { deflatePiece } from './deflate';

/** All bytes as one zlib stream (RFC 1950) in the default preset. */
export function zlib(bytes: Uint8Array): Uint8Array {
  const sum = new Uint8Array(4);
  new DataView(sum.buffer).setUint32(0, adler32(bytes));
  return concatBytes([Uint8Array.of(0x78, 0x9c), deflatePiece(bytes, 0, true, 'default'), sum]);
}
