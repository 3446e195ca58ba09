import { LevelGridError, type ByteSink, type SinkFolder } from '../../core/base';

/** Collects the files of a pack as blobs, which the browser may keep on disk. */
export class BlobFolder implements SinkFolder {
  readonly files = new Map<string, Blob>();
  private pending = new Map<string, Blob>();

  async open(name: string): Promise<ByteSink> {
    const parts: Uint8Array<ArrayBuffer>[] = [];
    return {
      write: async (bytes) => {
        parts.push(bytes.slice());
      },
      close: async () => {
        this.pending.set(name, new Blob(parts));
        parts.length = 0;
      },
    };
  }

  async commit(): Promise<void> {
    for (const [name, blob] of this.pending) this.files.set(name, blob);
    this.pending = new Map();
  }

  async abort(): Promise<void> {
    this.pending = new Map();
  }
}

/** Writes finished files into a folder that the artist picked. Existing files of the same name are replaced one by one. */
export async function saveInto(directory: FileSystemDirectoryHandle, files: ReadonlyMap<string, Blob>): Promise<void> {
  for (const [name, blob] of files) {
    try {
      const handle = await directory.getFileHandle(name, { create: true });
      const stream = await handle.createWritable();
      await stream.write(blob);
      await stream.close();
    } catch {
      throw new LevelGridError('unwritable', {
        file: name,
        found: 'a folder that can’t be written',
        expected: 'room and permission to write',
        remedy: 'Choose another folder, or download the zip.',
      });
    }
  }
}
