import { FORMATS } from './registry';

/** What this product lays beside heights that it hands on: how they were made, and a picture of them. */
const OWN_COMPANIONS = ['record.json', 'survey-map.png'];

/** Endings of files that say something about the height file beside them, and hold no heights. */
export const COMPANION_ENDINGS: readonly string[] = [
  ...new Set([...FORMATS.flatMap((f) => f.companions ?? []), ...OWN_COMPANIONS]),
];

/** Endings of notes in plain words, which may say what the heights of the files beside them stand for. */
export const NOTE_ENDINGS = ['txt', 'md'] as const;

/** True for names of notes. */
export const isNote = (name: string): boolean => NOTE_ENDINGS.some((e) => name.toLowerCase().endsWith(`.${e}`));

/** A name without its ending; of a companion without its whole one. */
export function stemOf(name: string): string {
  const own = COMPANION_ENDINGS.find((e) => name.toLowerCase().endsWith(`.${e}`));
  return own === undefined ? name.replace(/\.[^.]*$/, '') : name.slice(0, -own.length - 1);
}

/** True for names of files that only go with a height file. */
export const isCompanion = (name: string): boolean =>
  isNote(name) || COMPANION_ENDINGS.some((e) => name.toLowerCase().endsWith(`.${e}`));

/** Whether a companion goes with a height file: `fells.hdr`, or `fells.bil.hdr`, with `fells.bil`. */
export function goesWith(companion: string, file: string): boolean {
  const stem = stemOf(companion).toLowerCase();
  return stem === stemOf(file).toLowerCase() || stem === file.toLowerCase();
}
