export { unfilter16, swap16, filter16 } from './png';
export { interleave16, interleave32, rowPass, columnPass, quantise, statistics16, ground } from './raster';
export { interleaveCodes64, interleaveHeights64, rowPass64, rowPassAround64, columnPass64 } from './doubles';
export { foldFloats, addPatterns, floatsAbove } from './floats';
export { plateSweep32, plateSweep64 } from './plate';
export { halve16 } from './overview';
export { squaresRow, squaresScratch } from './squares';
export { crcTables, crc32, adler32 } from './checksums';
export { tintedRelief } from './relief';
export { inflateState, inflateStart, inflateRun } from './inflate';
export { deflateScratch, deflatePiece } from './deflate';
export { sumBytes, sum16, weave2, weave4 } from './sums';
export { compareCodes, compareGround, heightsOf16, weighRow, addShare, doublesOfCodes, doublesOfFloats, endsOfCodes, endsOfFloats } from './proof';

/** First byte of memory that nothing else uses. */
export function freeFrom(): usize {
  return __heap_base;
}
