import { LevelGridError, type ByteSource } from '../../core/base';

/**
 * What is read first, so that a header costs little, and every time after that: each way to the disk takes 10 ms, and
 * a job that is cancelled waits for the one that is under way.
 */
const FIRST = 1 << 20;
const BLOCK = 1 << 22;

interface Block {
  readonly start: number;
  readonly bytes: Promise<Uint8Array>;
}

/** A File or Blob as a byte source, read in large blocks, the next one ahead. Small reads from front to back are cheap. */
export function blobSource(blob: Blob, name: string): ByteSource {
  const load = (start: number, length: number): Block => {
    const bytes = blob
      .slice(start, start + length)
      .arrayBuffer()
      .then((buffer) => new Uint8Array(buffer));
    // a fault is told to whoever needs the block
    bytes.catch(() => undefined);
    return { start, bytes };
  };
  let current: Block | null = null;
  let ahead: Block | null = null;

  /** The block that holds byte `offset`. */
  const blockAt = async (offset: number): Promise<{ start: number; bytes: Uint8Array }> => {
    for (const block of [current, ahead]) {
      if (!block || offset < block.start) continue;
      const bytes = await block.bytes;
      if (offset >= block.start + bytes.length) continue;
      if (block === ahead) {
        current = block;
        ahead = load(block.start + bytes.length, BLOCK);
      }
      return { start: block.start, bytes };
    }
    const fresh = load(offset, current ? BLOCK : FIRST);
    current = fresh;
    ahead = null;
    const bytes = await fresh.bytes;
    if (current === fresh && offset + bytes.length < blob.size) ahead = load(offset + bytes.length, BLOCK);
    return { start: offset, bytes };
  };

  return {
    name,
    size: blob.size,
    async read(offset, length) {
      try {
        const end = Math.min(offset + length, blob.size);
        if (end - offset >= BLOCK) return await load(offset, end - offset).bytes;
        const out = new Uint8Array(Math.max(0, end - offset));
        for (let at = offset; at < end;) {
          const { start, bytes } = await blockAt(at);
          const part = bytes.subarray(at - start, end - start);
          if (part.length === 0) throw new Error('shorter than it says');
          out.set(part, at - offset);
          at += part.length;
        }
        return out;
      } catch {
        current = ahead = null;
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
