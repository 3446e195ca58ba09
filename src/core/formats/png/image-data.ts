import { LevelGridError, type ByteSource, type InflatedWhole } from '../../base';
import { readChunks } from './chunks';

/** What the chunks said while the image data was read. */
export type ChunkState = { -readonly [K in keyof InflatedWhole]: InflatedWhole[K] };

export const noChunks = (): ChunkState => ({ closed: false, headers: 0, palettes: 0, unknown: [], split: false });

const KNOWN: readonly string[] = ['IHDR', 'PLTE', 'IDAT', 'IEND'];
/** At most so many unknown types are named. */
const MOST_NAMED = 8;

/** Critical chunks begin with a capital (PNG specification, third edition, 5.4). */
const isCritical = (type: string): boolean => type < 'a';

/** The compressed image data of a PNG, piece by piece. */
export async function* imageData(source: ByteSource, state: ChunkState): AsyncGenerator<Uint8Array> {
  let any = false;
  let interrupted = false;
  try {
    for await (const chunk of readChunks(source)) {
      const { type } = chunk;
      if (type === 'IDAT') {
        if (any && interrupted) state.split = true;
        any = true;
        interrupted = false;
        yield chunk.data;
        continue;
      }
      interrupted = true;
      if (type === 'IHDR') state.headers++;
      else if (type === 'PLTE') state.palettes++;
      else if (type === 'IEND') state.closed = true;
      else if (isCritical(type) && !KNOWN.includes(type) && !state.unknown.includes(type))
        state.unknown = [...state.unknown, type].slice(0, MOST_NAMED);
    }
  } catch (reason) {
    // a cut behind the last sample costs nothing: the decoder notices by itself whether samples are missing
    if (!(reason instanceof LevelGridError && reason.code === 'truncated' && any)) throw reason;
  }
  if (!any) {
    throw new LevelGridError('truncated', {
      found: 'a PNG without image data',
      expected: 'at least one IDAT chunk',
      remedy: 'The file is cut short: copy or export it again.',
    });
  }
}
