import { mkdir, open, rename, rm, rmdir, stat, type FileHandle } from 'node:fs/promises';
import path from 'node:path';
import { LevelGridError, type ByteSink, type SinkFolder } from '../../core/base';

/** Ending of files that are being written. */
const PARTIAL = '.level-grid-partial';

const unwritable = (name: string): LevelGridError =>
  new LevelGridError('unwritable', {
    file: name,
    found: 'a place that can’t be written',
    expected: 'a folder with room and permission to write',
    remedy: 'Check the path, its permissions and the free space.',
  });

/** A folder on disk. Files are written under a temporary name and renamed together by `commit`. */
export class DiskFolder implements SinkFolder {
  private readonly pending: string[] = [];
  private readonly handles = new Set<FileHandle>();
  private made: string | null = null;

  private constructor(readonly directory: string) {}

  static async open(directory: string): Promise<DiskFolder> {
    const folder = new DiskFolder(directory);
    try {
      // the first folder that had to be made is the one to remove again if the run fails
      folder.made = (await mkdir(directory, { recursive: true })) ?? null;
      if (!(await stat(directory)).isDirectory()) throw unwritable(path.basename(directory));
    } catch (reason) {
      throw reason instanceof LevelGridError ? reason : unwritable(path.basename(directory));
    }
    return folder;
  }

  async open(name: string): Promise<ByteSink> {
    const temporary = path.join(this.directory, name + PARTIAL);
    try {
      const handle = await open(temporary, 'w');
      this.handles.add(handle);
      this.pending.push(name);
      return {
        write: async (bytes) => {
          for (let at = 0; at < bytes.length;)
            at += (await handle.write(bytes, at).catch(() => Promise.reject(unwritable(name)))).bytesWritten;
        },
        close: async () => {
          this.handles.delete(handle);
          await handle.close();
        },
      };
    } catch {
      throw unwritable(name);
    }
  }

  async commit(): Promise<void> {
    for (const name of this.pending) {
      await rename(path.join(this.directory, name + PARTIAL), path.join(this.directory, name)).catch(() =>
        Promise.reject(unwritable(name)),
      );
    }
    this.pending.length = 0;
  }

  async abort(): Promise<void> {
    for (const handle of this.handles) await handle.close().catch(() => undefined);
    this.handles.clear();
    for (const name of this.pending) await rm(path.join(this.directory, name + PARTIAL), { force: true });
    this.pending.length = 0;
    if (this.made !== null) await removeEmpty(this.directory, this.made);
  }
}

/** Removes `directory` and the folders above it down to `top`, as far as they are empty. */
async function removeEmpty(directory: string, top: string): Promise<void> {
  for (let at = directory; ; at = path.dirname(at)) {
    try {
      await rmdir(at);
    } catch {
      return;
    }
    if (at === top) return;
  }
}
