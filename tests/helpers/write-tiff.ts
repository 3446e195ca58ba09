import { deflateSync } from 'node:zlib';

type Number64 = number | bigint;

/** What a TIFF is written with; written from the specification, apart from the reader it is for. */
export interface TiffShape {
  readonly width: number;
  readonly height: number;
  readonly type: 'uint' | 'int' | 'float';
  readonly bits: 8 | 16 | 32 | 64;
  readonly little?: boolean;
  readonly big?: boolean;
  readonly rowsPerStrip?: number;
  readonly tile?: readonly [number, number];
  readonly compression?: 1 | 8 | 32773;
  readonly predictor?: 1 | 2 | 3;
  readonly samples?: number;
  readonly planar?: 1 | 2;
  /** More entries: tag, type (2 text, 3 short, 4 long, 12 double), values. */
  readonly tags?: readonly (readonly [number, 2 | 3 | 4 | 12, readonly number[] | string])[];
  /** Blocks that are left out. */
  readonly holes?: readonly number[];
  /** Directories in front of the picture, marked as smaller copies. */
  readonly previews?: number;
}

type Entry = readonly [tag: number, type: number, values: readonly Number64[]];

/** `value(x, y, channel)` as a TIFF. */
export function writeTiff(shape: TiffShape, value: (x: number, y: number, channel: number) => Number64): Buffer {
  const { little = true, big = false, tags = [], previews = 0 } = shape;
  const blocks = blocksOf(shape, value);
  const wide = big ? 8 : 4;
  let place = big ? 16 : 8;
  const offsets = blocks.map((b, i) => {
    place += b.length;
    return shape.holes?.includes(i) ? 0 : place - b.length;
  });
  const counts = blocks.map((b, i) => (shape.holes?.includes(i) ? 0 : b.length));
  const entries: Entry[] = [
    ...describing(shape, big ? 16 : 4, offsets, counts),
    ...tags.map(([tag, type, v]): Entry => [
      tag,
      type,
      typeof v === 'string' ? [...Buffer.from(`${v}\0`, 'latin1')] : v,
    ]),
  ];
  const chunks: Buffer[] = [...blocks];
  const u = (v: Number64, size: number): Buffer => numberBytes(v, size, little);
  const first = place;
  const directory = (all: Entry[], last: boolean): void => {
    all.sort((a, b) => a[0] - b[0]);
    const extra: Buffer[] = [];
    let extraAt = place + (big ? 8 : 2) + all.length * (big ? 20 : 12) + wide;
    const parts: Buffer[] = [u(all.length, big ? 8 : 2)];
    for (const [tag, type, values] of all) {
      const size = { 2: 1, 3: 2, 4: 4, 12: 8, 16: 8 }[type] ?? 1;
      const data = Buffer.concat(values.map((v) => (type === 12 ? doubleBytes(Number(v), little) : u(v, size))));
      parts.push(u(tag, 2), u(type, 2), u(values.length, wide));
      if (data.length <= wide) parts.push(Buffer.concat([data, Buffer.alloc(wide - data.length)]));
      else {
        parts.push(u(extraAt, wide));
        extra.push(data);
        extraAt += data.length;
      }
    }
    parts.push(u(last ? 0 : extraAt, wide));
    chunks.push(...parts, ...extra);
    place = extraAt;
  };
  for (let p = 0; p < previews; p++) directory([...entries, [254, 4, [1]]], false);
  directory(entries, true);
  const mark = Buffer.from(little ? 'II' : 'MM');
  const head = big ? [mark, u(43, 2), u(8, 2), u(0, 2), u(first, 8)] : [mark, u(42, 2), u(first, 4)];
  return Buffer.concat([...head, ...chunks]);
}

function describing(shape: TiffShape, long: number, offsets: readonly number[], counts: readonly number[]): Entry[] {
  const { width, height, type, bits, compression = 1, predictor = 1, samples = 1, planar = 1, tile } = shape;
  const each = (v: number): number[] => new Array<number>(samples).fill(v);
  return [
    [256, 4, [width]],
    [257, 4, [height]],
    [258, 3, each(bits)],
    [259, 3, [compression]],
    [262, 3, [1]],
    [277, 3, [samples]],
    [284, 3, [planar]],
    [317, 3, [predictor]],
    [339, 3, each({ uint: 1, int: 2, float: 3 }[type])],
    ...(tile
      ? ([
          [322, 4, [tile[0]]],
          [323, 4, [tile[1]]],
          [324, long, offsets],
          [325, long, counts],
        ] as Entry[])
      : ([
          [273, long, offsets],
          [278, 4, [shape.rowsPerStrip ?? height]],
          [279, long, counts],
        ] as Entry[])),
  ];
}

