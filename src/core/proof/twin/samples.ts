import type { JobContext } from '../../base';
import type { OpenedFile } from '../../formats';
import type { Recipe } from '../../recipe';
import { blendOf, type Added, type Blended } from './blend';
import { straightReading } from './curve';

type Bands = Pick<OpenedFile, 'bands'>;
type Band = OpenedFile extends { bands(): AsyncGenerator<infer B> } ? B : never;

/** Rows of one file, where they lie in the whole; no number where another file has said what lies there. */
export interface PlacedBand {
  /** First row and column in the whole, and samples across. */
  readonly y: number;
  readonly x: number;
  readonly rows: number;
  readonly width: number;
  readonly data: Band['data'];
}

/** All samples of a source, in any order, each once. */
export interface SampleSource {
  readonly files: number;
  bands(job: JobContext): AsyncGenerator<PlacedBand>;
}

interface Rastered extends Bands {
  readonly info: OpenedFile['info'];
}
interface Opened extends Rastered {
  readonly stored?: Opened;
  readonly parts?: readonly { readonly name: string; readonly raster: Rastered }[];
}

/** One file of several. */
interface Piece extends Blended {
  readonly read: Bands;
}

/**
 * The samples of a source, taken from its files a second time: where each lies is what the recipe says, the first one
 * counts where they overlap, and a display curve is undone by its definition.
 */
export function samplesOf(opened: Opened, recipe: Recipe): SampleSource {
  const { files, blend, curve, squares } = recipe.source;
  const { parts } = opened.stored ?? opened;
  // squares are compared with their degrees by themselves
  if (!files || !parts || squares) {
    const { width } = opened.info;
    return {
      files: 1,
      async *bands(job) {
        for await (const band of straightReading(opened, curve).bands(job)) yield { ...band, x: 0, width };
      },
    };
  }
  const pieces = files.map(({ name, at: [x, y], factor = 1, shift = 0 }): Piece => {
    const part = parts.find((p) => p.name === name)?.raster;
    if (!part) throw new Error(`the source has no file ${name}`);
    const read = straightReading(curve === undefined ? part : { ...part, stored: part }, curve);
    const { width, height } = part.info;
    return { read, x, y, width, height, factor, shift };
  });
  return {
    files: pieces.length,
    async *bands(job) {
      yield* allOf(pieces, blend === undefined ? null : await blendOf(pieces, blend, job), job);
    },
  };
}

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
