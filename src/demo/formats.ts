/*
 * The plainest files of each format, written for the demo alone: float heights in metres, no compression, rows from the
 * north.
 */

import { plainTiff } from '../core/survey';

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

/** A tagged picture file with its placement and the unit of its heights. */
export const floatTiff = ({ width, height, heights, spacing, east, north }: Grid): Uint8Array =>
  plainTiff(width, height, heights, { west: east, north }, spacing, false);

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
