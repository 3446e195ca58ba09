import { LevelGridError, type ByteSource } from '../../base';
import type { StoredSamples } from '../../raster';
import { BlockInflater } from '../block-inflater';
import { HOST_IS_LITTLE } from '../bytes';
import { halfValues } from '../half';
import type { BlockReader } from '../shared-blocks';
import { COMPRESSIONS, pixelBytes, type Channel, type Part } from './header';
import { unpackBlock } from './unpack';

/** Samples of a channel that lie in first..end−1, one for each `every` places counted from 0. */
const countIn = (first: number, end: number, every: number): number =>
  Math.floor((end - 1) / every) - Math.floor((first - 1) / every);

/** The blocks of one part, and one channel out of them; while one is worked on the next is being read. */
export class ExrBlocks implements BlockReader {
  readonly blocks: number;
  private table: Promise<Float64Array> | null = null;
  private readonly inflater = new BlockInflater();
  private next: { readonly number: number; readonly packed: Promise<Uint8Array> } | null = null;

  constructor(
    private readonly source: ByteSource,
    private readonly part: Part,
    private readonly channel: Channel,
    /** Number of the part, where blocks say to which one they belong. */
    private readonly number: number | null,
  ) {
    const { rows, wide } = this.outlineOf(0);
    const [left, top, right, bottom] = part.window;
    // behind these come those of smaller copies
    this.blocks = Math.ceil((right - left + 1) / wide) * Math.ceil((bottom - top + 1) / rows);
  }

  shapeOf(number: number): { readonly rows: number; readonly wide: number } {
    const { left, top, rows, wide } = this.outlineOf(number);
    const [, , right, bottom] = this.part.window;
    return { rows: Math.min(rows, bottom + 1 - top), wide: Math.min(wide, right + 1 - left) };
  }

  async decode(number: number, into: StoredSamples, left: number, stride: number, next: number): Promise<void> {
    const ahead = this.next;
    const packed = await (ahead?.number === number ? ahead.packed : this.packed(number));
    this.readAhead(next);
    this.take(packed, number, into, left, stride);
  }

  private readAhead(number: number): void {
    this.next = null;
    if (number >= this.blocks) return;
    const packed = this.packed(number);
    // a fault is told when the block is asked for; whoever stops early never asks
    packed.catch(() => undefined);
    this.next = { number, packed };
  }

  /** Where a block lies in the plane of the picture, the last ones as if they were whole. */
  private outlineOf(number: number): { left: number; top: number; rows: number; wide: number } {
    const { tiles, window, compression } = this.part;
    const [west, north, east] = window;
    const width = east - west + 1;
    if (!tiles) {
      const rows = COMPRESSIONS[compression]?.rows ?? 1;
      return { left: west, top: north + number * rows, rows, wide: width };
    }
    const across = Math.ceil(width / tiles.width);
    const [column, row] = [number % across, Math.floor(number / across)];
    return {
      left: west + column * tiles.width,
      top: north + row * tiles.height,
      rows: tiles.height,
      wide: tiles.width,
    };
  }

  /** The numbers that a block begins with, by which it says where it belongs. */
  private beginsOf(number: number): number[] {
    const { tiles, window } = this.part;
    if (!tiles) return [this.outlineOf(number).top];
    const across = Math.ceil((window[2] - window[0] + 1) / tiles.width);
    return [number % across, Math.floor(number / across), 0, 0];
  }

  /** The packed bytes of a block. */
  private async packed(index: number): Promise<Uint8Array> {
    const table = await (this.table ??= this.readTable());
    const at = table[index] as number;
    const begins = this.beginsOf(index);
    const expected = this.number === null ? begins : [this.number, ...begins];
    const head = expected.length * 4 + 4;
    const bytes = at > 0 && at + head <= this.source.size ? await this.source.read(at, head) : new Uint8Array(0);
    if (bytes.length < head) throw this.missing(index);
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    const found = expected.map((_, i) => view.getInt32(i * 4, true));
    if (found.some((v, i) => v !== expected[i]))
      throw new LevelGridError('corrupt', {
        file: this.source.name,
        found: `block ${index} as ${found.join(', ')}`,
        expected: expected.join(', '),
        remedy: 'The file is damaged: export or copy it again.',
      });
    const size = view.getInt32(head - 4, true);
    if (size < 0 || at + head + size > this.source.size) throw this.missing(index);
    return this.source.read(at + head, size);
  }

  private missing(index: number): LevelGridError {
    return new LevelGridError('truncated', {
      file: this.source.name,
      found: `a file that ends before block ${index}`,
      expected: `${this.part.blocks} blocks`,
      remedy: 'The file is cut short: copy or export it again.',
    });
  }

  private async readTable(): Promise<Float64Array> {
    const { table, blocks } = this.part;
    const bytes = await this.source.read(table, blocks * 8);
    if (bytes.length < blocks * 8) throw this.missing(0);
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    return Float64Array.from({ length: blocks }, (_, i) => Number(view.getBigUint64(i * 8, true)));
  }

  /** Unpacks a block and copies the channel to column `left` of `into`, rows of which are `stride` long. */
  private take(packed: Uint8Array, number: number, into: StoredSamples, left: number, stride: number): void {
    const { left: x, top: y } = this.outlineOf(number);
    const { rows, wide } = this.shapeOf(number);
    const { channels, compression } = this.part;
    const shapes = channels.map((c) => ({
      words: pixelBytes(c.type) / 2,
      width: countIn(x, x + wide, c.everyX),
      height: countIn(y, y + rows, c.everyY),
      has: (r: number) => (y + r) % c.everyY === 0,
    }));
    const size = shapes.reduce((n, s) => n + s.words * 2 * s.width * s.height, 0);
    const bytes = unpackBlock(compression, packed, size, shapes, this.inflater);
    let at = 0;
    for (let r = 0; r < rows; r++) {
      channels.forEach((c, i) => {
        const { words, width } = shapes[i] as (typeof shapes)[number];
        if ((y + r) % c.everyY !== 0) return;
        if (c === this.channel) copyRow(bytes, at, c, wide, into, r * stride + left);
        at += words * 2 * width;
      });
    }
  }
}

function copyRow(
  bytes: Uint8Array,
  at: number,
  { type }: Channel,
  count: number,
  into: StoredSamples,
  to: number,
): void {
  const size = pixelBytes(type);
  if (HOST_IS_LITTLE && (bytes.byteOffset + at) % size === 0) {
    const from = bytes.byteOffset + at;
    if (type === 'half') {
      const values = halfValues();
      const halves = new Uint16Array(bytes.buffer, from, count);
      for (let i = 0; i < count; i++) into[to + i] = values[halves[i]!]!;
    } else
      (into as Float32Array).set(
        type === 'float' ? new Float32Array(bytes.buffer, from, count) : new Uint32Array(bytes.buffer, from, count),
        to,
      );
    return;
  }
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (type === 'half') {
    const values = halfValues();
    for (let i = 0; i < count; i++) into[to + i] = values[view.getUint16(at + i * 2, true)] as number;
  } else if (type === 'float') for (let i = 0; i < count; i++) into[to + i] = view.getFloat32(at + i * 4, true);
  else for (let i = 0; i < count; i++) into[to + i] = view.getUint32(at + i * 4, true);
}
