export * from './facts';
export * from './plan';
export * from './document';
export { boundsToCount, clipBounds } from './clipping';
export { voidRefusal } from './refusals';
export { originOffset } from './card';
export { elevationsOfCodes, percent } from './checks';
export { type Geometry } from './geometry';
export { expectedSource } from './before';
