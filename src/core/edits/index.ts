export * from './draft';
export * from './fit';
export * from './fresh';
export * from './height';
export * from './output';
export * from './repair';
export * from './source';
export * from './split';
export { roomyVolume, withMesh, withVolume } from './mesh';
