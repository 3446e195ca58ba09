import type { JobContext, Repair } from '../base';
import type { KernelPlace } from '../wasm';

export type SampleType = 'uint' | 'int' | 'float';
export type ByteOrder = 'little' | 'big';

/** Samples as stored in a file, in the file's own type and the machine's byte order. */
export type StoredSamples =
  Uint8Array | Int8Array | Uint16Array | Int16Array | Uint32Array | Int32Array | Float32Array | Float64Array;

/** Something wrong or assumed about a file, in a sentence. */
export interface RasterWarning {
  readonly code:
    | 'colour'
    | 'alpha'
    | 'eight-bit-content'
    | 'constant'
    | 'cut-short'
    | 'raw-guessed'
    | 'raw-uncertain'
    | 'palette'
    | 'structure'
    | 'voids'
    | 'pages'
    | 'degrees'
    | 'missing-rows'
    | 'mosaic'
    | 'mosaic-gap'
    | 'display-curve'
    | 'enlarged'
    | 'pattern'
    | 'needles'
    | 'byte-order'
    | 'row-width'
    | 'preview'
    | 'overhang'
    | 'outside';
  readonly message: string;
  /** The differences along seams that it tells of, in stored units. */
  readonly seams?: { readonly mean: number; readonly largest: number; readonly usual: number };
  /** What confirms or mends it. */
  readonly repair?: Repair;
}

/** What the header of a height file says. */
export interface RasterInfo {
  /** Id of the format, as the registry of formats has it. */
  readonly format: string;
  /** Samples west to east and north to south. */
  readonly width: number;
  readonly height: number;
  /** As stored; one of them is the height. */
  readonly channels: number;
  /** Bits per sample as stored. */
  readonly bitDepth: number;
  readonly sampleType: SampleType;
  readonly byteOrder: ByteOrder | null;
  /** Samples may be marked as voids in the file: they are then delivered as Float32, NaN where there is no height. */
  readonly mayHoldVoids?: boolean;
  /** Stored value that stands for no height, where the file names one. */
  readonly noData?: number;
  /** What the file calls its heights, where it says so; a picture says nothing. */
  readonly unit?: HeightUnit;
  /** Where the samples lie on the ground, where the file says so. */
  readonly georeference?: Georeference;
  /** What a sample stands for, where the file says so: a point, or the cell around it. */
  readonly registration?: 'vertex' | 'cell';
  /** Rasters in the file; the first that holds heights is read. */
  readonly pages?: number;
  /** Name of the channel that is read, where channels have names. */
  readonly channel?: string;
  /** Type of the codes in the files, where these were laid on each other by factors and the samples are others by now. */
  readonly own?: { readonly bitDepth: number; readonly sampleType: SampleType };
  /** Rows that can't be read are voids, as somebody has agreed. */
  readonly partial?: true;
  /** What its codes stand for, as a record beside it says: elevations of code 0 and of the highest, in metres. */
  readonly codes?: CodeRange;
  /** How an elevation follows from a stored value, in the unit of the heights, as the file itself says it. */
  readonly scaled?: ScaledHeights;
  /** Of heights in metres: they were multiplied by so much, as a record beside it says. */
  readonly stretched?: number;
  /** What a note in plain words beside it says, and the lines that say it. */
  readonly noted?: NotedFacts;
  /** The mesh that it was baked from. */
  readonly mesh?: MeshFacts;
  readonly warnings: readonly RasterWarning[];
}

/** elevation = base + factor · stored value. */
export interface ScaledHeights {
  readonly factor: number;
  readonly base: number;
}

/** What codes stand for, and who says so. */
export interface CodeRange {
  readonly low: number;
  readonly high: number;
  /** Heights were multiplied by so much about `low`. */
  readonly stretch: number;
  /** Name of the record. */
  readonly from: string;
}

/** What a note says, in metres. */
export interface NotedFacts {
  /** Name of the note. */
  readonly from: string;
  readonly lines: readonly string[];
  readonly low?: number;
  readonly high?: number;
  /** They are said of the ends of what the file can hold, not of what it holds. */
  readonly ends?: true;
  /** From sample to sample. */
  readonly spacing?: number;
  /** Heights are said to have been multiplied by so much: offered, not taken for granted. */
  readonly stretch?: number;
}

/** A box: x east, y north, z up, in metres. */
export interface Box {
  readonly min: readonly [number, number, number];
  readonly max: readonly [number, number, number];
}

/** How a mesh becomes a raster. */
export interface MeshOptions {
  /** The axis of the file that is up. */
  readonly up: 'y' | 'z';
  /** Metres of one unit of the file. */
  readonly metres: number;
  /** Metres from sample to sample. */
  readonly spacing: number;
  /** The ground that is baked, where it is not the mesh's own: the same place and size whatever the mesh becomes. */
  readonly volume?: Box | undefined;
}

