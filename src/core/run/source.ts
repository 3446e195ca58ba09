import { checkpoint, partOf, portableSha256, type ByteSource, type JobContext } from '../base';
import {
  isCompanion,
  isMeshKind,
  openHeightFile,
  partsOf,
  readGeometry,
  type Geometry,
  type OpenedFile,
} from '../formats';
import {
  georeferenceWarnings,
  nameWarnings,
  readablePart,
  sourceStatistics,
  statisticsWarnings,
  storedBytes,
  straightened,
  type OpenRaster,
  type RasterInfo,
  type RasterWarning,
  type StoredBand,
} from '../raster';
import { noteBeside, noted } from '../notes';
import { arrange, mosaic, mosaicWarnings, type Arrangement, type Part } from '../mosaic';
import { proposedSquares, squared, withSystem } from '../squares';
import { recordBeside, recorded } from '../survey';
import type { SourceFacts } from '../plan';
import type { SourceReading } from '../recipe';

/** A source that is opened and counted: everything a plan needs of it. */
export interface CountedSource {
  readonly opened: ReadRaster;
  readonly facts: SourceFacts;
  /** See `ByteSource.unchanged`. */
  readonly unchanged?: () => Promise<void>;
}

/** A raster as it is read. */
export type ReadRaster = OpenedFile & {
  /** The file without what reading has undone, where that is something else. */
  readonly stored?: OpenRaster;
  /** The files it was read from, where it was not one alone. */
  readonly files?: readonly { readonly name: string; readonly size: number }[];
  /** The rasters it is made of, where there are several. */
  readonly parts?: readonly Part[];
  /** How they were put together, where nobody had said it. */
  readonly arrangement?: Arrangement;
  /** The triangles that it was baked from, read again. */
  readonly geometry?: () => Promise<Geometry>;
  /** The checksum of each of several files, by its name. */
  readonly sums?: () => Promise<ReadonlyMap<string, string>>;
};

/**
 * Opens a source as the recipe reads it: one file, with what lies beside it, or several that make a whole. Where these
 * are not placed yet all of them are read for it.
 */
export async function openReading(source: ByteSource, reading: SourceReading, job?: JobContext): Promise<ReadRaster> {
  const parts = await partsOf(source);
  const heights = parts.filter((p) => !isCompanion(p.name));
  const asIs =
    heights.length > 1 || reading.files
      ? await openMosaic(heights, reading, job)
      : await openOne(heights[0] ?? source, reading);
  const stored = { ...asIs, info: await withSystem(asIs.info) };
  const listed: ReadRaster =
    parts.length > 1 ? { ...stored, files: parts.map(({ name, size }) => ({ name, size })) } : stored;
  const { curve, squares } = reading;
  if (squares) return { ...squared(listed, squares), stored: listed };
  return curve === undefined ? listed : { ...straightened(listed, curve), stored: listed };
}

async function openOne(source: ByteSource, { raw, partial, mesh }: SourceReading): Promise<ReadRaster> {
  const record = await recordBeside(source);
  const layout = raw ?? (record?.raw && { ...record.raw, width: record.width, height: record.height, skip: 0 });
  const asIs = await openHeightFile(
    source,
    layout,
    mesh || partial ? { ...mesh, partial: partial ?? false } : undefined,
  );
  const note = record ? null : await noteBeside(source);
  const opened = record ? recorded(asIs, record, source.name) : note ? noted(asIs, note) : asIs;
  const kind = opened.info.format;
  if (isMeshKind(kind)) return { ...opened, geometry: () => readGeometry(source, kind) };
  return partial ? readablePart(opened) : opened;
}

