import { makeZip } from 'client-zip';
import { piecesOf, type ByteSource } from '../base';

/** Every entry bears this local time, so that the same files give the same zip on any day and in any zone. */
const FIXED_TIME = new Date(2020, 0, 1);

async function* pieces(source: ByteSource): AsyncGenerator<Uint8Array> {
  // the zip keeps them
  for await (const piece of piecesOf(source)) yield piece.slice();
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
