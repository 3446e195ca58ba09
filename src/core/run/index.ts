export * from './run';
export * from './source';
export * from './fit';
export * from './zip';
export * from './piece-pool';
export { importPage, typedText } from './import-page';
export { readDocument, readPack, type PackDocuments } from './pack-documents';
