export * from './schema';
export * from './reading';
export * from './parse';
export { RECIPE_VERSION } from './migrate';
export { parseTargetText } from './target';
