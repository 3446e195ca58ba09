import type { RawGuess, RawLayout } from '../formats';
import type { Arrangement, PlacedPart } from '../mosaic';
import type { Stage } from '../operations';
import type { RasterInfo, RasterWarning, SourceStatistics } from '../raster';

/** What a step changed, sample by sample; null where that can't be said, since its samples lie elsewhere. */
export interface StepChange {
  /** Its place among the steps of the recipe. */
  readonly index: number;
  readonly samples: number | null;
  /** Absolute change over the changed samples that held a height before and after, in codes of the file (or its own units). */
  readonly largest: number | null;
  readonly mean: number | null;
}

/** What was counted of a stage. */
export interface StageFacts {
  readonly stats: SourceStatistics;
  readonly changes: readonly StepChange[];
}

/** What is known of the source, as it lies. */
export interface SourceFacts {
  /** Base name of the file. */
  readonly file: string;
  readonly info: RasterInfo;
  /** How several files were put together, where nobody had said it. */
  readonly arrangement?: Arrangement;
  /** Where several files lie in the whole, with their checksums. */
  readonly placed?: readonly PlacedPart[];
  /** All files that it was read from, where there are several; the first holds the heights. */
  readonly files?: readonly { readonly name: string; readonly size: number }[];
  readonly warnings: readonly RasterWarning[];
  /** Null while they are still being counted: the plan is then provisional. */
  readonly stats: SourceStatistics | null;
  /** Equal where the samples are, and what the file says of them; left out where nobody has asked. */
  readonly content?: string;
  /** What was counted of later stages, by their keys. */
  readonly stages?: Readonly<Record<string, StageFacts>>;
  /** How a headerless file was read; left out for files that say it themselves. */
  readonly raw?: RawLayout;
  /** How sure that is, where it was guessed. */
  readonly guess?: RawGuess;
}

/** The raster that enters the fit, after all steps. */
export interface Entering {
  /** What it is kept under: see `stageKey`. */
  readonly key: string;
  readonly info: RasterInfo;
  readonly stage: Stage;
  /** Metres from sample to sample, before world scale. */
  readonly spacing: number;
  /** Null until it has been counted. */
  readonly stats: SourceStatistics | null;
  readonly changes: readonly StepChange[] | null;
}
