import type { Affine } from '../base';
import type { Part, PlacedPart } from '../mosaic';
import type { OpenRaster, RasterInfo } from '../raster';
import type { Squares } from '../squares';
import type { Orientation } from './orientation';

/** What samples of a type can hold at most and at least is what the elevations of the ends of codes speak of. */
export type StoredType = Pick<RasterInfo, 'bitDepth' | 'sampleType'>;

/**
 * The raster after a step, as a plan knows it. Its samples are those of `info`, laid as `orientation` says; both are kept
 * apart since what is done to single samples does not mind how they lie.
 */
export interface Stage {
  /** Size, type, place on the ground: of the metric ground, before quarter turns and mirrors. */
  readonly info: RasterInfo;
  readonly orientation: Orientation;
  /** Of what type the ends are that the heights of the source are said by: the file's own, or shares from 0 to 1. */
  readonly ends: StoredType;
  /** Metres from sample to sample. */
  readonly spacing: number;
  /** Samples are still what the files hold, each by itself: they can be chosen by value, and seams can be blended. */
  readonly asStored: boolean;
  /** Made metric, after which nothing but turns and mirrors can come. */
  readonly metric: boolean;
  /** Heights have been worked with as they are: a display curve can't be undone any more. */
  readonly mended?: true;
  /** Made metric, turned or moved no sooner than it is fitted; until then the ground is as fine as its samples are. */
  readonly deferred?: Deferred;
  /** Equal for two stages of a source whose samples are equal, but for how they lie. */
  readonly samples: string;
}

/** Ground that comes to lie elsewhere while it is fitted, so that it is sampled once. */
export interface Deferred {
  /** What it is made of. */
  readonly from: RasterInfo;
  /** The metric ground that is made of it, as fine as its samples are; null where it stays as it lies. */
  readonly squares: Squares | null;
  /** From samples of the stage to those of that metric ground, or of the raster itself. */
  readonly affine: Affine;
  /** Places of the stage may lie beside the raster. */
  readonly gaps: boolean;
  /** Results stay within the lowest and highest sample. */
  readonly hold: boolean;
}

/** The raster after a step, to be read. */
export interface StageRaster {
  /** Before `orientation`. */
  readonly base: OpenRaster;
  readonly orientation: Orientation;
  /** The files that make the source, while each sample is still what its file holds. */
  readonly files: { readonly parts: readonly Part[]; readonly placed: readonly PlacedPart[] } | null;
  /** What the fit reads, where the ground comes to lie elsewhere no sooner; `base` shows it meanwhile. */
  readonly fitted?: OpenRaster;
}

/** What a step may ask of the whole while it is planned. */
export interface PlanContext {
  /** The stored value of a true elevation in metres, display curve put back on where a later step undoes one. */
  readonly storedOf: (elevation: number) => number;
  /** The sample of a stage that stands for a true elevation in metres, and the metres of one unit of its samples. */
  readonly sampleOf: (stage: Stage, elevation: number) => number;
  readonly unitOf: (stage: Stage) => number;
  /** Files that make the source. */
  readonly files: number;
}

/** What a step changed, sample by sample: absolute change in the units that `unit` makes metres of. */
export class ChangeTally {
  samples = 0;
  /** Changed samples that held a height before and after. */
  measured = 0;
  largest = 0;
  sum = 0;
  private readonly waiting: (() => void)[] = [];

  add(change: number, times = 1): void {
    const size = Math.abs(change);
    if (size === 0 || times === 0) return;
    this.samples += times;
    if (size - size !== 0) return;
    this.measured += times;
    this.sum += size * times;
    if (size > this.largest) this.largest = size;
  }

  /** What is counted by itself first and added when all has passed by. */
  later(add: () => void): void {
    this.waiting.push(add);
  }

  /** When all has passed by. */
  settle(): void {
    for (const add of this.waiting.splice(0)) add();
  }
}

/** The places of operations, from samples as files hold them to ground that only has to be laid. */
export const ORDER = { byValue: 0, seams: 1, samples: 2, heights: 3, metric: 4, moving: 5, laying: 6 } as const;
export type Order = (typeof ORDER)[keyof typeof ORDER];

/** Less than this share of the range of codes is no change, but rounding to 32 bits. */
export const NO_CHANGE = 2 ** -21;

/** Something that can be done to the ground before it is fitted: a folder with schema, plan and work. */
export interface Operation<P = unknown, R = unknown> {
  /** In a few words, as the chain and the list of steps say it. */
  words(params: P): string;
  /**
   * The stage after it, and its parameters as they reach the samples (stored units): these make the key of the stage.
   * Throws a typed error where it can't follow this stage.
   */
  plan(stage: Stage, params: P, context: PlanContext): { readonly stage: Omit<Stage, 'samples'>; readonly resolved: R };
  /** Does it; `stage` is the one before. `tally` is told of each sample that changes, in the course of one complete pass. */
  open(input: StageRaster, resolved: R, stage: Stage, tally?: ChangeTally): StageRaster;
  /** Where it stands among others, the lower before the higher: samples are chosen by value before anything mixes them. */
  readonly order: Order;
  /** There is one of these at most. */
  readonly once?: true;
  /** How it lays samples otherwise, where that is all it does. */
  lays?(params: P): Orientation;
  /** No sample changes. */
  readonly lossless?: true;
  /** What it changes can't be said sample by sample, since the samples lie elsewhere. */
  readonly elsewhere?: true;
  /** Its change is told by comparing the stages before and after it, not by itself. */
  readonly compared?: true;
}
