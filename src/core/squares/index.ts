export * from './zone';
export * from './grid';
export { withSystem } from './system';
export { squared, squaredInfo } from './squared';
