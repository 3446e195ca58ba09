import type { ByteSource, InflatedWhole } from '../base';
import type { OpenRaster } from '../raster';
import type { ReadingKey } from './reading-options';

/** First bytes of a file that are shown to `sniff`; a shorter file shows all it has. */
export const HEAD_BYTES = 64;

/** What the first look at a file shows. */
export interface FirstLook {
  readonly head: Uint8Array;
  /** Ending of the name, lower case, without its dot; empty where there is none. */
  readonly ending: string;
  /** Bytes of the whole file. */
  readonly size: number;
}

/** A kind of height file that can be read. One module each; `registry.ts` lists them. */
export interface HeightFormat {
  readonly id: string;
  /** As people call it. */
  readonly name: string;
  /** Endings that such files go by, lower case, without a dot. */
  readonly endings: readonly string[];
  /** Endings of files beside it that say something about such a file and hold no heights. */
  readonly companions?: readonly string[];
  /** What of the reading of a recipe such files take, since they don't say it themselves. */
  readonly takes?: ReadingKey;
  /** Whether a file is of this format. */
  sniff(look: FirstLook): boolean;
  /** Reads the header, and refuses what can't be read; pixels stream from `bands`. */
  open(source: ByteSource): Promise<OpenRaster>;
  /**
   * Where two threads share the reading of such a file: the part of the other one, whose results go into `memory`, a
   * `ByteRing`. Resolves with what it found of the file as a whole, if that is its to find.
   */
  readonly share?: (source: ByteSource, memory: SharedArrayBuffer) => Promise<InflatedWhole | null>;
}

/** Whether the first bytes are these. */
export const begins = (head: Uint8Array, ...bytes: readonly number[]): boolean =>
  head.length >= bytes.length && bytes.every((b, i) => head[i] === b);
