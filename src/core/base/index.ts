export * from './errors';
export * from './io';
export * from './job';
export * from './units';
export * from './hash';