/** What a mesh is, and what its view from above has lost. */
export interface MeshFacts {
  readonly vertices: number;
  readonly triangles: number;
  readonly bounds: Box;
  readonly options: MeshOptions;
  /** Which axis is up was guessed. */
  readonly guessed: boolean;
  /** Samples under which there is more ground, and the middle of a row of them: column and row. */
  readonly overhangs: number;
  readonly overhangAt: readonly [number, number] | null;
  /** Where they lie, row by row, to be shown: row, first and last column; not all where there are very many. */
  readonly roofs: readonly (readonly [row: number, from: number, to: number])[];
  /** Triangles that reach beyond the volume. */
  readonly outside: number;
}

/**
 * A curve that was put on heights as if they were a picture: that of sRGB, or a power p, by which a share h of the
 * height range is stored as h to the power of 1 / p.
 */
export type Curve = 'srgb' | number;

/** What heights are measured in. */
export const HEIGHT_UNITS = ['metre', 'decimetre', 'centimetre', 'foot', 'us-survey-foot'] as const;
export type HeightUnit = (typeof HEIGHT_UNITS)[number];

/** Metres of one unit of height. */
export const METRES_PER_UNIT: Readonly<Record<HeightUnit, number>> = {
  metre: 1,
  decimetre: 0.1,
  centimetre: 0.01,
  foot: 0.3048,
  'us-survey-foot': 1200 / 3937,
};

/**
 * Where a written raster lies on a map: sample (column, row) at `origin + column · across + row · down`, in coordinates
 * east and north.
 */
export interface MapPlace {
  /** The sample in the first column and row. */
  readonly origin: readonly [east: number, north: number];
  /** From sample to sample along a row, and from row to row. */
  readonly across: readonly [east: number, north: number];
  readonly down: readonly [east: number, north: number];
  readonly degrees: boolean;
  /** Metres of one unit of the coordinates; null where they are degrees, or nothing is said. */
  readonly metres: number | null;
  /** The coordinate reference system by its code or name; null where none is known. */
  readonly crs: string | null;
}

/** An affine placement without rotation. */
export interface Georeference {
  /** Coordinates of the centre of the north-western sample. */
  readonly x: number;
  readonly y: number;
  /** From sample to sample, east and south, in units of the coordinates. */
  readonly dx: number;
  readonly dy: number;
  /** Metres of one unit of the coordinates; null where they are degrees, or nothing is said. */
  readonly metres: number | null;
  readonly degrees: boolean;
  /** Name of the coordinate reference system as the file gives it; null where it gives none. */
  readonly crs: string | null;
  /** That a unit is a metre is taken for granted: the file does not say it. */
  readonly assumed?: true | undefined;
  /** Well-known text of the system, where a file has it. */
  readonly text?: string | undefined;
  /** How the system is worked out (a line of proj), where its units are not true metres of ground. */
  readonly system?: string | undefined;
  /** Metres of ground that a unit is in the middle of the raster, where that is so. */
  readonly scale?: { readonly east: number; readonly north: number } | undefined;
}

/**
 * `rows` full rows from row `y` (0 is north), row after row. Valid until the next band is requested; copy to keep.
 */
export interface StoredBand {
  readonly y: number;
  readonly rows: number;
  readonly data: StoredSamples;
  /** Where `data` lies in the memory of kernels, if it does (16-bit codes then): they can work on it there. */
  readonly place?: KernelPlace;
}

/** The same, as heights: Float32 above the raster's datum, in the raster's unit; NaN is a void. */
export interface Band {
  readonly y: number;
  readonly rows: number;
  readonly data: Float32Array;
  readonly place?: KernelPlace;
}

export interface CodeBand {
  readonly y: number;
  readonly rows: number;
  readonly data: Uint16Array;
}

/** An opened height file: header facts first, pixels when asked. */
export interface OpenRaster {
  readonly info: RasterInfo;
  /**
   * Streams all rows from the north. May be called again for another pass.
   * Warnings that only the pixels show (how colour was collapsed) are in `lateWarnings` afterwards.
   */
  bands(job?: JobContext): AsyncGenerator<StoredBand>;
  readonly lateWarnings: readonly RasterWarning[];
}

/** A stream of height bands with its size. */
export interface HeightStream {
  readonly width: number;
  readonly height: number;
  bands(job?: JobContext): AsyncGenerator<Band>;
  /** What was taken off the stored samples: a height is a stored sample less this. */
  readonly datum: number;
  /** The same samples as stored, where all of them are 16-bit codes; the datum is then a whole number. */
  codes?(job?: JobContext): AsyncGenerator<CodeBand>;
}

/**
 * Rows in one band of a raster `width` samples wide: about a quarter of a million samples, a multiple of 8, which is
 * how many rows are resampled together.
 */
export function bandRows(width: number): number {
  return Math.max(8, Math.floor(262144 / Math.max(1, width)) & ~7);
}
