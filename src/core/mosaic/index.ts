export * from './types';
export { arrange } from './arrange';
export { mosaic } from './mosaic';
export { mosaicWarnings } from './warnings';
export { numbersIn } from './names';
