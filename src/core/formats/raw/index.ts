export * from './layout';
export { guessRaw, type RawGuess } from './guess';
export { openRaw } from './read';
export { RawWriter } from './write';
