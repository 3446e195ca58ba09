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

const unwritable = (name: string): LevelGridError =>
  new LevelGridError('unwritable', {
    file: name,
    found: 'a folder that can’t be written',
    expected: 'room and permission to write',
    remedy: 'Choose another folder, or download the zip. What lay in the folder is as it was.',
  });

/** Files of a folder that would be written over and are not of this pack: a pack of the same recipe may be. */
export async function filesInTheWay(
  directory: FileSystemDirectoryHandle,
  files: ReadonlyMap<string, Blob>,
): Promise<string[]> {
  const textIn = async (name: string): Promise<string | null> => {
    try {
      return await (await (await directory.getFileHandle(name)).getFile()).text();
    } catch {
      return null;
    }
  };
  const recipe = await textIn('recipe.json');
  if (recipe !== null && recipe === (await files.get('recipe.json')?.text())) return [];
  const found: string[] = [];
  for await (const [name] of directory.entries()) if (files.has(name)) found.push(name);
  return found.sort();
}

/**
 * Writes finished files into a folder that the artist picked. All of them are complete beside their places before the
 * first one takes its own: where something fails until then, what lay in the folder stays.
 */
export async function saveInto(directory: FileSystemDirectoryHandle, files: ReadonlyMap<string, Blob>): Promise<void> {
  const open: { name: string; stream: FileSystemWritableFileStream; fresh: boolean }[] = [];
  try {
    for (const [name, blob] of files) {
      const fresh = await directory.getFileHandle(name).then(
        () => false,
        () => true,
      );
      const handle = await directory.getFileHandle(name, { create: true }).catch(() => {
        throw unwritable(name);
      });
      const stream = await handle.createWritable().catch(() => {
        throw unwritable(name);
      });
      open.push({ name, stream, fresh });
      await stream.write(blob).catch(() => {
        throw unwritable(name);
      });
    }
  } catch (reason) {
    for (const { name, stream, fresh } of open) {
      await stream.abort().catch(() => undefined);
      // a place that was only just made holds nothing
      if (fresh) await directory.removeEntry(name).catch(() => undefined);
    }
    throw reason;
  }
  for (const { name, stream } of open)
    await stream.close().catch(() => {
      throw unwritable(name);
    });
}
