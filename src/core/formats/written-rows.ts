import { LevelGridError } from '../base';
import type { Codes } from '../raster';

/* What writers of packed files have in common: rows come in bands of any height, and go on in groups of a fixed one. */

/** Takes whole rows of stored heights from the first to the last. */
export interface HeightWriter {
  write(codes: Codes): Promise<void>;
  close(): Promise<void>;
}

/** Gathers rows into groups of so many; the last group is as high as it is. */
export class RowGroups {
  private group: Codes | null = null;
  private filled = 0;

  constructor(
    private readonly groupLength: number,
    /** Good until it returns, and may be worked on in place. */
    private readonly take: (group: Codes) => void,
  ) {}

  add(codes: Codes): void {
    this.group ??=
      codes instanceof Float32Array ? new Float32Array(this.groupLength) : new Uint16Array(this.groupLength);
    for (let at = 0; at < codes.length;) {
      const n = Math.min(this.groupLength - this.filled, codes.length - at);
      this.group.set(codes.subarray(at, at + n), this.filled);
      this.filled += n;
      at += n;
      if (this.filled === this.groupLength) this.end();
    }
  }

  /** Hands on what is there. */
  end(): void {
    if (this.group && this.filled > 0) this.take(this.group.subarray(0, this.filled));
    this.filled = 0;
  }
}

/** Packed pieces are held until the last one is known, up to this many bytes. */
const MOST_HELD = 1.5e9;

/** Pieces of a file whose places stand in front of them. */
export class HeldPieces {
  readonly pieces: Uint8Array[] = [];
  private bytes = 0;

  add(piece: Uint8Array): void {
    this.bytes += piece.length;
    if (this.bytes > MOST_HELD)
      throw new LevelGridError('too-large', {
        found: 'a packed file of more bytes than can be held until its last row is known',
        expected: `at most ${MOST_HELD} bytes, packed`,
        remedy: 'Split into tiles, or write it without packing.',
      });
    this.pieces.push(piece);
  }

  get lengths(): readonly number[] {
    return this.pieces.map((p) => p.length);
  }
}
