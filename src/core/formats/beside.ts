import type { ByteSource } from '../base';

/** Companions are some hundred bytes of text. */
export const MOST_COMPANION = 2 ** 16;

/** The text of the companion with that ending; null where there is none. */
export async function companionText(source: ByteSource, ending: string): Promise<string | null> {
  for (const name of [`${source.name.replace(/\.[^.]*$/, '')}.${ending}`, `${source.name}.${ending}`]) {
    const found = await source.beside?.(name);
    if (found && found.size <= MOST_COMPANION) return new TextDecoder('latin1').decode(await found.read(0, found.size));
  }
  return null;
}
