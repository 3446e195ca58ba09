export * from './plan';
export * from './document';
export { elevationsOfCodes, percent } from './checks';
export { flattened, withSize } from './repairs';
export { fitGeometry, sizeOf, type Geometry } from './geometry';
