import type { ByteSource } from '../base';
import { isHeightName, isNote, MOST_COMPANION, NOTE_ENDINGS, stemOf } from '../formats';
import { readNote, type NoteFacts } from './read';

/** A note that lies beside a height file, and what it says. */
export interface Note extends NoteFacts {
  readonly from: string;
}

/**
 * The note that goes with a height file: one of its own name, else one that goes with all files that lie there. Null
 * where there is none, or none says anything of heights.
 */
export async function noteBeside(source: ByteSource): Promise<Note | null> {
  const stem = stemOf(source.name).toLowerCase();
  const own = NOTE_ENDINGS.flatMap((e) => [`${stemOf(source.name)}.${e}`, `${source.name}.${e}`]);
  const there = source.siblings ?? [];
  const stems = new Set(there.filter(isHeightName).map((n) => stemOf(n).toLowerCase()));
  const common = there.filter(
    (n) => isNote(n) && stemOf(n).toLowerCase() !== stem && !stems.has(stemOf(n).toLowerCase()),
  );
  for (const name of [...own, ...common.sort()]) {
    // a grid of numbers may go by such a name, and is no note on itself
    if (name.toLowerCase() === source.name.toLowerCase()) continue;
    const found = await source.beside?.(name);
    if (!found || found.size > MOST_COMPANION) continue;
    const facts = readNote(new TextDecoder().decode(await found.read(0, found.size)));
    if (facts) return { ...facts, from: found.name };
  }
  return null;
}
