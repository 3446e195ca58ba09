export * from './zone';
export * from './grid';
export { squared } from './squared';
