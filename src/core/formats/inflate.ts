import { LevelGridError } from '../base';

/**
 * Zlib data (RFC 1950) inflated as it comes, by the platform's own decompressor, which runs beside this thread.
 * Ends after the zlib stream; throws `corrupt` for damaged data and `truncated` where the stream does not end.
 */
export async function* inflate(pieces: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array, void, undefined> {
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
    throw new LevelGridError(ended ? 'truncated' : 'corrupt', {
      found: `compressed data that ${ended ? 'ends too early' : 'is damaged'}, after ${delivered} bytes of samples`,
      expected: 'a complete compressed stream',
      remedy: `The file is ${ended ? 'cut short' : 'damaged'}: copy or export it again.`,
    });
  } finally {
    await reader.cancel().catch(() => undefined);
    await writer.abort().catch(() => undefined);
  }
}
