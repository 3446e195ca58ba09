export { openHeightFile, RAW_ENDINGS, type OpenedFile } from './open';
export { PngWriter, crc32 } from './png';
export * from './raw';
