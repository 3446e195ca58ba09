export * from './run';
export * from './enter';
export { GroundRecord } from './record';
export * from './source';
export * from './look';
export * from './zip';
export * from './piece-pool';
export { importPage, importPageHtml, PROOF_PAGES, typedText, withProofHtml } from './page';
export { readDocument, readPack, type PackDocuments } from './pack-documents';
