import { checkpoint, LevelGridError, type ByteSource, type JobContext } from '../base';
import { codeRows, type StoredRow } from './code-rows';
import { RowComparison } from './compare-row';
import type { TargetDecoder } from './decoders';
import type { ErrorMap } from './error-meter';
import { SparseTile } from './orientation';
import type { Pipeline } from './pipeline';
import { roomFor, type ExpectedHeights, type Page, type PageFile, type Place } from './twin';
import { TellingPlaces, type FoundCode } from './telling-places';
import type { Findings } from './types';

export interface Comparison {
  readonly page: Page;
  readonly sources: readonly ByteSource[];
  readonly decoder: TargetDecoder;
  /** How the files are read, which a wrongly typed order changes. */
  readonly reading: { readonly byteOrder: 'little' | 'big' | null; readonly rows: 'north' | 'south' | null };
  readonly heights: ExpectedHeights;
  readonly pipeline: Pipeline | null;
  readonly map: ErrorMap | null;
  /** Vertices whose codes are kept. */
  readonly places: readonly Place[];
  /** Keeps where the lowest and highest codes stand, too. */
  readonly extremes: boolean;
  /** Seed of the places that each row and column gets besides; null where none are wanted. */
  readonly telling: number | null;
  /** The code that voids are written as; null where they have none. */
  readonly voidCode: number | null;
  /** Keeps the codes of all vertices. */
  readonly all: boolean;
}

/** What was found at single vertices and in single files. */
export interface Seen {
  /** By place, in order: the code in each file that holds it. */
  readonly codes: readonly FoundCode[][];
  /** Some of the places with the lowest and the highest code. */
  readonly extremes: readonly Place[];
  /** One place in each row and column where neighbours differ. */
  readonly telling: readonly { readonly place: Place; readonly code: FoundCode }[];
  /** The codes of all vertices, row by row, where they were asked for; on shared edges those of the later file. */
  readonly all: StoredRow | null;
  readonly sparse: readonly SparseTile[];
  /** Files with samples other than the pipeline's, and the first of those. */
  readonly differing: readonly {
    readonly index: number;
    readonly count: number;
    readonly x: number;
    readonly y: number;
    readonly found: number;
    readonly expected: number;
  }[];
}

/** Reads all files side by side, row by row of the whole, and compares them with the pipeline's ground and each other. */
export async function compareFiles(comparison: Comparison, findings: Findings, job: JobContext): Promise<Seen> {
  const { page, sources, decoder, reading, heights, pipeline, places } = comparison;
  const { files } = page;
  const stored = { type: heights.as === 'codes' ? 'uint' : 'float' } as const;
  const read = files.map((f): PageFile => ({
    ...f,
    byteOrder: f.format === 'raw' ? (reading.byteOrder ?? f.byteOrder) : null,
    rows: f.format === 'raw' ? (reading.rows ?? f.rows) : f.rows,
  }));
  const readers = read.map((file, i) => codeRows(sources[i] as ByteSource, file));
  const sparse = files.map((f) => new SparseTile(f.window, inCodes(heights)));
  const differing = new Map<number, { count: number; x: number; y: number; found: number; expected: number }>();
  const rows = pipeline
    ? new RowComparison(decoder, heights, pipeline.datum, page.fit.width, comparison.map, findings)
    : null;
  const codes = places.map((): FoundCode[] => []);
  const placesByRow = new Map<number, number[]>();
  places.forEach(({ y }, i) => {
    const list = placesByRow.get(y);
    if (list) list.push(i);
    else placesByRow.set(y, [i]);
  });
  const lowest = new Extremes(-1);
  const highest = new Extremes(1);
  const telling =
    comparison.telling === null ? null : new TellingPlaces(page.fit, stored, comparison.telling, comparison.voidCode);
  const all = comparison.all ? roomFor(stored, page.fit.width * page.fit.height) : null;
  const shared = page.tiles.edges === 'shared' && files.length > 1;
  const pulled = new Array<StoredRow | null>(files.length).fill(null);
  // the files that cross a row: those of one row of tiles, or of two where they share it
  const starting = new Map<number, number[]>();
  files.forEach(({ window: w }, i) => starting.set(w.y, [...(starting.get(w.y) ?? []), i]));
  let open: number[] = [];

  /** One row of the whole: every tile that crosses it delivers its row. */
  const row = async (y: number, ground: Float32Array | null, expected: StoredRow | null): Promise<void> => {
    open = open.filter((i) => y < files[i]!.window.y + files[i]!.window.height);
    open.push(...(starting.get(y) ?? []));
    for (const i of open) {
      const { window: w, name } = files[i]!;
      const { value, done } = await readers[i]!.next();
      if (done) throw missingRows(name, y - w.y, w.height);
      pulled[i] = value;
      if (ground && expected) {
        rows?.compare(y, w.x, value, ground);
        const other = firstDifference(value, expected, w.x);
        if (other >= 0) {
          const count = countDifferences(value, expected, w.x, other);
          const before = differing.get(i);
          if (before) before.count += count;
          else
            differing.set(i, { count, x: other, y: y - w.y, found: value[other]!, expected: expected[w.x + other]! });
        }
        sparse[i]!.take(y - w.y, expected, w.x, value);
      }
      for (const at of placesByRow.get(y) ?? []) {
        const x = places[at]!.x - w.x;
        if (x >= 0 && x < w.width) codes[at]!.push({ file: name, code: value[x]! });
      }
      telling?.take(name, value, w.x, y);
      all?.set(value, y * page.fit.width + w.x);
      if (comparison.extremes) {
        lowest.take(value, w.x, y);
        highest.take(value, w.x, y);
      }
    }
    if (shared && open.length > 1) compareSeams(open, files, pulled, findings);
  };

  if (pipeline) {
    const { width } = pipeline;
    for await (const band of pipeline.bands(job))
      for (let r = 0; r < band.rows; r++)
        await row(
          band.y + r,
          band.ground.subarray(r * width, (r + 1) * width),
          band.codes.subarray(r * width, (r + 1) * width),
        );
    rows?.finish();
  } else {
    for (let y = 0; y < page.fit.height; y++) {
      if (y % 64 === 0) {
        checkpoint(job);
        job.report?.(y, page.fit.height);
      }
      await row(y, null, null);
    }
  }
  // whatever stands behind the last row (a damaged end) is an error of the file
  for (const reader of readers) await reader.next();
  return {
    codes,
    extremes: [...lowest.places, ...highest.places],
    telling: telling?.result() ?? [],
    all,
    sparse,
    differing: [...differing].map(([index, d]) => ({ index, ...d })),
  };
}

