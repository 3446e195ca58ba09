export * from './types';
export * from './datum';
export * from './statistics';
export * from './kernels';
export * from './resample';
export * from './place';
export * from './ground';
