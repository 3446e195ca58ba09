export { openPng } from './read';
export { PngWriter } from './write';
export { SIGNATURE as PNG_SIGNATURE } from './header';
export { crc32 } from './crc';
