export * from './run';
export * from './source';
export * from './fit';
export * from './zip';
export * from './piece-pool';
export { importPage, importPageHtml, typedText, withProofHtml, withProofMarkdown } from './page';
export { readDocument, readPack, type PackDocuments } from './pack-documents';
