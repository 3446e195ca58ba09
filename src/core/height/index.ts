export * from './calibration';
export * from './range';
export * from './quantise';
export * from './precision';
export * from './in-place';
