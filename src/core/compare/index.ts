export * from './compare';
export { finestWave } from './detail';
