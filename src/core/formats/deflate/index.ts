export { adler32, adler32Joined } from './adler';
export { deflatePiece, WINDOW, type Preset } from './deflate';
