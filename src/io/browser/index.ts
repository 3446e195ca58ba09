export * from './source';
export * from './folder';
