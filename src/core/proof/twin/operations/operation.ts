import type { JobContext } from '../../../base';
import type { OpenedFile } from '../../../formats';
import type { Recipe, Step } from '../../../recipe';
import type { Outline } from '../places';

/** A raster that can be read. */
export interface Rastered extends Pick<OpenedFile, 'bands'> {
  readonly info: OpenedFile['info'];
}

type Band = OpenedFile extends { bands(): AsyncGenerator<infer B> } ? B : never;

/** Rows of samples, where they lie in the whole; no number where there is no height, or another file has said it. */
export interface PlacedBand {
  /** First row and column in the whole, and samples across. */
  readonly y: number;
  readonly x: number;
  readonly rows: number;
  readonly width: number;
  readonly data: Band['data'];
}

/** All samples of a stage, in any order, each once. */
export interface SampleSource {
  /** Where the files lie that the samples come from. */
  readonly outlines: readonly Outline[];
  /** Files that the samples come from: between them there may be nothing. */
  readonly files: number;
  bands(job: JobContext): AsyncGenerator<PlacedBand>;
}

/** One file of several, with what its samples become before they are put together. */
export interface Piece {
  readonly read: Pick<OpenedFile, 'bands'>;
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  readonly factor: number;
  readonly shift: number;
  /** Samples are kept as floats of 32 bits where they are no whole numbers any more. */
  readonly wide: boolean;
}

/** How a place of metric ground is found among the samples that it will be made of. */
export interface DeferredPlaces {
  /** Size of the raster of these samples. */
  readonly width: number;
  readonly height: number;
  /** Column and row there of a place in samples of the metric ground, as it lies by now. */
  readonly find: (x: number, y: number) => readonly [column: number, row: number];
  /** Heights stay within those of the samples, whatever the fit says. */
  readonly hold: boolean;
}

/** The ground after a step, as the twin works it out. */
export interface TwinStage {
  readonly width: number;
  readonly height: number;
  /** Where it lies on the ground, as far as a file says so: quarter turns and mirrors lose it. */
  readonly georeference: Rastered['info']['georeference'] | null;
  /** The files, while each sample is still what its file holds. */
  readonly pieces: readonly Piece[] | null;
  readonly samples: SampleSource;
  /** Where it becomes metric no sooner than it is fitted: `samples` are then those before. */
  readonly deferred?: DeferredPlaces;
  /** Where the ground was laid otherwise since its files were put together: these, and how it was laid. */
  readonly laid?: { readonly files: TwinStage; readonly again: (stage: TwinStage) => TwinStage };
}

/** A step that is done to the ground before it was laid otherwise, which is laid again in the same way. */
export function onGround(before: TwinStage, change: (ground: TwinStage) => TwinStage): TwinStage {
  if (!before.laid) return change(before);
  const { files, again } = before.laid;
  const changed = change(files);
  return { ...again(changed), laid: { files: changed, again } };
}

/**
 * A step that is done to each file by itself, as its samples are stored: also where the ground has been laid otherwise
 * meanwhile, which changes no sample.
 */
export const onFiles = (
  before: TwinStage,
  change: (files: TwinStage, pieces: readonly Piece[]) => TwinStage,
): TwinStage =>
  onGround(before, (files) => {
    if (!files.pieces) throw new Error('samples are chosen as they are stored after they were mixed');
    return change(files, files.pieces);
  });

/** What was changed, counted sample by sample, in metres. */
export interface TwinChange {
  samples: number;
  /** Of these, samples with a height before and after. */
  measured: number;
  largest: number;
  sum: number;
}

/** Counts what a step changes whenever its samples are read: what was counted in the last complete reading counts. */
export class ChangeCount {
  private last: TwinChange = { samples: 0, measured: 0, largest: 0, sum: 0 };

  /** For one reading: `note` each changed sample, and `end` when all have been seen. */
  begin(): { readonly note: (metres: number) => void; readonly end: () => void } {
    const change: TwinChange = { samples: 0, measured: 0, largest: 0, sum: 0 };
    return {
      note: (metres) => {
        const size = Math.abs(metres);
        if (size === 0) return;
        change.samples++;
        if (!Number.isFinite(size)) return;
        change.measured++;
        change.sum += size;
        change.largest = Math.max(change.largest, size);
      },
      end: () => {
        this.last = change;
      },
    };
  }

  get change(): TwinChange {
    return this.last;
  }
}

export interface TwinContext {
  readonly recipe: Recipe;
  /** Depth and type of the codes in the files. */
  readonly file: { readonly bitDepth: number; readonly sampleType: 'uint' | 'int' | 'float' };
  /** Metres from sample to sample. */
  readonly spacing: number;
  /** The stage that the pipeline made of this step, where the twin can only judge it. */
  readonly witness: Rastered;
  readonly count: ChangeCount;
  readonly job: JobContext;
}

/** What a twin has found about a step before its samples are read. */
export interface TwinStep {
  readonly stage: TwinStage;
  /** Of a stage that was judged and not worked out: what was found. */
  readonly judged?: { readonly holds: boolean; readonly message: string };
  /** What it changes is counted as the samples are read. */
  readonly counts?: boolean;
}

/** An operation a second time: slowly, in double precision, from its definition. */
export type TwinOperation<S extends Step = Step> = (
  before: TwinStage,
  step: S,
  context: TwinContext,
) => TwinStep | Promise<TwinStep>;