/** Codes of 16 bits over the range that 1 stored makes: places are compared in those. */
const inCodes = ({ as, low, high }: ExpectedHeights): number =>
  as === 'codes' ? 1 : as === 'shares' ? 65535 : 65535 / (high - low);

function firstDifference(found: StoredRow, expected: StoredRow, from: number): number {
  const n = found.length;
  for (let x = 0; x < n; x++) if (found[x] !== expected[from + x]) return x;
  return -1;
}

function countDifferences(found: StoredRow, expected: StoredRow, from: number, first: number): number {
  let count = 0;
  for (let x = first; x < found.length; x++) if (found[x] !== expected[from + x]) count++;
  return count;
}

function compareSeams(
  crossing: readonly number[],
  files: readonly PageFile[],
  pulled: readonly (StoredRow | null)[],
  findings: Findings,
): void {
  for (const a of crossing)
    for (const b of crossing) {
      const left = files[a]!.window;
      const right = files[b]!.window;
      if (a === b || left.x > right.x || (left.x === right.x && left.y >= right.y)) continue;
      const from = Math.max(left.x, right.x);
      const to = Math.min(left.x + left.width, right.x + right.width);
      for (let x = from; x < to; x++) {
        findings.seamsCompared++;
        if (pulled[a]![x - left.x] !== pulled[b]![x - right.x]) findings.seamsDifferent++;
      }
    }
}

/** Where the lowest (−1) or highest (1) code stands; of many places the first few and some later ones. */
class Extremes {
  private best: number;
  private found: Place[] = [];
  private static readonly MOST = 24;

  constructor(private readonly sign: -1 | 1) {
    this.best = sign < 0 ? Infinity : -Infinity;
  }

  take(codes: StoredRow, from: number, y: number): void {
    const { sign } = this;
    let { best } = this;
    for (let x = 0; x < codes.length; x++) {
      const code = codes[x]!;
      if (sign > 0 ? code < best : code > best) continue;
      if (code !== best) {
        best = code;
        this.found = [];
      }
      if (this.found.length < Extremes.MOST) this.found.push({ x: from + x, y });
    }
    this.best = best;
  }

  get places(): readonly Place[] {
    return this.found;
  }
}

const missingRows = (file: string, found: number, expected: number): LevelGridError =>
  new LevelGridError('pack-file', {
    file,
    found: `${found} rows`,
    expected: `${expected} rows`,
    remedy: 'Make the pack again.',
  });
