import type { Georeference, OpenRaster } from '../raster';

/** One of several rasters that make a whole. */
export interface Part {
  readonly name: string;
  readonly raster: OpenRaster;
}

/** Where a part lies: column and row of its north-western sample in the whole; its values times `factor` plus `shift`. */
export interface PlacedPart {
  readonly name: string;
  readonly at: readonly [column: number, row: number];
  readonly factor?: number | undefined;
  readonly shift?: number | undefined;
  /** Checksum of the file. */
  readonly sha256?: string | undefined;
}

/** How parts were put together, and what was seen along their seams. All in stored units. */
export interface Arrangement {
  readonly width: number;
  readonly height: number;
  readonly parts: readonly PlacedPart[];
  /** Where the whole lies, where the parts say it. */
  readonly georeference?: Georeference | undefined;
  /** By what they were placed. */
  readonly by: 'ground' | 'names' | 'hand';
  /** Neighbours hold the row or column between them both, each its own, or more of them both. */
  readonly edges: 'shared' | 'abutting' | 'overlapping';
  /** The end that names count rows from; null where places come from elsewhere. */
  readonly rows: 'north' | 'south' | null;
  readonly seams: SeamFigures;
  /** The largest difference across each of them. */
  readonly between: readonly { readonly parts: readonly [string, string]; readonly largest: number }[];
  /** Samples of the whole that no part covers. */
  readonly uncovered: number;
  /** Cells of the grid that the parts make, columns from the west and rows from the north, that hold none. */
  readonly missing: readonly { readonly column: number; readonly row: number }[];
  /** Two parts whose seams would match if they changed places. */
  readonly swapped: readonly [string, string] | null;
  /** Parts that fit their neighbours only after a factor and a shift: each was normalised by itself. */
  readonly normalised: readonly PlacedPart[] | null;
}

/** Differences across all seams, in stored units. */
export interface SeamFigures {
  readonly seams: number;
  readonly largest: number;
  readonly mean: number;
  /** Mean difference between neighbouring samples along the seams: what is no more than this is ground. */
  readonly usual: number;
}
