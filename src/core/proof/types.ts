import type { ByteSource, StartHasher } from '../base';
import type { CheckState, PlanDocument } from '../plan';
import type { Recipe } from '../recipe';
import type { CountedSource } from '../run';
import type { TypedValues } from './decoders';
import type { ErrorFigures, ErrorMeter, LineFit } from './error-meter';

export interface ProofInput {
  /** The document as it stands in the pack. */
  readonly document: PlanDocument;
  readonly recipe: Recipe;
  /** The written file of that name; null where it is missing. */
  readonly file: (name: string) => ByteSource | null | Promise<ByteSource | null>;
  /** The source, for the truth; without it the check spots of the pack are the truth. */
  readonly reference?: ByteSource | CountedSource;
  /** Values typed otherwise than the card says. */
  readonly typed?: TypedValues;
  readonly ignoreChecksums?: boolean;
  readonly hasher?: StartHasher;
  /** Collects the difference view. */
  readonly maps?: boolean;
  /** Extra files seen beside those of the document. */
  readonly others?: readonly string[];
}

export interface ProofCheck {
  readonly id: string;
  readonly state: CheckState;
  readonly message: string;
}

export interface SpotProof {
  readonly id: string;
  readonly label: string;
  readonly file: string;
  readonly expectedCode: number | null;
  readonly foundCode: number | null;
  /** World heights in metres. */
  readonly expected: number | null;
  readonly shown: number | null;
}

export interface Proof {
  readonly holds: boolean;
  /** Metres from code to code. */
  readonly step: number;
  /** What the target shows against the fitted ground, clipped samples left out; null without a reference. */
  readonly encodingError: ErrorFigures & {
    readonly budget: { readonly halfStep: number; readonly typing: number; readonly arithmetic: number };
    readonly samples: number;
    readonly against: 'fitted ground' | 'check spots';
  };
  /** The fitted ground against the source; null without a reference. */
  readonly groundError: ErrorFigures | null;
  readonly clipped: { readonly low: number; readonly high: number } | null;
  readonly checks: readonly ProofCheck[];
  /** Card rows whose typed value is wrong. */
  readonly wrongValues: readonly string[];
  readonly spots: readonly SpotProof[];
  readonly seams: { readonly compared: number; readonly different: number };
  readonly rim: { readonly west: number; readonly east: number; readonly north: number; readonly south: number } | null;
}

/** What the difference view draws: the largest error of each cell, in metres. */
export interface ProofMaps {
  readonly columns: number;
  readonly rows: number;
  readonly encoding: Float32Array;
  readonly ground: Float32Array;
}

/** What is found while the files are read. */
export interface Findings {
  readonly checks: ProofCheck[];
  readonly meter: ErrorMeter;
  readonly line: LineFit;
  clippedLow: number;
  clippedHigh: number;
  seamsCompared: number;
  seamsDifferent: number;
}
