import { checkpoint, type ByteSource, type JobContext } from '../base';
import { openHeightFile, type OpenedFile } from '../formats';
import {
  georeferenceWarnings,
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

/** Opens a height file as the recipe reads it. */
export async function openReading(source: ByteSource, { raw, curve }: SourceReading): Promise<ReadRaster> {
  const stored = await openHeightFile(source, raw);
  return curve === undefined ? stored : { ...stored, ...straightened(stored, curve), stored };
}

/** A raster as it is read; `stored` is the file without what reading has undone, where that is something else. */
export type ReadRaster = OpenedFile & { readonly stored?: OpenRaster };

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

export function factsOf(file: string, opened: OpenedFile, stats: SourceFacts['stats']): SourceFacts {
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
