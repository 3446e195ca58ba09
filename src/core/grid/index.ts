export * from './layouts';
export * from './ladder';
