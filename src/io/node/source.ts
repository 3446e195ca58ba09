import { open, stat } from 'node:fs/promises';
import path from 'node:path';
import { LevelGridError, type ByteSource } from '../../core/base';

/** A file on disk as a byte source. Opens it for each read: nothing stays open behind a caller's back. */
export async function fileSource(file: string): Promise<ByteSource> {
  const name = path.basename(file);
  const facts = await stat(file).catch(() => null);
  if (!facts) {
    throw new LevelGridError('not-found', {
      file: name,
      found: 'no such file',
      expected: 'a file that can be read',
      remedy: 'Check the path.',
    });
  }
  if (!facts.isFile()) {
    throw new LevelGridError('unreadable', {
      file: name,
      found: 'a folder',
      expected: 'a file',
      remedy: 'Name the file inside it.',
    });
  }
  return {
    name,
    size: facts.size,
    async read(offset, length) {
      const wanted = Math.max(0, Math.min(length, facts.size - offset));
      const buffer = new Uint8Array(wanted);
      let handle;
      try {
        handle = await open(file, 'r');
        let filled = 0;
        while (filled < wanted) {
          const { bytesRead } = await handle.read(buffer, filled, wanted - filled, offset + filled);
          if (bytesRead === 0) break;
          filled += bytesRead;
        }
        return filled === wanted ? buffer : buffer.subarray(0, filled);
      } catch {
        throw new LevelGridError('unreadable', {
          file: name,
          found: 'a file that can’t be read',
          expected: 'permission to read it',
          remedy: 'Check its permissions and the disk.',
        });
      } finally {
        await handle?.close();
      }
    },
  };
}
