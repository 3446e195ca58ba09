/** Words of control on the shared memory, then the bytes. */
const WRITTEN = 0;
const READ = 1;
/** Counted up at every event that the other side may wait for. */
const WRITER_EVENTS = 2;
const READER_EVENTS = 3;
const STATE = 4;
const NUMBERS = 5;
const HEADER_BYTES = 64;

const OPEN = 0;
const ENDED = 1;
const CLOSED = 2;

/**
 * A pipe for bytes between two threads: a ring on shared memory with one writer and one reader, who wait for each other
 * without holding up their other work. Positions count on and wrap at 2³²; the capacity is a power of two.
 */
export class ByteRing {
  private readonly control: Int32Array;
  private readonly bytes: Uint8Array;

  constructor(readonly memory: SharedArrayBuffer) {
    this.control = new Int32Array(memory, 0, HEADER_BYTES / 4);
    this.bytes = new Uint8Array(memory, HEADER_BYTES);
  }

  static create(capacity: number): ByteRing {
    return new ByteRing(new SharedArrayBuffer(HEADER_BYTES + capacity));
  }

  /** Whether threads can share memory here and wait for it: on a page only where it is isolated. */
  static get possible(): boolean {
    return typeof SharedArrayBuffer !== 'undefined' && typeof Atomics.waitAsync === 'function';
  }

  /** Bytes that were written and not yet read. */
  private get filled(): number {
    return (Atomics.load(this.control, WRITTEN) - Atomics.load(this.control, READ)) >>> 0;
  }

  /** Nothing is there to be read, and more may come. */
  get empty(): boolean {
    return this.filled === 0 && Atomics.load(this.control, STATE) === OPEN;
  }

  /** The next whole number from 0 on; both sides take from the same ones, and nobody gets one twice. */
  number(): number {
    return Atomics.add(this.control, NUMBERS, 1);
  }

  private tell(events: number): void {
    Atomics.add(this.control, events, 1);
    Atomics.notify(this.control, events);
  }

  private async wait(events: number, seen: number): Promise<void> {
    await Atomics.waitAsync(this.control, events, seen).value;
  }

  /** Writes all of `data`; false where the reader wants no more. `data` must not change until then. */
  async write(data: Uint8Array): Promise<boolean> {
    const { bytes, control } = this;
    for (let at = 0; at < data.length;) {
      const seen = Atomics.load(control, READER_EVENTS);
      if (Atomics.load(control, STATE) === CLOSED) return false;
      const free = bytes.length - this.filled;
      if (free === 0) {
        await this.wait(READER_EVENTS, seen);
        continue;
      }
      const start = (Atomics.load(control, WRITTEN) >>> 0) % bytes.length;
      const n = Math.min(free, data.length - at, bytes.length - start);
      bytes.set(data.subarray(at, at + n), start);
      Atomics.add(control, WRITTEN, n);
      at += n;
      this.tell(WRITER_EVENTS);
    }
    return Atomics.load(control, STATE) !== CLOSED;
  }

  /** Nothing more will be written. */
  end(): void {
    Atomics.compareExchange(this.control, STATE, OPEN, ENDED);
    this.tell(WRITER_EVENTS);
  }

  /** Fills `into` from the front; how many bytes there were: fewer only where the writer has ended. */
  async read(into: Uint8Array): Promise<number> {
    const { bytes, control } = this;
    let at = 0;
    while (at < into.length) {
      const seen = Atomics.load(control, WRITER_EVENTS);
      // looked at before the positions: what was written before the end counts
      const ended = Atomics.load(control, STATE) !== OPEN;
      const { filled } = this;
      if (filled === 0) {
        if (ended) break;
        await this.wait(WRITER_EVENTS, seen);
        continue;
      }
      const start = (Atomics.load(control, READ) >>> 0) % bytes.length;
      const n = Math.min(filled, into.length - at, bytes.length - start);
      into.set(bytes.subarray(start, start + n), at);
      Atomics.add(control, READ, n);
      at += n;
      this.tell(READER_EVENTS);
    }
    return at;
  }

  /** The reader wants no more. */
  close(): void {
    Atomics.store(this.control, STATE, CLOSED);
    this.tell(READER_EVENTS);
    this.tell(WRITER_EVENTS);
  }
}
