export * from './errors';
export * from './json';
export * from './text';
export * from './io';
export * from './job';
export * from './ring';
export * from './units';
export * from './hash';
