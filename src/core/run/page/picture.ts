import { concatBytes } from '../../base';
import { pngChunk, PNG_SIGNATURE, zlib } from '../../formats';
import type { Codes } from '../../raster';
import { MAP_COLOURS, shade } from '../../relief';

/** Cells along the longer side of the picture of the terrain: enough to know the ground again. */
const CELLS = 480;

/** Codes of a cell that are looked at, along each of its sides: all of them would show no more, and take longer. */
const ALONG = 3;

/** Collects a small picture of what is written: the mean of some codes in each cell. Fed with whole rows, in order. */
export class TerrainPicture {
  private readonly cell: number;
  /** From one of its codes that is looked at to the next. */
  private readonly step: number;
  readonly columns: number;
  readonly rows: number;
  private readonly sums: Float64Array;

  constructor(
    private readonly width: number,
    private readonly height: number,
  ) {
    this.cell = Math.max(1, Math.ceil(Math.max(width, height) / CELLS));
    this.step = Math.ceil(this.cell / ALONG);
    this.columns = Math.ceil(width / this.cell);
    this.rows = Math.ceil(height / this.cell);
    this.sums = new Float64Array(this.columns * this.rows);
  }

  /** `codes` holds whole rows from row `y`. */
  add(y: number, codes: Codes): void {
    const { width, cell, columns, sums, step } = this;
    const count = codes.length / width;
    // but for the last one in a row all cells are whole
    const across = Math.ceil(cell / step);
    for (let row = 0; row < count; row++) {
      if (((y + row) % cell) % step !== 0) continue;
      const to = Math.floor((y + row) / cell) * columns;
      const end = (row + 1) * width;
      let at = row * width;
      for (let c = 0; c < columns - 1; c++, at += cell) {
        let sum = 0;
        for (let k = 0; k < across; k++) sum += codes[at + k * step]!;
        sums[to + c]! += sum;
      }
      for (; at < end; at += step) sums[to + columns - 1]! += codes[at]!;
    }
  }

  /**
   * The relief as a PNG of 8 bits a channel. `metres`: of 1 stored, `finest`: metres that are told apart, `spacing`: metres
   * from vertex to vertex.
   */
  png(metres: number, finest: number, spacing: { readonly x: number; readonly y: number }): Uint8Array {
    const { cell, step, columns, rows, width, height, sums } = this;
    const stride = columns + 2;
    const heights = new Float32Array(stride * (rows + 2));
    let low = Infinity;
    let high = -Infinity;
    for (let r = 0; r < rows; r++)
      for (let c = 0; c < columns; c++) {
        const across = Math.ceil(Math.min(cell, width - c * cell) / step);
        const down = Math.ceil(Math.min(cell, height - r * cell) / step);
        const h = (sums[r * columns + c]! / (across * down)) * metres;
        heights[(r + 1) * stride + c + 1] = h;
        low = Math.min(low, h);
        high = Math.max(high, h);
      }
    // the ground ends there: no slope is seen at its border
    for (let r = 1; r <= rows; r++) {
      heights[r * stride] = heights[r * stride + 1]!;
      heights[(r + 1) * stride - 1] = heights[(r + 1) * stride - 2]!;
    }
    heights.copyWithin(0, stride, 2 * stride);
    heights.copyWithin((rows + 1) * stride, rows * stride, (rows + 1) * stride);
    const pixels = new Uint8ClampedArray(columns * rows * 4);
    shade(pixels, heights, columns, rows, {
      view: 'relief',
      spacingX: spacing.x * cell,
      spacingY: spacing.y * cell,
      low,
      high,
      relief: 1.5,
      step: finest,
      water: null,
      ...MAP_COLOURS.film,
    });
    return pngOfPixels(pixels, columns, rows);
  }
}

/** RGBA pixels as a PNG of three channels. */
function pngOfPixels(pixels: Uint8ClampedArray, width: number, height: number): Uint8Array {
  const header = new Uint8Array(13);
  const view = new DataView(header.buffer);
  view.setUint32(0, width);
  view.setUint32(4, height);
  header.set([8, 2, 0, 0, 0], 8);
  const stride = width * 3 + 1;
  const filtered = new Uint8Array(stride * height);
  for (let y = 0, from = 0; y < height; y++) {
    let at = y * stride;
    // each sample less the one above: for a relief that is as good as trying all filters, and much quicker
    filtered[at++] = 2;
    const up = y === 0 ? -1 : from - 4 * width;
    for (let x = 0; x < width; x++, from += 4)
      for (let c = 0; c < 3; c++) filtered[at++] = pixels[from + c]! - (up < 0 ? 0 : pixels[up + 4 * x + c]!);
  }
  return concatBytes([
    PNG_SIGNATURE,
    pngChunk('IHDR', [header]),
    // the package took longer for this picture than a whole pack of 2017² vertices does
    pngChunk('IDAT', [zlib(filtered)]),
    pngChunk('IEND', []),
  ]);
}
