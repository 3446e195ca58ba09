import type { ByteSource } from '../base';

/** Endings of files that say something about the height file beside them, and hold no heights. */
export const COMPANION_ENDINGS = ['hdr', 'prj', 'record.json', 'survey-map.png'] as const;

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

/** Companions are some hundred bytes of text. */
export const MOST_COMPANION = 2 ** 16;

/** The text of the companion with that ending; null where there is none. */
export async function companionText(
  source: ByteSource,
  ending: (typeof COMPANION_ENDINGS)[number],
): Promise<string | null> {
  for (const name of [`${stemOf(source.name)}.${ending}`, `${source.name}.${ending}`]) {
    const found = await source.beside?.(name);
    if (found && found.size <= MOST_COMPANION) return new TextDecoder('latin1').decode(await found.read(0, found.size));
  }
  return null;
}
