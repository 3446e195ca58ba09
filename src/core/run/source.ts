import type { ByteSource, JobContext } from '../base';
import { openHeightFile, type OpenedFile, type RawLayout } from '../formats';
import { sourceStatistics, statisticsWarnings } from '../raster';
import type { SourceFacts } from '../plan';

/** A source that is opened and counted: everything a plan needs of it. */
export interface CountedSource {
  readonly opened: OpenedFile;
  readonly facts: SourceFacts;
}

/** Opens a height file and counts its samples in one pass. */
export async function countSource(
  source: ByteSource,
  raw: RawLayout | undefined,
  job?: JobContext,
): Promise<CountedSource> {
  const opened = await openHeightFile(source, raw);
  return { opened, facts: factsOf(source.name, opened, await sourceStatistics(opened, job)) };
}

export function factsOf(file: string, opened: OpenedFile, stats: SourceFacts['stats']): SourceFacts {
  const { info, lateWarnings } = opened;
  const warnings = [...info.warnings, ...lateWarnings, ...(stats ? statisticsWarnings(info, stats) : [])];
  return { file, info, warnings, stats };
}
