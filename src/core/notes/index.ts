export { readNote, type NoteFacts } from './read';
export { noteBeside, type Note } from './beside';
export { noted } from './noted';
export { highestCode, maybeOfSamples, notedRange } from './range';
