import type { ByteSource } from '../base';
import { isCompanion, partsOf, takenBy } from '../formats';
import type { SourceLook } from '../edits';

/** What a source is, before anything of it is read but its first bytes. */
export async function lookAt(source: ByteSource): Promise<SourceLook> {
  const heights = (await partsOf(source)).filter((p) => !isCompanion(p.name));
  const [first = source] = heights;
  return { takes: await takenBy(first), names: heights.map((p) => p.name), size: first.size };
}