async function openMosaic(
  sources: readonly ByteSource[],
  reading: SourceReading,
  job: JobContext | undefined,
): Promise<ReadRaster> {
  const parts: Part[] = [];
  for (const source of sources) parts.push({ name: source.name, raster: await openOne(source, reading) });
  const sums = (): Promise<ReadonlyMap<string, string>> => checksumsOf(sources, job);
  if (reading.files) return { ...mosaic(parts, reading.files, reading.blend), parts, sums };
  // one thread sums up while another inflates
  const [found, by] = await Promise.all([arrange(parts, job), sums()]);
  const arrangement = { ...found, parts: found.parts.map((p) => ({ ...p, sha256: by.get(p.name) })) };
  return { ...mosaic(parts, arrangement.parts, reading.blend), parts, sums, arrangement };
}

/** Bytes that are hashed at once. */
const SLICE = 2 ** 20;

/** The checksum of each of several files, by its name. */
export async function checksumsOf(
  sources: readonly ByteSource[],
  job: JobContext | undefined,
): Promise<ReadonlyMap<string, string>> {
  const sums = new Map<string, string>();
  for (const source of sources) {
    const hasher = await portableSha256();
    for (let at = 0; at < source.size; at += SLICE) {
      checkpoint(job);
      hasher.update(await source.read(at, Math.min(SLICE, source.size - at)));
    }
    sums.set(source.name, hasher.digest());
  }
  return sums;
}

/** Opens a height file and counts its samples in one pass. */
export async function countSource(
  source: ByteSource,
  reading: SourceReading = {},
  job?: JobContext,
): Promise<CountedSource> {
  const opened = held(await openReading(source, reading, partOf(job, 0, 0.5)));
  const facts = factsOf(source.name, opened, await sourceStatistics(opened, job));
  await source.unchanged?.();
  return { opened, facts, ...(source.unchanged ? { unchanged: () => source.unchanged?.() ?? Promise.resolve() } : {}) };
}

export function factsOf(file: string, opened: ReadRaster, stats: SourceFacts['stats']): SourceFacts {
  const { info, lateWarnings } = opened;
  const warnings = [
    ...info.warnings,
    ...nameWarnings(file, info),
    ...georeferenceWarnings(info).map((w) => withSquares(w, info)),
    ...lateWarnings,
    // before the samples have passed by, what was seen when the files were put together
    ...(opened.arrangement && !lateWarnings.some((w) => w.code.startsWith('mosaic'))
      ? mosaicWarnings(opened.arrangement)
      : []),
    ...(stats ? statisticsWarnings(info, stats) : []),
  ];
  return {
    file,
    info,
    warnings,
    stats,
    ...(opened.files ? { files: opened.files } : {}),
    ...(opened.arrangement ? { arrangement: opened.arrangement } : {}),
    ...(opened.layout ? { raw: opened.layout } : {}),
    ...(opened.guess ? { guess: opened.guess } : {}),
  };
}

/** Degrees can be made square metres. */
function withSquares(warning: RasterWarning, info: RasterInfo): RasterWarning {
  const squares = proposedSquares(info);
  return squares
    ? { ...warning, repair: { label: 'make square metres', path: ['source', 'squares'], value: squares } }
    : warning;
}

/** Decoded sources up to this size are kept while they are worked on; larger ones are decoded again for each pass. */
const HELD_BYTES = 160 * 2 ** 20;

/**
 * A raster that remembers its bands from the first complete pass on, if they are few enough: decoding is the dearest
 * part of a pass, and a job makes two or three.
 */
function held(opened: ReadRaster): ReadRaster {
  if (storedBytes(opened.info) > HELD_BYTES) return opened;
  let kept: StoredBand[] | null = null;
  return {
    ...opened,
    async *bands(job) {
      if (kept) {
        for (const band of kept) {
          checkpoint(job);
          yield band;
        }
        return;
      }
      const seen: StoredBand[] = [];
      for await (const band of opened.bands(job)) {
        seen.push({ y: band.y, rows: band.rows, data: band.place ? band.data.slice() : band.data });
        yield band;
      }
      kept = seen;
    },
  };
}
