export * from './layout';
export { SURE_LEAD, type RawGuess } from './guess';
export { RawWriter } from './write';
export { rawPreview, type RawPreview } from './preview';
