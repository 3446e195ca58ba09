export * from './zone';
export * from './grid';
export { withSystem } from './system';
export { squared, squaredInfo } from './squared';
export { warped, warpedWindow, type MetricVertices, type WarpOptions } from './warp';
