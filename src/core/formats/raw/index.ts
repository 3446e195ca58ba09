export * from './layout';
export { guessRaw, SURE_LEAD, type RawGuess } from './guess';
export { openRaw, type OpenedRaw } from './read';
export { RawWriter } from './write';
export { rawPreview, type RawPreview } from './preview';
