export { readNote } from './read';
export { noteBeside } from './beside';
export { noted } from './noted';
export { highestCode, maybeOfSamples, notedRange } from './range';
