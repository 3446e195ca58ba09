export { start } from './controller';
export * from './defaults';
export { makePack, provePack, recipeKey } from './packing';
export { bringIn, openDemo, openProject, removeProject, renameProject, rereadSource } from './projects';
export * from './recipe-store';
export * from './session';
export { showError, workers } from './workers';
