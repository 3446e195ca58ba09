import { asLevelGridError, formatShort, oneLine, type ErrorRecord } from '../core/base';
import { layoutText, parseRawLayout, type RawLayout } from '../core/formats';
import type { RasterWarning } from '../core/raster';
import { countSource } from '../core/run';
import { fromCaller, heightSource } from './files';
import { errorText, table, withProgress, type CommandResult } from './output';
import path from 'node:path';

interface Entry {
  file: string;
  format: string;
  width: number;
  height: number;
  channels: number;
  bitDepth: number;
  sampleType: string;
  byteOrder: string | null;
  noData: { value: number | null; count: number };
  min: number | null;
  max: number | null;
  mean: number | null;
  distinctCodes: number;
  /** There are more than so many. */
  distinctMore?: true;
  codeStep: number | null;
  spacing: null;
  crs: null;
  warnings: readonly Pick<RasterWarning, 'code' | 'message'>[];
  /** How sure the reading of a headerless file is, and the next ones. */
  guess?: { lead: number; next: readonly RawLayout[] };
}
type Outcome = Entry | { file: string; error: ErrorRecord };

async function inspectFile(file: string, raw: RawLayout | undefined, verbose: boolean): Promise<Outcome> {
  const name = path.basename(file);
  try {
    const source = await heightSource(fromCaller(file));
    const { opened, facts } = await withProgress(name, (job) => countSource(source, raw, job));
    const { format, width, height, channels, bitDepth, sampleType, byteOrder } = opened.info;
    const stats = facts.stats;
    return {
      file: name,
      format,
      width,
      height,
      channels,
      bitDepth,
      sampleType,
      byteOrder,
      noData: { value: null, count: stats?.voids ?? 0 },
      min: stats?.min ?? null,
      max: stats?.max ?? null,
      mean: stats?.mean ?? null,
      distinctCodes: stats?.distinctCodes ?? 0,
      ...(stats?.distinctMore ? { distinctMore: true as const } : {}),
      codeStep: stats?.codeStep ?? null,
      spacing: null,
      crs: null,
      warnings: facts.warnings.map(({ code, message }) => ({ code, message })),
      ...(opened.guess ? { guess: { lead: opened.guess.lead, next: opened.guess.next } } : {}),
    };
  } catch (reason) {
    const { details, ...error } = asLevelGridError(reason, 'reading the file', name).toRecord();
    return { file: name, error: verbose && details !== undefined ? { ...error, details } : error };
  }
}

/** Says what height files really hold. Every file is tried. */
export async function inspect(
  files: readonly string[],
  options: { raw?: string; verbose?: boolean },
): Promise<CommandResult> {
  const raw = options.raw === undefined ? undefined : parseRawLayout(options.raw);
  const outcomes: Outcome[] = [];
  for (const file of files) outcomes.push(await inspectFile(file, raw, options.verbose ?? false));
  const parts = outcomes.map((o) =>
    'error' in o
      ? `${oneLine(o.file)}\n  ⧄ ${errorText({ ...o.error, file: null }, true).replaceAll('\n', '\n  ')}`
      : [
          oneLine(o.file),
          table(
            ['Format', 'Size', 'Channels', 'Bits', 'Type', 'Order', 'Lowest', 'Highest', 'Mean', 'Codes', 'Step'],
            [
              [
                o.format,
                `${o.width} × ${o.height}`,
                String(o.channels),
                String(o.bitDepth),
                o.sampleType,
                o.byteOrder ?? '–',
                short(o.min),
                short(o.max),
                short(o.mean),
                `${o.distinctMore ? 'over ' : ''}${o.distinctCodes}`,
                short(o.codeStep),
              ],
            ],
          ),
          ...o.warnings.map((w) => `◧ ${w.message}`),
          ...(o.guess ? nextReadings(o.guess.next) : []),
        ].join('\n'),
  );
  return { json: { files: outcomes }, text: parts.join('\n\n'), fine: outcomes.every((o) => !('error' in o)) };
}

const short = (value: number | null): string => (value === null ? '–' : formatShort(value, 3));

/** The next-best readings, as they are given to --raw. */
const nextReadings = (next: readonly RawLayout[]): string[] =>
  next.slice(0, 3).map((l) => `  or ${layoutText(l)}: --raw ${l.width},${l.height},${l.type},${l.byteOrder}`);
