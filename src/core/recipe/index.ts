export * from './schema';
export * from './parse';
export { RECIPE_VERSION } from './migrate';
