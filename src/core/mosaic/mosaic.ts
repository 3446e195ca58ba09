import { checkpoint, LevelGridError, type JobContext } from '../base';
import {
  bandRows,
  type OpenRaster,
  type RasterInfo,
  type RasterWarning,
  type StoredBand,
  type StoredSamples,
} from '../raster';
import { overlapOf } from './arrange';
import { corrected, corrections, type Correction } from './blend';
import { uncovered, type Covered } from './cover';
import { EdgeRecorder } from './edges';
import { doubtsAbout } from './doubts';
import type { Part, PlacedPart } from './types';

/** The rows of one part, one after the other from the north. */
class Rows {
  private readonly bands: AsyncGenerator<StoredBand>;
  private band: StoredBand | null = null;
  private next = 0;

  constructor(
    private readonly raster: OpenRaster,
    private readonly edges: EdgeRecorder,
    job?: JobContext,
  ) {
    this.bands = raster.bands(job?.signal ? { signal: job.signal } : undefined);
  }

  /** The next row; valid until the one after it is asked for. */
  async row(): Promise<StoredSamples> {
    const { width } = this.raster.info;
    while (!this.band || this.next >= this.band.y + this.band.rows) {
      const step = await this.bands.next();
      if (step.done)
        throw new LevelGridError('truncated', {
          found: `${this.next} rows`,
          expected: `${this.raster.info.height}`,
          remedy: 'The file changed while it was read: bring it in again.',
        });
      this.band = step.value;
      this.edges.add(step.value);
    }
    const at = (this.next++ - this.band.y) * width;
    return this.band.data.subarray(at, at + width);
  }

  async end(): Promise<void> {
    await this.bands.return(undefined);
  }
}

interface Member {
  readonly part: PlacedPart;
  readonly raster: OpenRaster;
  readonly edges: EdgeRecorder;
}

/**
 * Several rasters as one, streamed: at each place the first part of the list that holds a height there; what none
 * covers is void. Samples keep their type, unless parts are scaled or voids come in. Their seams are looked at as they
 * pass by: what is doubtful is in `lateWarnings` afterwards. `blend`: steps at seams are spread over so many samples on
 * either side, for which every part is read once more.
 */
export function mosaic(parts: readonly Part[], placed: readonly PlacedPart[], blend?: number): OpenRaster {
  const rasters = placed.map((part): OpenRaster => {
    const found = parts.find((p) => p.name === part.name);
    if (found) return found.raster;
    throw new LevelGridError('not-found', {
      file: part.name,
      found: `${parts.length} files without ${part.name}`,
      expected: `all ${placed.length} files of the source`,
      remedy: 'Name every file that the recipe lists.',
    });
  });
  const deep = overlapOf(
    placed,
    rasters.map((r) => r.info),
  );
  const members = placed.map((part, i): Member => {
    const raster = rasters[i]!;
    return { part, raster, edges: new EdgeRecorder(raster.info.width, raster.info.height, deep) };
  });
  const info = infoOf(members, blend !== undefined);
  const late: RasterWarning[] = [];
  return {
    info,
    lateWarnings: late,
    async *bands(job) {
      const by = blend === undefined ? null : await corrections(rasters, placed, blend, job);
      yield* bandsOf(info, members, by && blend !== undefined ? { by, reach: blend } : null, job);
      const edges = members.map((m) => m.edges.edges());
      if (!edges.every((e) => e !== null)) return;
      const own = rasters.flatMap((r) => r.lateWarnings);
      late.splice(0, late.length, ...distinctly([...own, ...doubtsAbout(placed, edges)]));
    },
  };
}

const rectangleOf = ({ part: { at }, raster: { info } }: Member): Covered => ({
  x: at[0],
  y: at[1],
  width: info.width,
  height: info.height,
});

