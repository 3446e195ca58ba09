import { checkpoint, contentHasher, partOf, portableSha256, type ByteSource, type JobContext } from '../base';
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
  type OpenRaster,
  type RasterInfo,
  type RasterWarning,
  type StoredBand,
  type StoredSamples,
} from '../raster';
import { noteBeside, noted } from '../notes';
import { arrange, mosaic, mosaicWarnings, type Arrangement, type Part, type PlacedPart } from '../mosaic';
import { proposedSquares, squaredInfo, withSystem } from '../squares';
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

/** A raster as it is read, before any step: it knows how, and from what. */
export type ReadRaster = OpenedFile & {
  /** How it was opened: a proof compares that with the recipe. */
  readonly reading: SourceReading;
  /** The files it was read from, where it was not one alone. */
  readonly files?: readonly { readonly name: string; readonly size: number }[];
  /** The rasters it is made of, where there are several, and where they lie. */
  readonly parts?: readonly Part[];
  readonly placed?: readonly PlacedPart[];
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
  const placed = { ...asIs, reading: readingOf(asIs), info: await withSystem(asIs.info) };
  return parts.length > 1 ? { ...placed, files: parts.map(({ name, size }) => ({ name, size })) } : placed;
}

type Opened = Omit<ReadRaster, 'reading'>;

/** How a source was opened, whether somebody said so or it was found. */
const readingOf = ({ layout, placed, info: { mesh, partial } }: Opened): SourceReading => ({
  ...(layout ? { raw: layout } : {}),
  ...(placed ? { files: [...placed].map(({ at: [x, y], ...p }) => ({ ...p, at: [x, y] as [number, number] })) } : {}),
  ...(mesh ? { mesh: mesh.options } : {}),
  ...(partial ? { partial } : {}),
});

async function openOne(source: ByteSource, { raw, partial, mesh }: SourceReading): Promise<Opened> {
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
): Promise<Opened> {
  const parts: Part[] = [];
  for (const source of sources) parts.push({ name: source.name, raster: await openOne(source, reading) });
  const sums = (): Promise<ReadonlyMap<string, string>> => checksumsOf(sources, job);
  if (reading.files) return { ...mosaic(parts, reading.files), parts, placed: reading.files, sums };
  // one thread sums up while another inflates
  const [found, by] = await Promise.all([arrange(parts, job), sums()]);
  const arrangement = { ...found, parts: found.parts.map((p) => ({ ...p, sha256: by.get(p.name) })) };
  return { ...mosaic(parts, arrangement.parts), parts, placed: arrangement.parts, sums, arrangement };
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

/** The same with the checksum of each of its files, taken where it is not known. */
export async function withSums(opened: ReadRaster): Promise<ReadRaster> {
  const { placed, sums } = opened;
  if (!placed || !sums || placed.every((f) => f.sha256 !== undefined)) return opened;
  const by = await sums();
  return { ...opened, placed: placed.map((f) => ({ ...f, sha256: f.sha256 ?? by.get(f.name) })) };
}

/** Opens a height file and counts its samples in one pass. */
export async function countSource(
  source: ByteSource,
  reading: SourceReading = {},
  job?: JobContext,
): Promise<CountedSource> {
  return countOpened(source, held(await openReading(source, reading, partOf(job, 0, 0.5))), job);
}

/** The same of one that is open. */
export async function countOpened(source: ByteSource, opened: ReadRaster, job?: JobContext): Promise<CountedSource> {
  return countedAs(source, opened, await sourceStatistics(opened, job));
}

/** A source whose samples have been counted. */
export async function countedAs(
  source: ByteSource,
  opened: ReadRaster,
  stats: SourceFacts['stats'],
): Promise<CountedSource> {
  const facts = factsOf(source.name, opened, stats);
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
    ...(opened.placed ? { placed: opened.placed } : {}),
    ...(opened.layout ? { raw: opened.layout } : {}),
    ...(opened.guess ? { guess: opened.guess } : {}),
  };
}

/** Degrees can be made square metres. */
function withSquares(warning: RasterWarning, info: RasterInfo): RasterWarning {
  const squares = proposedSquares(info);
  if (!squares) return warning;
  const { width, height } = squaredInfo(info, squares);
  const args = { ...squares, ground: { width, height } };
  return { ...warning, repair: { label: 'make square metres', edit: 'make-metric', args } };
}

/** What a source holds, told by its samples as they pass by, and by what its files say of them. */
export async function startContent({ info }: OpenRaster): Promise<{
  readonly add: (samples: StoredSamples) => void;
  readonly digest: () => string;
}> {
  const hasher = await contentHasher();
  const { warnings: _, ...said } = info;
  hasher.update(new TextEncoder().encode(JSON.stringify(said)));
  return {
    add: ({ buffer, byteOffset, byteLength }) => {
      for (let at = 0; at < byteLength; at += SLICE)
        hasher.update(new Uint8Array(buffer, byteOffset + at, Math.min(SLICE, byteLength - at)));
    },
    digest: () => hasher.digest(),
  };
}

/** Decoded sources up to this size are kept while they are worked on; larger ones are decoded again for each pass. */
const HELD_BYTES = 160 * 2 ** 20;

/**
 * A raster that remembers its bands from the first complete pass on, if they are few enough: decoding is the dearest
 * part of a pass, and a job makes two or three.
 */
export function held<T extends OpenRaster>(opened: T): T {
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
