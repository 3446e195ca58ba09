import { LevelGridError, type ByteSource } from '../../base';
import { readChunks } from './chunks';

/** What the chunks around the image data said. */
export interface ChunkState {
  palette: Uint8Array | null;
  /** Palettes that came: more than one, or one behind the image data, is a fault of the file. */
  palettes: number;
  /** The closing chunk was there. */
  closed: boolean;
}

/** The compressed image data of a PNG, piece by piece. */
export async function* imageData(source: ByteSource, state: ChunkState): AsyncGenerator<Uint8Array> {
  let any = false;
  try {
    for await (const chunk of readChunks(source)) {
      if (chunk.type === 'PLTE') {
        state.palettes++;
        // the first one counts: what comes later is said
        state.palette ??= chunk.data;
      }
      if (chunk.type === 'IEND') state.closed = true;
      if (chunk.type === 'IDAT') {
        any = true;
        yield chunk.data;
      }
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
