import type { CheckState } from '../plan';
import type { ErrorFigures } from './error-meter';

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
