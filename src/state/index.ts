export { start } from './controller';
export * from './defaults';
export {
  adoptDropped,
  compareFiles,
  decideProposal,
  layOut,
  leaveDropped,
  OPENABLE_ENDINGS,
  picturesOf,
  takeFiles,
  typeIntoDropped,
} from './dropped';
export { makeDraft, makePack, provePack, recipeKey } from './packing';
export {
  adopt,
  bringIn,
  bringInAll,
  openDemo,
  openProject,
  readAsRaw,
  isLossyPicture,
  readFileAgain,
  readLossyPicture,
  readWhatCanBe,
  removeProject,
  renameProject,
  replaceSource,
  rereadAs,
  rereadPlaced,
  rereadBaked,
  rereadBlended,
  rereadInVolume,
  rereadSquared,
  rereadThrough,
  setKeeps,
} from './projects';
export { heightsAmong, SOURCE_ENDINGS } from './together';
export { unkeptText } from './keeping';
export * from './recipe-store';
export * from './session';
export { editHere } from './tabs';
export { showError, workers } from './workers';
export {
  askGround,
  blockKey,
  fetchBlocks,
  groundZip,
  takeGround,
  type CameBlock,
  type DeskFault,
  type GroundFacts,
} from './survey';
