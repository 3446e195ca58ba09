/*
 * Files of formats that packs are not written in, for the demo alone: float heights in metres, no compression, rows from the
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
