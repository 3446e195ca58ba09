/** Where bytes come from: a File, a buffer or a file on disk look the same to the core. */
export interface ByteSource {
  /** Base name, as shown to people. */
  readonly name: string;
  /** Length in bytes. */
  readonly size: number;
  /** The bytes from `offset`, exactly `length` of them unless the source ends earlier. */
  read(offset: number, length: number): Promise<Uint8Array>;
  /**
   * The bytes from `offset` to the end in pieces of any size, each good until the next is asked for. What a source that
   * has no quicker way leaves out. Whoever stops early returns the generator.
   */
  stream?(offset: number): AsyncGenerator<Uint8Array, void, undefined>;
  /** Throws `source-changed` where the bytes are no longer those that were there when the source was opened. */
  unchanged?(): Promise<void>;
  /** The files that it stands for, where it is several at once; its own bytes are then none. */
  readonly parts?: readonly ByteSource[];
  /** A file that lies beside this one, by its base name (upper or lower case); null where there is none. */
  beside?(name: string): Promise<ByteSource | null>;
  /** Names of the files that are known to lie beside it: what came in one archive, or was dropped with it. */
  readonly siblings?: readonly string[];
  /** Another thread that can read the same bytes, so that two share the work; for sources of `LEAST_FOR_THREAD` bytes. */
  readonly thread?: SourceThread;
}

/** Below so many bytes a second thread costs more than it saves. */
export const LEAST_FOR_THREAD = 8 << 20;

/** See `ByteSource.thread`. */
export interface SourceThread {
  /**
   * Calls `inflateInto` of core/formats over there, for a format by its id, with this memory: half of the reading.
   * Rejected with what went wrong, also where the thread died.
   */
  inflate(format: string, memory: SharedArrayBuffer): Promise<InflatedWhole | null>;
}

/** What the file of a picture that was inflated to its end turned out to hold. */
export interface InflatedWhole {
  /** The file's closing chunk was there. */
  readonly closed: boolean;
  /** Headers and palettes that came, wherever they lay. */
  readonly headers: number;
  readonly palettes: number;
  /** Chunks that the file calls necessary and nobody here knows, each type once. */
  readonly unknown: readonly string[];
  /** Something lies between two pieces of the image data. */
  readonly split: boolean;
}

/** Bytes read at once where a source has no stream of its own. */
const PIECE = 1 << 20;

/** The bytes of a source from front to back; see `ByteSource.stream`. */
export function piecesOf(source: ByteSource, offset = 0): AsyncGenerator<Uint8Array, void, undefined> {
  return source.stream?.(offset) ?? readPieces(source, offset);
}

async function* readPieces(source: ByteSource, offset: number): AsyncGenerator<Uint8Array, void, undefined> {
  for (let at = offset; at < source.size;) {
    const piece = await source.read(at, Math.min(PIECE, source.size - at));
    if (piece.length === 0) return;
    at += piece.length;
    yield piece;
  }
}

/** Where one file's bytes go. */
export interface ByteSink {
  write(bytes: Uint8Array): Promise<void>;
  close(): Promise<void>;
}

/** Takes the files of a pack by name. Nothing is visible under its final name until `commit`. */
export interface SinkFolder {
  /** Told every name before the first file is opened: finds what is in the way. Throws `in-the-way`. */
  prepare?(names: readonly string[]): Promise<void>;
  open(name: string): Promise<ByteSink>;
  /** Makes every closed file visible, replacing older ones of the same name. */
  commit(): Promise<void>;
  /** Removes everything written since the last commit. Older files stay as they were. */
  abort(): Promise<void>;
}

/** A source over bytes in memory. */
export function memorySource(name: string, bytes: Uint8Array): ByteSource {
  return {
    name,
    size: bytes.length,
    read: async (offset, length) => bytes.subarray(offset, Math.min(bytes.length, offset + length)),
  };
}

/** Several files as one source, called by the first; alone, a file is itself. */
export function joinedSources(sources: readonly ByteSource[]): ByteSource {
  const [first, second] = sources;
  if (first && !second) return first;
  return {
    name: first?.name ?? '',
    size: sources.reduce((sum, s) => sum + s.size, 0),
    parts: sources,
    read: async () => new Uint8Array(0),
    unchanged: async () => {
      for (const source of sources) await source.unchanged?.();
    },
  };
}

/** The same sources, each of which knows the others as files that lie beside it. */
export function sideBySide(sources: readonly ByteSource[]): ByteSource[] {
  const byName = new Map(sources.map((s) => [s.name.toLowerCase(), s]));
  const siblings = sources.map((s) => s.name);
  return sources.map((s) => ({ ...s, siblings, beside: async (name) => byName.get(name.toLowerCase()) ?? null }));
}

/** A folder in memory, for packs that are zipped, proved or tested without a disk. */
export class MemoryFolder implements SinkFolder {
  readonly files = new Map<string, Uint8Array>();
  private pending = new Map<string, Uint8Array>();

  async open(name: string): Promise<ByteSink> {
    const parts: Uint8Array[] = [];
    return {
      write: async (bytes) => {
        parts.push(bytes.slice());
      },
      close: async () => {
        this.pending.set(name, concatBytes(parts));
      },
    };
  }

  async commit(): Promise<void> {
    for (const [name, bytes] of this.pending) this.files.set(name, bytes);
    this.pending = new Map();
  }

  async abort(): Promise<void> {
    this.pending = new Map();
  }

  source(name: string): ByteSource | null {
    const bytes = this.files.get(name);
    return bytes ? memorySource(name, bytes) : null;
  }
}

/** All parts in one new array. */
export function concatBytes(parts: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}
