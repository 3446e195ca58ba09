import { deflateSync } from 'node:zlib';
import { pizBlock } from './write-piz';

export interface ExrChannel {
  readonly name: string;
  readonly type: 'uint' | 'half' | 'float';
  readonly every?: number;
}

/** What a picture is written with; written from the description of the format, apart from the reader it is for. */
export interface ExrShape {
  readonly width: number;
  readonly height: number;
  readonly channels: readonly ExrChannel[];
  readonly compression?: 'none' | 'RLE' | 'ZIPS' | 'ZIP' | 'PIZ';
  readonly tile?: readonly [number, number];
  /** First column and row of the data window. */
  readonly at?: readonly [number, number];
  readonly display?: readonly [number, number, number, number];
  readonly name?: string;
}
export type ExrValue = (channel: string, x: number, y: number) => number;

const NAMES = ['none', 'RLE', 'ZIPS', 'ZIP', 'PIZ'] as const;
const ROWS = [1, 1, 1, 16, 32] as const;
const TYPES = ['uint', 'half', 'float'] as const;

const int = (v: number): Buffer => {
  const out = Buffer.alloc(4);
  out.writeInt32LE(v);
  return out;
};
const text = (v: string): Buffer => Buffer.from(`${v}\0`, 'latin1');
const attribute = (name: string, type: string, data: Buffer): Buffer =>
  Buffer.concat([text(name), text(type), int(data.length), data]);

/** Bits of the half float nearest to a value that is one. */
export function halfBits(v: number): number {
  if (v !== v) return 0x7e00;
  const sign = v < 0 || Object.is(v, -0) ? 0x8000 : 0;
  const a = Math.abs(v);
  if (a === Infinity) return sign | 0x7c00;
  if (a === 0) return sign;
  const e = Math.max(-14, Math.floor(Math.log2(a)));
  const mantissa = Math.round((a / 2 ** e) * 1024);
  return mantissa < 1024 ? sign | mantissa : sign | (((e + 15) << 10) + mantissa - 1024);
}

/** One or several pictures as an EXR. */
export function writeExr(parts: readonly (readonly [ExrShape, ExrValue])[]): Buffer {
  const multi = parts.length > 1;
  const tiled = !multi && parts[0]?.[0].tile !== undefined;
  const packed = parts.map(([shape, value], i) => blocksOf(shape, value, multi ? i : null));
  const headers = parts.map(([shape], i) => headerOf(shape, multi, packed[i]?.length ?? 0));
  const front = Buffer.concat([
    Buffer.of(0x76, 0x2f, 0x31, 0x01),
    int(2 | (tiled ? 0x200 : 0) | (multi ? 0x1000 : 0)),
    ...headers,
    ...(multi ? [Buffer.alloc(1)] : []),
  ]);
  let at = front.length + packed.reduce((n, p) => n + p.length * 8, 0);
  const table: Buffer[] = [];
  for (const block of packed.flat()) {
    const place = Buffer.alloc(8);
    place.writeBigUInt64LE(BigInt(at));
    table.push(place);
    at += block.length;
  }
  return Buffer.concat([front, ...table, ...packed.flat()]);
}

function headerOf(shape: ExrShape, multi: boolean, blocks: number): Buffer {
  const { width, height, channels, compression = 'none', tile, at = [0, 0], name } = shape;
  const box = [at[0], at[1], at[0] + width - 1, at[1] + height - 1];
  const list = channels.map(({ name: n, type, every = 1 }) =>
    Buffer.concat([text(n), int(TYPES.indexOf(type)), int(0), int(every), int(every)]),
  );
  return Buffer.concat([
    attribute('channels', 'chlist', Buffer.concat([...list, Buffer.alloc(1)])),
    attribute('compression', 'compression', Buffer.of(NAMES.indexOf(compression))),
    attribute('dataWindow', 'box2i', Buffer.concat(box.map(int))),
    attribute('displayWindow', 'box2i', Buffer.concat([...(shape.display ?? box)].map(int))),
    attribute('lineOrder', 'lineOrder', Buffer.of(0)),
    attribute('pixelAspectRatio', 'float', Buffer.from(Float32Array.of(1).buffer)),
    attribute('screenWindowCenter', 'v2f', Buffer.alloc(8)),
    attribute('screenWindowWidth', 'float', Buffer.from(Float32Array.of(1).buffer)),
    ...(tile ? [attribute('tiles', 'tiledesc', Buffer.concat([int(tile[0]), int(tile[1]), Buffer.of(0)]))] : []),
    ...(multi
      ? [
          attribute('name', 'string', Buffer.from(name ?? 'part', 'latin1')),
          attribute('type', 'string', Buffer.from(tile ? 'tiledimage' : 'scanlineimage', 'latin1')),
          attribute('chunkCount', 'int', int(blocks)),
        ]
      : []),
    Buffer.alloc(1),
  ]);
}

