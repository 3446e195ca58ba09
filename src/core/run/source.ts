import { checkpoint, type ByteSource, type JobContext } from '../base';
import { isCompanion, openHeightFile, partsOf, type OpenedFile } from '../formats';
import {
  georeferenceWarnings,
  readablePart,
  sourceStatistics,
  statisticsWarnings,
  storedBytes,
  straightened,
  type OpenRaster,
  type StoredBand,
} from '../raster';
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
};

/** Opens a source as the recipe reads it: the file that holds the heights, of several that were brought in together. */
export async function openReading(source: ByteSource, { raw, curve, partial }: SourceReading): Promise<ReadRaster> {
  const parts = await partsOf(source);
  const main = parts.find((p) => !isCompanion(p.name)) ?? source;
  const whole = await openHeightFile(main, raw);
  const opened = partial ? readablePart(whole) : whole;
  const stored: ReadRaster =
    parts.length > 1 ? { ...opened, files: parts.map(({ name, size }) => ({ name, size })) } : opened;
  return curve === undefined ? stored : { ...straightened(stored, curve), stored };
}

/** Opens a height file and counts its samples in one pass. */
export async function countSource(
  source: ByteSource,
  reading: SourceReading = {},
  job?: JobContext,
): Promise<CountedSource> {
  const opened = held(await openReading(source, reading));
  const facts = factsOf(source.name, opened, await sourceStatistics(opened, job));
  await source.unchanged?.();
  return { opened, facts, ...(source.unchanged ? { unchanged: () => source.unchanged?.() ?? Promise.resolve() } : {}) };
}

export function factsOf(file: string, opened: ReadRaster, stats: SourceFacts['stats']): SourceFacts {
  const { info, lateWarnings } = opened;
  const warnings = [
    ...info.warnings,
    ...georeferenceWarnings(info),
    ...lateWarnings,
    ...(stats ? statisticsWarnings(info, stats) : []),
  ];
  return {
    file,
    info,
    warnings,
    stats,
    ...(opened.files ? { files: opened.files } : {}),
    ...(opened.layout ? { raw: opened.layout } : {}),
    ...(opened.guess ? { guess: opened.guess } : {}),
  };
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
