import type { ByteSource, StartHasher } from '../base';
import type { ErrorFigures, ErrorMeter, LineFit, WorstError } from './error-meter';
import type { Reference } from './pipeline/reference';

/** States of what was compared. */
export type ProofState = 'holds' | 'note' | 'caution' | 'fault';

export interface ProofInput {
  /** A file of the pack by its name; null where it is missing. */
  readonly file: (name: string) => ByteSource | null | Promise<ByteSource | null>;
  /** The source, for the truth; without it the pack is held against itself. */
  readonly reference?: ByteSource | Reference['counted'];
  /** Values typed otherwise than the card says, by the id of their row. */
  readonly typed?: Readonly<Record<string, string | number>>;
  readonly ignoreChecksums?: boolean;
  readonly hasher?: StartHasher;
  /** Collects the difference view. */
  readonly maps?: boolean;
  /** All files seen in the folder of the pack. */
  readonly others?: readonly string[];
}

export interface ProofCheck {
  readonly id: string;
  /** The part of the recipe that it is about, by its key: `source`, `steps.0`, `fit`, `height`, `split`, `output`. */
  readonly step: string;
  readonly state: ProofState;
  readonly message: string;
}

export interface SpotProof {
  readonly id: string;
  readonly label: string;
  readonly file: string;
  readonly expectedCode: number | null;
  readonly foundCode: number | null;
  /** World heights in metres; a clipped spot is expected to show the end of the range. */
  readonly expected: number | null;
  readonly shown: number | null;
  /** What the target reads out there, in its own unit. */
  readonly shownInUnit: number | null;
}

export interface Proof {
  readonly holds: boolean;
  /** What it was held against: the source, or only the pack's own page. */
  readonly compared: 'source' | 'page';
  /** Vertices per side of a tile where the pack is a draft: it proves nothing of the full pack. */
  readonly draft: number | null;
  /** Metres from code to code. */
  readonly step: number;
  /** What the target shows against the fitted ground, clipped samples left out; without a source against the spots. */
  readonly encodingError: ErrorFigures & {
    readonly budget: { readonly halfStep: number; readonly typing: number; readonly arithmetic: number };
    readonly samples: number;
    readonly against: 'fitted ground' | 'check spots';
  };
  /** The fitted ground against the source; null without a reference. */
  readonly groundError: ErrorFigures | null;
  readonly clipped: { readonly low: number; readonly high: number } | null;
  /** Vertices whose ground was worked out a second time from the source, and those that hold another code. */
  readonly places: {
    readonly compared: number;
    readonly different: number;
    /** Rows and columns that hold none of them. */
    readonly left: { readonly rows: number; readonly columns: number };
  } | null;
  /** Samples of all files that are not what the pipeline gives. */
  readonly differentSamples: number | null;
  readonly checks: readonly ProofCheck[];
  /** What was not worked out a second time, and what guards it. */
  readonly trusted: readonly { readonly what: string; readonly guard: string }[];
  /** Card rows whose typed value is wrong. */
  readonly wrongValues: readonly string[];
  readonly spots: readonly SpotProof[];
  /** What the target measures in. */
  readonly unit: string;
  readonly seams: { readonly compared: number; readonly different: number };
  readonly rim: { readonly west: number; readonly east: number; readonly north: number; readonly south: number } | null;
}

/** What the difference view draws: the largest error of each cell in metres, above the truth (+) or below it (−). */
export interface ProofMaps {
  readonly columns: number;
  readonly rows: number;
  readonly encoding: Float32Array;
  readonly ground: Float32Array;
  /** Where each of them is largest. */
  readonly worst: { readonly encoding: WorstError; readonly ground: WorstError };
}

/** The largest error, in metres with its sign, of the cell in which a place lies; `x`, `y`: 0..1 across and down the whole. */
export function errorAt(maps: ProofMaps, kind: 'encoding' | 'ground', x: number, y: number): number | null {
  const { columns, rows } = maps;
  if (!(x >= 0 && x <= 1 && y >= 0 && y <= 1)) return null;
  const cell = (at: number, count: number): number => Math.min(count - 1, Math.floor(at * count));
  return maps[kind][cell(y, rows) * columns + cell(x, columns)] ?? null;
}

/** What is found while the files are read. */
export interface Findings {
  readonly checks: ProofCheck[];
  readonly meter: ErrorMeter;
  readonly line: LineFit;
  seamsCompared: number;
  seamsDifferent: number;
}
