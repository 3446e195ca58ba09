import zlib from 'node:zlib';
import type { Inflater } from '../../core/formats';

const CHUNK = 1 << 18;

/** Node's zlib, in its thread pool: half the time of the portable stream, and beside this thread. */
export const nodeInflate: Inflater = async function* (pieces) {
  const stream = zlib.createInflate({ chunkSize: CHUNK });
  const feed = (async () => {
    try {
      for await (const piece of pieces) {
        // the next piece is fetched when this one is inside; a stream that was given up says so to nobody
        await new Promise<void>((resolve) => stream.write(piece, () => resolve()));
        if (stream.destroyed) return;
      }
      stream.end();
    } catch (reason) {
      stream.destroy(reason instanceof Error ? reason : new Error('the source failed'));
    }
  })();
  try {
    for await (const chunk of stream) yield chunk as Uint8Array;
    await feed;
  } finally {
    stream.destroy();
  }
};
