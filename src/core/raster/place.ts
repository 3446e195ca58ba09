import { checkpoint, type JobContext } from '../base';
import { bandRows, type Band, type HeightStream } from './types';

export interface PlaceOptions {
  /** Size of the result. */
  readonly width: number;
  readonly height: number;
  /** Column and row of the source that lies at the result's north-west vertex; negative where the source starts inside. */
  readonly column: number;
  readonly row: number;
  /** Height of the ground that the source does not cover, in the raster's unit above its datum. */
  readonly rim: number;
}

/** Crops and pads in one: samples move whole, none is changed. */
export function place(source: HeightStream, options: PlaceOptions): HeightStream {
  const { width, height, column, row, rim } = options;
  const fromX = Math.max(0, column);
  const toX = Math.min(source.width, column + width);
  return {
    width,
    height,
    datum: source.datum,
    async *bands(job?: JobContext): AsyncGenerator<Band> {
      const rowsPerBand = bandRows(width);
      let y = 0;
      let band = new Float32Array(rowsPerBand * width).fill(rim);
      let filled = 0;
      const flush = (): Band => {
        const done = { y: y - filled, rows: filled, data: band.subarray(0, filled * width) };
        band = new Float32Array(rowsPerBand * width).fill(rim);
        filled = 0;
        return done;
      };
      const advance = (): boolean => {
        y++;
        filled++;
        return filled === rowsPerBand || y === height;
      };
      // rim north of the source
      while (y < height && y + row < 0) if (advance()) yield flush();
      for await (const { y: start, rows, data } of source.bands(job)) {
        checkpoint(job);
        for (let r = 0; r < rows && y < height; r++) {
          if (start + r !== y + row) continue;
          if (toX > fromX) {
            const at = r * source.width;
            band.set(data.subarray(at + fromX, at + toX), filled * width + fromX - column);
          }
          if (advance()) yield flush();
        }
        if (y === height) break;
      }
      while (y < height) if (advance()) yield flush();
    },
  };
}
