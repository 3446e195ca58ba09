/*
 * Files of formats that packs are not written in, for the demo alone: float heights in metres, no compression, rows from the
 * north.
 */

export interface Grid {
  readonly width: number;
  readonly height: number;
  /** Metres. */
  readonly heights: Float32Array;
}

const LITTLE = true;

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
