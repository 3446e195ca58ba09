import { LevelGridError } from '../base';

/** Turns zlib data (RFC 1950) into what it holds, piece by piece; throws anything for damaged or incomplete data. */
export type Inflater = (pieces: AsyncIterable<Uint8Array>) => AsyncGenerator<Uint8Array, void, undefined>;

let platform: Inflater | null = null;

/**
 * Gives the core a faster inflater of its platform, once, at start. What is inflated is the same; without one the
 * portable `DecompressionStream` is used, which costs twice the time in Node.
 */
export function setInflater(inflater: Inflater): void {
  platform = inflater;
}

/**
 * Zlib data inflated as it comes, by the platform's own decompressor, which runs beside this thread. Ends after the
 * zlib stream; throws `corrupt` for damaged data and `truncated` where the stream does not end.
 */
export async function* inflate(pieces: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array, void, undefined> {
  if (!platform) {
    yield* portable(pieces);
    return;
  }
  let sourceFault: LevelGridError | null = null;
  let ended = false;
  let delivered = 0;
  const watched = async function* (): AsyncGenerator<Uint8Array> {
    try {
      yield* pieces;
      ended = true;
    } catch (reason) {
      if (reason instanceof LevelGridError) sourceFault = reason;
      throw reason;
    }
  };
  try {
    for await (const piece of platform(watched())) {
      delivered += piece.length;
      yield piece;
    }
  } catch (reason) {
    throw sourceFault ?? (reason instanceof LevelGridError ? reason : damaged(ended, delivered));
  }
}

function damaged(ended: boolean, delivered: number): LevelGridError {
  return new LevelGridError(ended ? 'truncated' : 'corrupt', {
    found: `compressed data that ${ended ? 'ends too early' : 'is damaged'}, after ${delivered} bytes of samples`,
    expected: 'a complete compressed stream',
    remedy: `The file is ${ended ? 'cut short' : 'damaged'}: copy or export it again.`,
  });
}

async function* portable(pieces: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array, void, undefined> {
  const stream = new DecompressionStream('deflate');
  const writer = stream.writable.getWriter();
  const reader = stream.readable.getReader();
  let sourceFault: unknown = null;
  let ended = false;
  let delivered = 0;
  const feeding = (async () => {
    try {
      for await (const piece of pieces) {
        // the decompressor refuses shared memory
        await writer.write(piece.buffer instanceof ArrayBuffer ? (piece as Uint8Array<ArrayBuffer>) : piece.slice());
      }
      ended = true;
      await writer.close();
    } catch (reason) {
      if (!ended && reason instanceof LevelGridError) {
        sourceFault = reason;
        // the read below fails with it
        await writer.abort(reason).catch(() => undefined);
      }
    }
  })();
  try {
    for (;;) {
      const { done, value } = await reader.read();
      if (done) break;
      delivered += value.length;
      yield value;
    }
    await feeding;
    if (sourceFault) throw sourceFault as LevelGridError;
  } catch (reason) {
    if (sourceFault) throw sourceFault as LevelGridError;
    if (reason instanceof LevelGridError) throw reason;
    throw damaged(ended, delivered);
  } finally {
    await reader.cancel().catch(() => undefined);
    await writer.abort().catch(() => undefined);
  }
}
