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
export { makeDraft, makePack, provePack, packKey } from './packing';
export { changedRows, readFileAgain, replaceSource, setKeeps, takeWay } from './replacing';
export {
  adopt,
  doEdit,
  bringIn,
  bringInAll,
  openDemo,
  openProject,
  readAsRaw,
  isLossyPicture,
  readLossyPicture,
  readWhatCanBe,
  removeProject,
  renameProject,
  rereadAs,
  rereadBaked,
  rereadInVolume,
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
