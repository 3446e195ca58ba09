export * from './fresh';
export * from './source';
export * from './fit';
export * from './split';
export * from './height';
export * from './repair';
