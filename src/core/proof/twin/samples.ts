import type { JobContext } from '../../base';
import type { Recipe } from '../../recipe';
import type { Piece, PlacedBand, Rastered, SampleSource, TwinStage } from './operations/operation';

/** What is to be added to a sample of a file, by its own column and row. */
export type Added = (piece: Piece, column: number, row: number) => number;

/** A source as it was opened: one raster, or the files that it is made of. */
export interface Opened extends Rastered {
  readonly parts?: readonly { readonly name: string; readonly raster: Rastered }[];
  /** Where these lie, as they were opened: that this is what the recipe says, where it says it, is a check of its own. */
  readonly placed?: readonly {
    readonly name: string;
    readonly at: readonly [column: number, row: number];
    readonly factor?: number | undefined;
    readonly shift?: number | undefined;
  }[];
}

/**
 * The source as it lies, from its files themselves: where each lies is what the recipe says, or what was found, and the
 * first one counts where they overlap. Throws where a file is missing.
 */
export function sourceStage(opened: Opened, { source: { files } }: Recipe): TwinStage {
  const { parts, placed } = opened;
  const lying = files ?? placed;
  const { width, height, georeference = null } = opened.info;
  const pieces =
    lying && parts
      ? lying.map(({ name, at: [x, y], factor = 1, shift = 0 }): Piece => {
          const part = parts.find((p) => p.name === name)?.raster;
          if (!part) throw new Error(`the source has no file ${name}`);
          return pieceOf(part, x, y, factor, shift);
        })
      : [pieceOf(opened, 0, 0, 1, 0)];
  return { width, height, georeference, pieces, samples: assembled(pieces, null) };
}

function pieceOf(raster: Rastered, x: number, y: number, factor: number, shift: number): Piece {
  const { width, height, bitDepth, sampleType } = raster.info;
  const wide = sampleType === 'float' ? bitDepth > 32 : bitDepth > 24;
  return { read: raster, x, y, width, height, factor, shift, wide };
}

/** Files put together; `added`: what each of their samples gets on top. */
export const assembled = (pieces: readonly Piece[], added: Added | null): SampleSource => ({
  files: pieces.length,
  outlines: pieces.map(({ x, y, width, height }) => ({ x, y, width, height })),
  bands: (job) => allOf(pieces, added, job),
});

async function* allOf(pieces: readonly Piece[], added: Added | null, job: JobContext): AsyncGenerator<PlacedBand> {
  const overlaps = pieces.flatMap((late, k) => pieces.slice(0, k).flatMap((early) => overlapOf(early, late)));
  for (const piece of pieces) {
    const { x, width, factor, shift } = piece;
    const over = overlaps.filter((o) => o.late === piece);
    const under = overlaps.filter((o) => o.early === piece);
    for await (const { y: row, rows, data } of piece.read.bands(job)) {
      const y = piece.y + row;
      let own: PlacedBand['data'] = data;
      // a part that is fitted to others comes as floats of 32 bits
      if (added)
        own = Float64Array.from(data, (v, i) =>
          Math.fround(factor * v + shift + added(piece, i % width, row + Math.floor(i / width))),
        );
      else if (factor !== 1 || shift !== 0) own = Float64Array.from(data, (v) => Math.fround(factor * v + shift));
      const band = { y, x, rows, width, data: own };
      for (const overlap of under) overlap.note(band);
      yield over.length > 0 ? { ...band, data: over.reduce((d, o) => o.hide({ ...band, data: d }), own) } : band;
    }
  }
}

/** Where two files lie over one another. */
interface Overlap {
  readonly early: Piece;
  readonly late: Piece;
  /** Remembers where the first of them holds a height. */
  note(band: PlacedBand): void;
  /** Samples of the other, without those. */
  hide(band: PlacedBand): PlacedBand['data'];
}

function overlapOf(early: Piece, late: Piece): Overlap[] {
  const x0 = Math.max(early.x, late.x);
  const y0 = Math.max(early.y, late.y);
  const across = Math.min(early.x + early.width, late.x + late.width) - x0;
  const down = Math.min(early.y + early.height, late.y + late.height) - y0;
  if (across <= 0 || down <= 0) return [];
  const taken = new Uint8Array(across * down);
  const each = ({ y, x, rows, width }: PlacedBand, act: (sample: number, place: number) => void): void => {
    for (let r = Math.max(0, y0 - y); r < Math.min(rows, y0 + down - y); r++)
      for (let i = 0; i < across; i++) act(r * width + x0 + i - x, (y + r - y0) * across + i);
  };
  return [
    {
      early,
      late,
      note(band) {
        each(band, (sample, place) => {
          if (Number.isFinite(band.data[sample])) taken[place] = 1;
        });
      },
      hide(band) {
        const { y, rows, data } = band;
        if (y + rows <= y0 || y >= y0 + down) return data;
        const own = Float64Array.from(data);
        each(band, (sample, place) => {
          if (taken[place] === 1) own[sample] = NaN;
        });
        return own;
      },
    },
  ];
}
