export {
  formatName,
  HEIGHT_ENDINGS,
  isHeightName,
  meshKindOf,
  openHeightFile,
  takenBy,
  type OpenedFile,
} from './registry';
export { isMeshKind, readGeometry, type Geometry } from './mesh';
export { bundleHead, partsOf } from './bundle';
export { MOST_COMPANION } from './beside';
export { COMPANION_ENDINGS, goesWith, isCompanion, isNote, NOTE_ENDINGS, stemOf } from './companions';
export { READING_OPTIONS, type ReadingKey } from './reading-options';
export {
  PngWriter,
  encodePiece,
  PNG_SIGNATURE,
  pngChunk,
  type PieceEncoder,
  type PieceResult,
  type PieceTask,
  type PngOptions,
} from './png';
export { zlib } from './deflate';
export { crc32 } from './png/crc';
export { inflateInto, readingThreadDied } from './second-thread';
export * from './raw';
export { HOST_IS_LITTLE, swapBytes } from './bytes';
export { heightFile, openHeightWriter } from './height-writer';
export type { HeightWriter } from './written-rows';