function blocksOf(shape: ExrShape, value: ExrValue, part: number | null): Buffer[] {
  const { width, height, compression = 'none', tile, at = [0, 0] } = shape;
  const rows = tile?.[1] ?? ROWS[NAMES.indexOf(compression)] ?? 1;
  const wide = tile?.[0] ?? width;
  const out: Buffer[] = [];
  for (let top = 0; top < height; top += rows)
    for (let left = 0; left < width; left += wide) {
      const w = Math.min(wide, width - left);
      const h = Math.min(rows, height - top);
      const plain = plainBlock(shape, value, at[0] + left, at[1] + top, w, h);
      const data = packBlock(compression, plain, shape, w, h);
      const place = tile ? [left / wide, top / rows, 0, 0] : [at[1] + top];
      const stored = data.length < plain.length ? data : plain;
      out.push(Buffer.concat([...(part === null ? [] : [int(part)]), ...place.map(int), int(stored.length), stored]));
    }
  return out;
}

function plainBlock({ channels }: ExrShape, value: ExrValue, x0: number, y0: number, w: number, h: number): Buffer {
  const rows: Buffer[] = [];
  for (let y = y0; y < y0 + h; y++)
    for (const { name, type, every = 1 } of channels) {
      if (y % every !== 0) continue;
      for (let x = x0; x < x0 + w; x++) {
        if (x % every !== 0) continue;
        const v = value(name, x, y);
        const sample = Buffer.alloc(type === 'half' ? 2 : 4);
        if (type === 'half') sample.writeUInt16LE(halfBits(v));
        else if (type === 'float') sample.writeFloatLE(v);
        else sample.writeUInt32LE(v);
        rows.push(sample);
      }
    }
  return Buffer.concat(rows);
}

function packBlock(how: string, plain: Buffer, { channels }: ExrShape, w: number, h: number): Buffer {
  if (how === 'none') return plain;
  if (how === 'PIZ') {
    const words = new Uint16Array(plain.buffer.slice(plain.byteOffset, plain.byteOffset + plain.length));
    return pizBlock(
      words,
      channels.map((c) => ({ words: c.type === 'half' ? 1 : 2, width: w, height: h })),
    );
  }
  // even bytes, then odd ones; then differences
  const half = (plain.length + 1) >> 1;
  const sorted = Buffer.alloc(plain.length);
  plain.forEach((b, i) => (sorted[i % 2 === 0 ? i >> 1 : half + (i >> 1)] = b));
  for (let i = sorted.length - 1; i > 0; i--) sorted[i] = ((sorted[i] ?? 0) - (sorted[i - 1] ?? 0) + 128) & 0xff;
  return how === 'RLE' ? runs(sorted) : deflateSync(sorted);
}

function runs(bytes: Buffer): Buffer {
  const out: number[] = [];
  for (let i = 0; i < bytes.length;) {
    let n = 1;
    while (i + n < bytes.length && n < 128 && bytes[i + n] === bytes[i]) n++;
    if (n >= 3) out.push(n - 1, bytes[i] ?? 0);
    else {
      while (
        i + n < bytes.length &&
        n < 127 &&
        !(bytes[i + n] === bytes[i + n - 1] && bytes[i + n] === bytes[i + n + 1])
      )
        n++;
      out.push(256 - n, ...bytes.subarray(i, i + n));
    }
    i += n;
  }
  return Buffer.from(out);
}
