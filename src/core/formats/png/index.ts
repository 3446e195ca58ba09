export { PngWriter, type PngOptions } from './write';
export { encodePiece, type PieceEncoder, type PieceResult, type PieceTask } from './piece';
export { SIGNATURE as PNG_SIGNATURE } from './header';
export { chunk as pngChunk } from './piece';
