export * from './facts';
export * from './plan';
export * from './document';
export { originOffset } from './card';
export { elevationsOfCodes, percent } from './checks';
export { fitGeometry, sizeOf, type Geometry } from './geometry';
