export * from './types';
export { arrange, byHand, edgesOf, type Cell } from './arrange';
export type { Edges } from './edges';
export { mosaic } from './mosaic';
export { mosaicWarnings } from './warnings';
export { holdersOf, type Lying } from './holder';
