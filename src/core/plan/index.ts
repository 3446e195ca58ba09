export * from './plan';
export * from './document';
export { elevationsOfCodes, percent } from './checks';
export { fitGeometry, sizeOf, type Geometry } from './geometry';
