import { LevelGridError, type ByteSource } from '../../core/base';

/** Bytes of a stream at once. Two such buffers go to and fro, so that no memory is touched for the first time twice. */
const PIECE = 1 << 18;

/** A File or Blob as a byte source. */
export function blobSource(blob: Blob, name: string): ByteSource {
  const gone = (cause: unknown): LevelGridError =>
    new LevelGridError('unreadable', {
      file: name,
      found: 'a file that can no longer be read',
      expected: 'the file as it was brought in',
      remedy: 'It was moved or changed: bring it in again.',
      cause,
    });
  return {
    name,
    size: blob.size,
    async read(offset, length) {
      try {
        return new Uint8Array(await blob.slice(offset, offset + length).arrayBuffer());
      } catch (reason) {
        throw gone(reason);
      }
    },
    async *stream(offset) {
      const reader = readerOf(blob.slice(offset));
      try {
        let ahead = reader.next(new ArrayBuffer(PIECE));
        let spare: ArrayBufferLike = new ArrayBuffer(PIECE);
        for (;;) {
          let piece;
          try {
            piece = await ahead;
          } catch (reason) {
            throw gone(reason);
          }
          if (!piece) return;
          ahead = reader.next(spare);
          // a fault is told to whoever waits for the piece
          ahead.catch(() => undefined);
          yield piece;
          spare = piece.buffer;
        }
      } finally {
        // nothing depends on when the browser lets go of it
        void reader.cancel();
      }
    },
  };
}

interface PieceReader {
  /** The next bytes, in the buffer if the browser can; null at the end. */
  next(buffer: ArrayBufferLike): Promise<Uint8Array | null>;
  cancel(): Promise<void>;
}

function readerOf(blob: Blob): PieceReader {
  const cancel = (reader: ReadableStreamReader<unknown>): Promise<void> => reader.cancel().catch(() => undefined);
  try {
    const reader = blob.stream().getReader({ mode: 'byob' });
    return {
      next: async (buffer) => {
        const { done, value } = await reader.read(new Uint8Array(buffer as ArrayBuffer));
        return done || !value ? null : value;
      },
      cancel: () => cancel(reader),
    };
  } catch {
    // a browser whose blobs can't fill a given buffer hands out its own
    const reader = blob.stream().getReader();
    return {
      next: async () => {
        const { done, value } = await reader.read();
        return done ? null : value;
      },
      cancel: () => cancel(reader),
    };
  }
}