function blocksOf(shape: TiffShape, value: (x: number, y: number, channel: number) => Number64): Buffer[] {
  const { width, height, bits, tile, compression = 1, samples = 1, planar = 1 } = shape;
  const [wide, high] = tile ?? [width, shape.rowsPerStrip ?? height];
  const together = planar === 1 ? samples : 1;
  const blocks: Buffer[] = [];
  for (let plane = 0; plane < (planar === 2 ? samples : 1); plane++)
    for (let top = 0; top < height; top += high)
      for (let left = 0; left < width; left += wide) {
        const rows = tile ? high : Math.min(high, height - top);
        const whole = Buffer.concat(
          Array.from({ length: rows }, (_, r) =>
            rowOf(shape, wide * together, together, (i) => {
              const x = left + Math.floor(i / together);
              return x < width && top + r < height ? value(x, top + r, planar === 2 ? plane : i % together) : 0;
            }),
          ),
        );
        blocks.push(
          compression === 8
            ? deflateSync(whole)
            : compression === 32773
              ? packBits(whole, (wide * together * bits) / 8)
              : whole,
        );
      }
  return blocks;
}

/** One row of `n` samples, as the predictor has it. */
function rowOf(
  { type, bits, little = true, predictor = 1 }: TiffShape,
  n: number,
  together: number,
  at: (i: number) => Number64,
): Buffer {
  const size = bits / 8;
  const put = (out: Buffer, i: number, v: Number64, asLittle: boolean): void => {
    const view = new DataView(out.buffer, out.byteOffset, out.length);
    if (type === 'float' && bits === 64) view.setFloat64(i * size, Number(v), asLittle);
    else if (type === 'float') view.setFloat32(i * size, Number(v), asLittle);
    else if (bits === 64) view.setBigInt64(i * size, BigInt(v), asLittle);
    else if (bits === 32) view.setUint32(i * size, Number(v) >>> 0, asLittle);
    else if (bits === 16) view.setUint16(i * size, Number(v) & 0xffff, asLittle);
    else view.setUint8(i * size, Number(v) & 0xff);
  };
  const row = Buffer.alloc(n * size);
  if (predictor === 3) {
    // bytes of all samples sorted by their weight, then differences
    const plain = Buffer.alloc(n * size);
    for (let i = 0; i < n; i++) put(plain, i, at(i), false);
    for (let k = 0; k < size; k++) for (let i = 0; i < n; i++) row[k * n + i] = plain[i * size + k] ?? 0;
    for (let i = row.length - 1; i >= together; i--) row[i] = ((row[i] ?? 0) - (row[i - together] ?? 0)) & 0xff;
    return row;
  }
  for (let i = 0; i < n; i++) {
    const [v, before] = [at(i), predictor === 2 && i >= together ? at(i - together) : 0];
    const whole64 = bits === 64 && type !== 'float';
    put(row, i, whole64 ? BigInt.asIntN(64, BigInt(v) - BigInt(before)) : Number(v) - Number(before), little);
  }
  return row;
}

function numberBytes(v: Number64, size: number, little: boolean): Buffer {
  const out = Buffer.alloc(size);
  const view = new DataView(out.buffer, out.byteOffset, size);
  if (size === 8) view.setBigUint64(0, BigInt(v), little);
  else if (size === 4) view.setUint32(0, Number(v), little);
  else if (size === 2) view.setUint16(0, Number(v), little);
  else view.setUint8(0, Number(v));
  return out;
}

function doubleBytes(v: number, little: boolean): Buffer {
  const out = Buffer.alloc(8);
  new DataView(out.buffer, out.byteOffset, 8).setFloat64(0, v, little);
  return out;
}

/** Runs of equal bytes, and stretches as they are; no run goes over the end of a row. */
function packBits(bytes: Buffer, row: number): Buffer {
  const out: number[] = [];
  for (let start = 0; start < bytes.length; start += row) {
    const end = start + row;
    for (let i = start; i < end;) {
      let n = 1;
      while (i + n < end && n < 128 && bytes[i + n] === bytes[i]) n++;
      if (n > 1) out.push(257 - n, bytes[i] ?? 0);
      else {
        while (i + n < end && n < 128 && bytes[i + n] !== bytes[i + n - 1]) n++;
        out.push(n - 1, ...bytes.subarray(i, i + n));
      }
      i += n;
    }
  }
  return Buffer.from(out);
}
