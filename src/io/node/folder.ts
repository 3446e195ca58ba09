import { randomUUID } from 'node:crypto';
import { rmSync } from 'node:fs';
import {
  lstat,
  mkdir,
  open,
  readdir,
  readFile,
  realpath,
  rename,
  rm,
  writeFile,
  rmdir,
  stat,
  type FileHandle,
} from 'node:fs/promises';
import path from 'node:path';
import * as z from 'zod';
import { LevelGridError, type ByteSink, type SinkFolder } from '../../core/base';
import { writeFault } from './faults';
import { takeLock, type Lock } from './lock';

/** Folders of unfinished work, each with a name of its own, inside the folder of the pack. */
const WORK = '.level-grid-work-';
/** What says that an exchange was begun: all of it is finished by whoever finds it. */
const JOURNAL = '.level-grid-journal.json';

const journalSchema = z.strictObject({
  version: z.literal(1),
  work: z.string().regex(/^\.level-grid-work-[\w-]{1,64}$/),
  names: z.array(z.string().min(1).max(255)).max(100_000),
});
type Journal = z.infer<typeof journalSchema>;

export interface DiskFolderOptions {
  /** Files that must not be written over, however their path is spelled. */
  readonly sources?: readonly string[];
  /** Replaces files that are not of this pack, too. */
  readonly replace?: boolean;
  /** Names of files that this pack left here and may replace. */
  readonly ours?: (directory: string) => Promise<ReadonlySet<string>>;
}

/**
 * A folder on disk that shows a pack whole or not at all. Files are made complete in a folder of unfinished work beside
 * their places; `commit` writes down what will be exchanged, exchanges it, and strikes it out again. Whoever finds such
 * a note finishes it first. A lock keeps two runs out of one folder.
 */
export class DiskFolder implements SinkFolder {
  private readonly pending: string[] = [];
  private readonly handles = new Set<FileHandle>();

  private constructor(
    readonly directory: string,
    private readonly lock: Lock,
    private readonly work: string,
    /** The first folder that had to be made: it goes again if nothing comes of it. */
    private readonly made: string | null,
    private readonly options: DiskFolderOptions,
  ) {}

  static async open(directory: string, options: DiskFolderOptions = {}): Promise<DiskFolder> {
    const base = path.basename(directory);
    let made: string | null = null;
    try {
      made = (await mkdir(directory, { recursive: true })) ?? null;
      if (!(await stat(directory)).isDirectory()) throw writeFault(null, base);
    } catch (reason) {
      throw writeFault(reason, base);
    }
    let lock: Lock;
    try {
      lock = await takeLock(directory);
    } catch (reason) {
      if (made !== null) await removeEmpty(directory, made);
      throw reason;
    }
    try {
      await finishExchange(directory);
      await sweep(directory);
      const work = WORK + randomUUID();
      await mkdir(path.join(directory, work));
      return new DiskFolder(directory, lock, work, made, options);
    } catch (reason) {
      await lock.release();
      if (made !== null) await removeEmpty(directory, made);
      throw writeFault(reason, base);
    }
  }

  /** Finds whatever is in the way before the first byte is written. Throws `in-the-way`. */
  async prepare(names: readonly string[]): Promise<void> {
    const guarded = await identities(this.options.sources ?? []);
    const ours = this.options.replace ? null : ((await this.options.ours?.(this.directory)) ?? new Set<string>());
    const foreign: string[] = [];
    for (const name of names) {
      const file = path.join(this.directory, name);
      const there = await lstat(file).catch(() => null);
      if (!there) continue;
      if (there.isSymbolicLink() || !there.isFile())
        throw inTheWay(
          name,
          there.isDirectory() ? 'a folder' : there.isSymbolicLink() ? 'a link' : 'something that is no file',
        );
      if (guarded.has(`${there.dev}:${there.ino}`)) throw overSource(name);
      if (ours && !ours.has(name)) foreign.push(name);
    }
    if (foreign.length > 0)
      throw inTheWay(
        foreign.slice(0, 4).join(', '),
        foreign.length === 1 ? 'an older file' : `${foreign.length} older files`,
      );
  }

  /** Writes a file of the unfinished work anew. */
  async rewrite(name: string, text: string): Promise<void> {
    try {
      await writeFile(this.unfinished(name), text, { flush: true });
    } catch (reason) {
      throw writeFault(reason, name);
    }
  }

  async open(name: string): Promise<ByteSink> {
    const file = this.unfinished(name);
    try {
      const handle = await open(file, 'wx');
      this.handles.add(handle);
      this.pending.push(name);
      return {
        write: async (bytes) => {
          try {
            for (let at = 0; at < bytes.length;) at += (await handle.write(bytes, at)).bytesWritten;
          } catch (reason) {
            throw writeFault(reason, name);
          }
        },
        close: async () => {
          this.handles.delete(handle);
          try {
            // a disk may find out only now that there is no room
            await handle.sync();
          } catch (reason) {
            throw writeFault(reason, name);
          } finally {
            await handle.close();
          }
        },
      };
    } catch (reason) {
      throw writeFault(reason, name);
    }
  }

