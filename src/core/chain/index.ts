export * from './deferred';
export * from './fit';
export * from './lying';
export * from './plan';
export { compareStages, openEntering, openStages, rasterOf, type Tallies } from './open';
