import type { ErrorRecord, InflatedWhole } from '../core/base';
import type { RawLayout, RawPreview } from '../core/formats';
import type { Comparison } from '../core/compare';
import type { SourceLook } from '../core/edits';
import type { Arrangement, Cell } from '../core/mosaic';
import type { PlanDocument, SourceFacts, Work } from '../core/plan';
import type { Proof, ProofMaps } from '../core/proof';
import type { GroundStatistics, Overview, SourceExtremes, StoredSamples } from '../core/raster';
import type { Recipe, SourceReading } from '../core/recipe';
import type { View } from '../core/relief';
import type { HeldStage } from '../core/run';
import type { MapPoint, Profile, SmallPicture } from '../core/view';

/** A result or a typed error, whole, across the worker boundary. */
export type Outcome<T> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly error: ErrorRecord };

/** One Int32 on shared memory, 1 = stop; null where memory can't be shared. */
export type StopFlag = Int32Array | null;
/** Called with work done and in all, across the boundary; null where nobody listens. */
export type ReportWire = ((done: number, total: number) => void) | null;

/** Samples that are being read, and how many rows of them are there (one Int32), both on shared memory. */
export interface Arriving {
  readonly samples: StoredSamples;
  readonly rows: Int32Array;
}

/** A source that is held, decoded, by the workers. */
export interface HeldSource {
  readonly facts: SourceFacts;
  readonly layout: RawLayout | null;
  readonly extremes: SourceExtremes | null;
  readonly samples: StoredSamples;
}

/** Files in the cells of a board. */
export interface LaidOut {
  /** Names the board, whose files are read once. */
  readonly board: string;
  readonly cells: ReadonlyMap<string, Cell>;
}

/** Facts and ground of a recipe that is only tried. */
export interface Weighed {
  readonly facts: SourceFacts;
  readonly ground: GroundStatistics;
}

export interface PackResult {
  readonly document: PlanDocument;
  readonly files: ReadonlyMap<string, Blob>;
}

/** The worker that decodes, measures, writes and proves. */
export interface JobWorker {
  open(
    id: string,
    blob: Blob,
    name: string,
    reading: SourceReading,
    onHeader: (facts: SourceFacts, arriving: Arriving | null) => void,
    stop: StopFlag,
    report: ReportWire,
  ): Promise<Outcome<HeldSource>>;
  /** What enters the fit of a recipe, made and counted; null where no step is on. */
  stage(id: string, recipe: Recipe, stop: StopFlag, report: ReportWire): Promise<Outcome<HeldStage | null>>;
  /** What a file is, by its first bytes. */
  look(blob: Blob, name: string): Promise<Outcome<SourceLook>>;
  /** What a recipe that is only tried would give: what enters its fit, and its ground. */
  weigh(id: string, recipe: Recipe): Promise<Outcome<Weighed>>;
  ground(id: string, recipe: Recipe, stop: StopFlag, report: ReportWire): Promise<Outcome<GroundStatistics>>;
  /** `threads`: how many encode pictures, set by the first pack of a tab. */
  pack(id: string, recipe: Recipe, threads: number, stop: StopFlag, report: ReportWire): Promise<Outcome<PackResult>>;
  /** How a headerless file looks in each of these readings. */
  previews(blob: Blob, layouts: readonly RawLayout[], side: number): Promise<Outcome<readonly RawPreview[]>>;
  /** How the files of a bundle make one raster, in the cells of a board or as they are found; refused where they make none. */
  arrange(
    blob: Blob,
    name: string,
    laid: LaidOut | null,
    stop: StopFlag,
    report: ReportWire,
  ): Promise<Outcome<Arrangement>>;
  /** The height files of a bundle in small, by their names. */
  pictures(blob: Blob, name: string, side: number): Promise<Outcome<ReadonlyMap<string, SmallPicture>>>;
  /** The height files of a bundle as data sets of the same ground. */
  compare(blob: Blob, name: string, stop: StopFlag, report: ReportWire): Promise<Outcome<Comparison>>;
  zip(files: ReadonlyMap<string, Blob>): Promise<Outcome<Blob>>;
  /** The files of a zipped pack; of another zip its height files, by their paths. */
  unzip(blob: Blob, name: string): Promise<Outcome<ReadonlyMap<string, Blob>>>;
  /** `id`: the source that the files are held against; null: there is none. */
  prove(
    id: string | null,
    files: ReadonlyMap<string, Blob>,
    typed: Record<string, number | string>,
    stop: StopFlag,
    report: ReportWire,
  ): Promise<Outcome<{ proof: Proof; maps: ProofMaps | null }>>;
  close(id: string): void;
}

/** The thread that does its part of reading a large file; see `SourceThread`. */
export interface InflateWorker {
  inflate(blob: Blob, name: string, format: string, memory: SharedArrayBuffer): Promise<Outcome<InflatedWhole | null>>;
}

/** One tile of the map, as it is asked for. */
export interface TileRequest {
  readonly id: string;
  readonly which: 'source' | 'result';
  /** Of a source that is still being read: as it lies, before any step. */
  readonly asItLies: boolean;
  readonly level: number;
  readonly column: number;
  readonly row: number;
  readonly view: View;
  readonly recipe: Recipe;
  readonly work: Work;
  readonly low: number;
  readonly high: number;
  readonly water: number | null;
  readonly dark: boolean;
}

export interface TilePixels {
  readonly width: number;
  readonly height: number;
  readonly pixels: Uint8ClampedArray<ArrayBuffer>;
}

/** What stands under the pointer. Elevations in world metres. */
export interface Readout {
  readonly source: number | null;
  readonly result: number | null;
  /**
   * The nearest sample of what enters the fit, with its true elevation: its column and row on the metric ground, before
   * turns; null beyond it and in voids.
   */
  readonly sample: {
    readonly column: number;
    readonly row: number;
    readonly stored: number;
    readonly elevation: number;
  } | null;
}

/** The worker that answers the map. */
export interface ViewWorker {
  /** A source whose rows are still being read: it can be drawn as far as it is there, and as its overview shows it. */
  arrive(id: string, facts: SourceFacts, arriving: Arriving, overview: Overview | null): void;
  /** What enters the fit, after the steps of a recipe; the one before it is let go. */
  holdStage(id: string, stage: HeldStage): void;
  /** A source that has been read whole. */
  hold(id: string, facts: SourceFacts, samples: StoredSamples): void;
  tile(request: TileRequest): TilePixels | null;
  profile(id: string, recipe: Recipe, work: Work, a: MapPoint, b: MapPoint, count: number): Profile | null;
  readout(id: string, recipe: Recipe, work: Work, at: MapPoint): Readout | null;
  /** A small picture, from the lowest (0) to the highest (1); null where nothing is held. */
  thumbnail(id: string, side: number): SmallPicture | null;
  /** A coarse picture of a source that was read whole, small enough to be kept; null where the source itself is. */
  overview(id: string): Overview | null;
  close(id: string): void;
}
