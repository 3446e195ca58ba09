import { open, readdir, stat } from 'node:fs/promises';
import { closeSync, fstatSync, openSync, readSync, type BigIntStats } from 'node:fs';
import path from 'node:path';
import { LEAST_FOR_THREAD, LevelGridError, type ByteSource, type SourceThread } from '../../core/base';

/** Bytes of a stream at once; two such buffers go to and fro. */
const PIECE = 1 << 18;

/**
 * Reads up to so many bytes are done at once: waiting for four answers of other threads takes longer than they do, and
 * as long again wherever this thread is at work meanwhile.
 */
const MOST_AT_ONCE = 1 << 20;

/**
 * A file on disk as a byte source. It is open only during a read or a stream: never behind a caller's back. `thread`
 * gives another thread that can read it, where it is large.
 */
export async function fileSource(file: string, thread?: (file: string) => SourceThread): Promise<ByteSource> {
  const name = path.basename(file);
  const facts = await stat(file, { bigint: true }).catch(() => null);
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
  const unreadable = (cause: unknown): LevelGridError =>
    new LevelGridError('unreadable', {
      file: name,
      found: 'a file that can’t be read',
      expected: 'permission to read it',
      remedy: 'Check its permissions and the disk.',
      cause,
    });
  const size = Number(facts.size);
  const check = (now: BigIntStats | null): void => {
    if (now && identity(now) === identity(facts)) return;
    throw new LevelGridError('source-changed', {
      file: name,
      found: now ? 'a file that was changed while it was read' : 'a file that went away while it was read',
      expected: 'the same file from the first byte to the last',
      remedy: 'Nothing was written. Wait until it is complete, and start again.',
    });
  };
  /** Opened, looked at, read and closed without waiting in between. */
  const readNow = (buffer: Uint8Array, offset: number): Uint8Array => {
    let descriptor: number | null = null;
    try {
      descriptor = openSync(file, 'r');
      check(fstatSync(descriptor, { bigint: true }));
      let filled = 0;
      while (filled < buffer.length) {
        const count = readSync(descriptor, buffer, filled, buffer.length - filled, offset + filled);
        if (count === 0) break;
        filled += count;
      }
      return filled === buffer.length ? buffer : buffer.subarray(0, filled);
    } catch (reason) {
      throw reason instanceof LevelGridError ? reason : unreadable(reason);
    } finally {
      if (descriptor !== null) closeSync(descriptor);
    }
  };
  return {
    name,
    size,
    unchanged: async () => check(await stat(file, { bigint: true }).catch(() => null)),
    async beside(wanted) {
      const folder = path.dirname(file);
      const names = await readdir(folder).catch(() => []);
      const found = names.find((n) => n === wanted) ?? names.find((n) => n.toLowerCase() === wanted.toLowerCase());
      return found === undefined ? null : fileSource(path.join(folder, found));
    },
    ...(thread && size >= LEAST_FOR_THREAD ? { thread: thread(file) } : {}),
    async read(offset, length) {
      const wanted = Math.max(0, Math.min(length, size - offset));
      const buffer = new Uint8Array(wanted);
      if (wanted <= MOST_AT_ONCE) return readNow(buffer, offset);
      let handle;
      try {
        handle = await open(file, 'r');
        check(await handle.stat({ bigint: true }));
        let filled = 0;
        while (filled < wanted) {
          const { bytesRead } = await handle.read(buffer, filled, wanted - filled, offset + filled);
          if (bytesRead === 0) break;
          filled += bytesRead;
        }
        return filled === wanted ? buffer : buffer.subarray(0, filled);
      } catch (reason) {
        throw reason instanceof LevelGridError ? reason : unreadable(reason);
      } finally {
        await handle?.close();
      }
    },
    async *stream(offset) {
      const handle = await open(file, 'r').catch((reason: unknown) => {
        throw unreadable(reason);
      });
      await handle
        .stat({ bigint: true })
        .then(check)
        .catch(async (reason: unknown) => {
          await handle.close();
          throw reason;
        });
      const load = async (buffer: Uint8Array, at: number): Promise<Uint8Array> => {
        const { bytesRead } = await handle.read(buffer, 0, Math.max(0, Math.min(PIECE, size - at)), at);
        return buffer.subarray(0, bytesRead);
      };
      const buffers = [new Uint8Array(PIECE), new Uint8Array(PIECE)] as const;
      let ahead = load(buffers[0], offset);
      try {
        for (let at = offset, turn = 1; ; turn ^= 1) {
          const piece = await ahead.catch((reason: unknown) => {
            throw unreadable(reason);
          });
          if (piece.length === 0) {
            check(await handle.stat({ bigint: true }));
            return;
          }
          at += piece.length;
          ahead = load(buffers[turn as 0 | 1], at);
          // a fault is told to whoever waits for the piece
          ahead.catch(() => undefined);
          yield piece;
        }
      } finally {
        // what is under way ends before the file closes
        await ahead.catch(() => undefined);
        await handle.close();
      }
    },
  };
}

/** What tells one state of a file from another. */
const identity = ({ dev, ino, size, mtimeNs, ctimeNs }: BigIntStats): string =>
  [dev, ino, size, mtimeNs, ctimeNs].join(':');
