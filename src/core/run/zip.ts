import { makeZip } from 'client-zip';
import type { ByteSource } from '../base';

/** Every entry bears this local time, so that the same files give the same zip on any day and in any zone. */
const FIXED_TIME = new Date(2020, 0, 1);
const PIECE = 1 << 20;

async function* pieces(source: ByteSource): AsyncGenerator<Uint8Array> {
  for (let at = 0; at < source.size; at += PIECE)
    yield (await source.read(at, Math.min(PIECE, source.size - at))).slice();
}

/** The files as one zip (stored, ZIP64 where needed), streamed; in the order given. */
export function zipOf(files: readonly ByteSource[]): ReadableStream<Uint8Array> {
  return makeZip(
    files.map((source) => ({
      name: source.name,
      lastModified: FIXED_TIME,
      size: source.size,
      input: pieces(source) as AsyncIterable<Uint8Array<ArrayBuffer>>,
    })),
  );
}