function infoOf(members: readonly Member[], blended: boolean): RasterInfo {
  const width = Math.max(...members.map((m) => m.part.at[0] + m.raster.info.width));
  const height = Math.max(...members.map((m) => m.part.at[1] + m.raster.info.height));
  const first = members[0]!.raster.info;
  const scaled = blended || members.some((m) => (m.part.factor ?? 1) !== 1 || (m.part.shift ?? 0) !== 0);
  const { noData: _, scaled: said, ...rest } = first;
  const alike = members.every((m) => sameScale(m.raster.info.scaled, said));
  // the north-western sample of the whole lies where that of a part would, so many steps away
  const { georeference: g } = first;
  const [x, y] = members[0]!.part.at;
  return {
    ...rest,
    ...(said && alike ? { scaled: said } : {}),
    width,
    height,
    ...(scaled
      ? {
          sampleType: 'float' as const,
          bitDepth: 32,
          byteOrder: null,
          own: first.own ?? { bitDepth: first.bitDepth, sampleType: first.sampleType },
        }
      : {}),
    ...(g ? { georeference: { ...g, x: g.x - x * g.dx, y: g.y + y * g.dy } } : {}),
    ...(members.some((m) => m.raster.info.mayHoldVoids) || uncovered(members.map(rectangleOf), width, height) > 0
      ? { mayHoldVoids: true as const }
      : {}),
    warnings: distinctly([...members.flatMap((m) => m.raster.info.warnings), ...(alike ? [] : [OTHER_SCALES])]),
  };
}

const sameScale = (a: RasterInfo['scaled'], b: RasterInfo['scaled']): boolean =>
  a?.factor === b?.factor && a?.base === b?.base;

const OTHER_SCALES: RasterWarning = {
  code: 'structure',
  message:
    'The files say different factors and offsets for their stored values, and none of them is taken: the same value means different elevations in them. Export them with the same ones.',
};

/** Each sentence once, whoever says it. */
const distinctly = (all: readonly RasterWarning[]): RasterWarning[] => [
  ...new Map(all.map((w) => [w.message, w])).values(),
];

interface Blending {
  /** In the order of the members. */
  readonly by: readonly Correction[];
  readonly reach: number;
}

async function* bandsOf(
  info: RasterInfo,
  members: readonly Member[],
  blending: Blending | null,
  job?: JobContext,
): AsyncGenerator<StoredBand> {
  const { width, height } = info;
  const perBand = bandRows(width);
  const open = new Map<Member, Rows>();
  // the first of the list is written last, over all others
  const backwards = [...members].reverse();
  try {
    for (let y0 = 0; y0 < height; y0 += perBand) {
      const rows = Math.min(perBand, height - y0);
      const data = roomFor(info, rows * width);
      for (const member of backwards) {
        const { at, factor = 1, shift = 0 } = member.part;
        const from = Math.max(y0, at[1]);
        const end = Math.min(y0 + rows, at[1] + member.raster.info.height);
        if (from >= end) continue;
        checkpoint(job);
        const reader = open.get(member) ?? new Rows(member.raster, member.edges, job);
        open.set(member, reader);
        for (let y = from; y < end; y++) {
          const row = await reader.row();
          const to = (y - y0) * width + at[0];
          if (!blending) {
            lay(data, to, row, factor, shift, info.sampleType === 'float' || (info.mayHoldVoids ?? false));
            continue;
          }
          const blended = Float64Array.from(row as Float64Array, (v) => factor * v + shift);
          const { height: rows } = member.raster.info;
          corrected(blended, y - at[1], rows, blending.by[members.indexOf(member)]!, blending.reach);
          lay(data, to, blended, 1, 0, true);
        }
        if (end === at[1] + member.raster.info.height) {
          await reader.end();
          open.delete(member);
        }
      }
      yield { y: y0, rows, data };
    }
  } finally {
    for (const reader of open.values()) await reader.end();
  }
}

/** An array of the type that samples of the whole have; voids where there may be any. */
function roomFor({ sampleType, bitDepth, mayHoldVoids }: RasterInfo, length: number): StoredSamples {
  if (sampleType === 'float' || mayHoldVoids) {
    const wide = sampleType === 'float' ? bitDepth > 32 : bitDepth > 16;
    return (wide ? new Float64Array(length) : new Float32Array(length)).fill(NaN);
  }
  const signed = sampleType === 'int';
  if (bitDepth <= 8) return signed ? new Int8Array(length) : new Uint8Array(length);
  if (bitDepth <= 16) return signed ? new Int16Array(length) : new Uint16Array(length);
  return signed ? new Int32Array(length) : new Uint32Array(length);
}

/** A row over what is there, but for its voids. */
function lay(into: StoredSamples, at: number, row: StoredSamples, factor: number, shift: number, voids: boolean): void {
  if (factor === 1 && shift === 0 && !voids) {
    (into as Float64Array).set(row, at);
    return;
  }
  for (let i = 0; i < row.length; i++) {
    const value = Number(row[i]);
    if (value - value === 0) into[at + i] = factor * value + shift;
  }
}
