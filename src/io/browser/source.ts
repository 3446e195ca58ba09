import { LevelGridError, type ByteSource } from '../../core/base';

/** A File or Blob as a byte source. */
export function blobSource(blob: Blob, name: string): ByteSource {
  return {
    name,
    size: blob.size,
    async read(offset, length) {
      try {
        return new Uint8Array(await blob.slice(offset, offset + length).arrayBuffer());
      } catch {
        throw new LevelGridError('unreadable', {
          file: name,
          found: 'a file that can no longer be read',
          expected: 'the file as it was brought in',
          remedy: 'It was moved or changed: bring it in again.',
        });
      }
    },
  };
}
