export * from './pattern';
export * from './split';
