import type { SampleType } from '../../raster';

/** How the blocks of a raster lie in the file. */
export interface Layout {
  readonly width: number;
  readonly height: number;
  readonly bits: 8 | 16 | 32 | 64;
  readonly type: SampleType;
  /** Samples of a place that lie side by side in a block. */
  readonly together: number;
  readonly compression: number;
  readonly predictor: number;
  readonly little: boolean;
  readonly blockWidth: number;
  readonly blockHeight: number;
  readonly tiled: boolean;
  /** White is stored as 0. */
  readonly inverted: boolean;
  readonly noData: number | null;
}
