export { adler32, adler32Plain, adler32Joined } from './adler';
export { deflatePiece, deflatePiecePlain, WINDOW, type Preset } from './deflate';
export { zlib } from './zlib';
