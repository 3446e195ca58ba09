import { LevelGridError } from '../../base';
import { damaged } from './framing';

/** The fallback where there are no kernels: the platform's own decompressor. */
export async function* portable(pieces: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array, void, undefined> {
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