  /** Where a file of this run lies before `commit`. */
  unfinished(name: string): string {
    if (name !== path.basename(name)) throw writeFault(null, name);
    return path.join(this.directory, this.work, name);
  }

  async commit(): Promise<void> {
    if (this.pending.length === 0) return;
    // what has come into the way since is still found before anything is touched
    await this.prepare(this.pending);
    const journal: Journal = { version: 1, work: this.work, names: [...this.pending] };
    const note = path.join(this.directory, JOURNAL);
    try {
      const draft = path.join(this.directory, this.work, JOURNAL);
      const handle = await open(draft, 'w');
      await handle.writeFile(JSON.stringify(journal));
      await handle.sync();
      await handle.close();
      // from here on the new pack is the one that counts
      await rename(draft, note);
      await exchange(this.directory, journal);
    } catch (reason) {
      throw writeFault(reason, path.basename(this.directory));
    }
    this.pending.length = 0;
    await this.lock.release();
  }

  async abort(): Promise<void> {
    for (const handle of this.handles) await handle.close().catch(() => undefined);
    this.handles.clear();
    // a begun exchange is not given up: the next one finishes it
    const begun = await stat(path.join(this.directory, JOURNAL)).catch(() => null);
    if (!begun) await rm(path.join(this.directory, this.work), { recursive: true, force: true });
    this.pending.length = 0;
    await this.lock.release();
    if (this.made !== null) await removeEmpty(this.directory, this.made);
  }

  /** For the last moment of a process: what is unfinished goes, as far as that can be done at once. */
  abortNow(): void {
    rmSync(path.join(this.directory, this.work), { recursive: true, force: true });
    this.lock.releaseNow();
  }
}

/** Moves every file of a journal to its place; what lies there goes first. May be called again at any point. */
async function exchange(directory: string, { work, names }: Journal): Promise<void> {
  for (const name of names) {
    const from = path.join(directory, work, name);
    // already there
    if (!(await lstat(from).catch(() => null))) continue;
    await rename(from, path.join(directory, name));
  }
  await rm(path.join(directory, JOURNAL), { force: true });
  await rm(path.join(directory, work), { recursive: true, force: true });
}

/** Finishes an exchange that somebody began and could not end. True where there was one. */
export async function finishExchange(directory: string): Promise<boolean> {
  const text = await readFile(path.join(directory, JOURNAL), 'utf8').catch(() => null);
  if (text === null) return false;
  let value: unknown = null;
  try {
    value = JSON.parse(text);
  } catch {
    // told below
  }
  const journal = journalSchema.safeParse(value);
  // names lead nowhere else
  if (!journal.success || journal.data.names.some((n) => n !== path.basename(n))) {
    throw new LevelGridError('unwritable', {
      file: JOURNAL,
      found: 'a note of an exchange that can’t be read',
      expected: 'the note that a run has written',
      remedy: 'Look at the folder; remove the note where the files are as you want them.',
    });
  }
  await exchange(directory, journal.data);
  return true;
}

/** Finishes what a run left behind that was ended in the middle of an exchange; does nothing where nothing was. */
export async function settleFolder(directory: string): Promise<void> {
  if (!(await stat(path.join(directory, JOURNAL)).catch(() => null))) return;
  const lock = await takeLock(directory);
  try {
    await finishExchange(directory);
    await sweep(directory);
  } catch (reason) {
    throw writeFault(reason, path.basename(directory));
  } finally {
    await lock.release();
  }
}

/** Unfinished work of runs that are gone: the lock says that nobody else is at it. */
async function sweep(directory: string): Promise<void> {
  for (const name of await readdir(directory)) {
    if (!name.startsWith(WORK)) continue;
    const there = await lstat(path.join(directory, name)).catch(() => null);
    if (there?.isDirectory()) await rm(path.join(directory, name), { recursive: true, force: true });
  }
}

/** What files are, whatever they are called. */
async function identities(files: readonly string[]): Promise<Set<string>> {
  const out = new Set<string>();
  for (const file of files) {
    const facts = await realpath(file)
      .then((real) => stat(real))
      .catch(() => null);
    if (facts) out.add(`${facts.dev}:${facts.ino}`);
  }
  return out;
}

const inTheWay = (name: string, what: string): LevelGridError =>
  new LevelGridError('in-the-way', {
    file: name,
    found: `${what} where the pack should be written`,
    expected: 'a free place, or a pack of this very recipe',
    remedy: 'Choose another folder, or write over older files with --replace.',
  });

const overSource = (name: string): LevelGridError =>
  new LevelGridError('in-the-way', {
    file: name,
    found: 'the source itself where a file of the pack should be written',
    expected: 'another place: a source is never written over',
    remedy: 'Choose another folder, or another name for the project.',
  });

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
