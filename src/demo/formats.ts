/*
 * The plainest files of each format, written for the demo alone: float heights in metres, no compression, rows from the
 * north.
 */

export interface Grid {
  readonly width: number;
  readonly height: number;
  /** Metres. */
  readonly heights: Float32Array;
  /** Metres from sample to sample. */
  readonly spacing: number;
  /** Coordinates of the north-western sample. */
  readonly east: number;
  readonly north: number;
}

const LITTLE = true;

/** A tagged picture file (TIFF 6.0) with one strip, its placement and the unit of its heights. */
export function floatTiff({ width, height, heights, spacing, east, north }: Grid): Uint8Array {
  const keys = [1, 1, 0, 4, 1024, 0, 1, 1, 1025, 0, 1, 2, 3076, 0, 1, 9001, 4099, 0, 1, 9001];
  const doubles: readonly [number, readonly number[]][] = [
    [33550, [spacing, spacing, 0]],
    [33922, [0, 0, 0, east, north, 0]],
  ];
  const data = 8;
  const extra = data + heights.length * 4;
  const [scale, tie] = [extra, extra + 24];
  const keysAt = tie + 48;
  const directory = keysAt + keys.length * 2;
  type Entry = readonly [tag: number, type: number, count: number, value: number];
  const entries: readonly Entry[] = [
    [256, 4, 1, width],
    [257, 4, 1, height],
    [258, 3, 1, 32],
    [259, 3, 1, 1],
    [262, 3, 1, 1],
    [273, 4, 1, data],
    [277, 3, 1, 1],
    [278, 4, 1, height],
    [279, 4, 1, heights.length * 4],
    [339, 3, 1, 3],
    [33550, 12, 3, scale],
    [33922, 12, 6, tie],
    [34735, 3, keys.length, keysAt],
  ];
  const view = new DataView(new ArrayBuffer(directory + 2 + entries.length * 12 + 4));
  view.setUint16(0, 0x4949);
  view.setUint16(2, 42, LITTLE);
  view.setUint32(4, directory, LITTLE);
  heights.forEach((h, i) => view.setFloat32(data + 4 * i, h, LITTLE));
  let at = extra;
  for (const [, values] of doubles) for (const v of values) view.setFloat64((at += 8) - 8, v, LITTLE);
  for (const key of keys) view.setUint16((at += 2) - 2, key, LITTLE);
  view.setUint16(directory, entries.length, LITTLE);
  entries.forEach(([tag, type, count, value], i) => {
    const to = directory + 2 + 12 * i;
    view.setUint16(to, tag, LITTLE);
    view.setUint16(to + 2, type, LITTLE);
    view.setUint32(to + 4, count, LITTLE);
    if (type === 3 && count === 1) view.setUint16(to + 8, value, LITTLE);
    else view.setUint32(to + 8, value, LITTLE);
  });
  return new Uint8Array(view.buffer);
}

/** OpenEXR: one part of scan lines with one float channel. */
export function floatExr({ width, height, heights }: Grid, channel: string): Uint8Array {
  const text = (s: string): number[] => [...new TextEncoder().encode(s), 0];
  const int = (v: number): number[] => [v & 255, (v >> 8) & 255, (v >> 16) & 255, (v >> 24) & 255];
  const float = (v: number): number[] => [...new Uint8Array(Float32Array.of(v).buffer)];
  const attribute = (name: string, type: string, value: readonly number[]): number[] => [
    ...text(name),
    ...text(type),
    ...int(value.length),
    ...value,
  ];
  const box = [...int(0), ...int(0), ...int(width - 1), ...int(height - 1)];
  const head = Uint8Array.from([
    ...int(20000630),
    ...int(2),
    // floats; linear; every sample both ways
    ...attribute('channels', 'chlist', [...text(channel), ...int(2), ...int(0), ...int(1), ...int(1), 0]),
    ...attribute('compression', 'compression', [0]),
    ...attribute('dataWindow', 'box2i', box),
    ...attribute('displayWindow', 'box2i', box),
    ...attribute('lineOrder', 'lineOrder', [0]),
    ...attribute('pixelAspectRatio', 'float', float(1)),
    ...attribute('screenWindowCenter', 'v2f', [...float(0), ...float(0)]),
    ...attribute('screenWindowWidth', 'float', float(1)),
    0,
  ]);
  const line = 8 + width * 4;
  const first = head.length + height * 8;
  const out = new Uint8Array(first + height * line);
  out.set(head);
  const view = new DataView(out.buffer);
  for (let y = 0; y < height; y++) {
    const at = first + y * line;
    view.setBigUint64(head.length + 8 * y, BigInt(at), LITTLE);
    view.setInt32(at, y, LITTLE);
    view.setInt32(at + 4, width * 4, LITTLE);
    for (let x = 0; x < width; x++) view.setFloat32(at + 8 + 4 * x, heights[y * width + x]!, LITTLE);
  }
  return out;
}

/** Lines of keys, then rows of numbers. */
export function asciiGrid({ width, height, heights, spacing, east, north }: Grid): string {
  const rows = Array.from({ length: height }, (_, y) =>
    Array.from(heights.subarray(y * width, (y + 1) * width), (h) => h.toFixed(2)).join(' '),
  );
  const south = north - spacing * (height - 1);
  return `ncols ${width}\nnrows ${height}\nxllcenter ${east}\nyllcenter ${south}\ncellsize ${spacing}\nNODATA_value -9999\n${rows.join('\n')}\n`;
}

/** Portable float map: rows from the south. */
export function portableFloats({ width, height, heights }: Grid): Uint8Array {
  const head = new TextEncoder().encode(`Pf\n${width} ${height}\n-1.0\n`);
  const out = new Uint8Array(head.length + heights.length * 4);
  out.set(head);
  const view = new DataView(out.buffer, head.length);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      view.setFloat32(((height - 1 - y) * width + x) * 4, heights[y * width + x]!, LITTLE);
  return out;
}
