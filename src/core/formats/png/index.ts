export { openPng } from './read';
export { PngWriter, type PngOptions } from './write';
export { encodePiece, type PieceEncoder, type PieceResult, type PieceTask } from './piece';
export { SIGNATURE as PNG_SIGNATURE } from './header';
export { crc32 } from './crc';
export { chunk as pngChunk } from './piece';
