export * from './plan';
export * from './document';
export { fitGeometry, sizeOf, type Geometry } from './geometry';
