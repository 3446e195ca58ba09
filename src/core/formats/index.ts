export { HEIGHT_ENDINGS, isHeightName, openHeightFile, RAW_ENDINGS, type OpenedFile } from './open';
export {
  PngWriter,
  crc32,
  encodePiece,
  PNG_SIGNATURE,
  pngChunk,
  pngFilterRow,
  type PieceEncoder,
  type PieceResult,
  type PieceTask,
  type PngOptions,
} from './png';
export { inflateInto, readingThreadDied } from './png/two-threads';
export * from './raw';
