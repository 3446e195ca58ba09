import {
  asLevelGridError,
  formatNumber,
  formatShort,
  LevelGridError,
  oneLine,
  type ByteSource,
  type ErrorRecord,
} from '../core/base';
import { formatName, layoutText, parseRawLayout, type OpenedFile, type RawLayout } from '../core/formats';
import {
  groundSpacing,
  type Box,
  type NotedFacts,
  type RasterInfo,
  type RasterWarning,
  type SourceStatistics,
} from '../core/raster';
import { archivedSources, countSource, factsOf, heightsOfZip, openReading } from '../core/run';
import { fromCaller, heightSource, isZip, upAxis } from './files';
import { errorText, table, withProgress, type CommandResult } from './output';
import path from 'node:path';

/** A sample by its row from the north and its column; `value` in the file's own units, null where there is none. */
interface At {
  readonly row: number;
  readonly col: number;
  readonly value: number | null;
}

interface Entry {
  file: string;
  format: string;
  width: number;
  height: number;
  channels: number;
  bitDepth: number;
  sampleType: string;
  byteOrder: string | null;
  noData: { value: number | null; count: number | null };
  min: number | null;
  max: number | null;
  mean: number | null;
  /** Null, as all statistics, where only the header was read. */
  distinctCodes: number | null;
  /** There are more than so many. */
  distinctMore?: true;
  codeStep: number | null;
  /** Metres from sample to sample, where the file says so and both ways are alike. */
  spacing: number | null;
  /** The same where they are not. */
  spacings?: { east: number; north: number };
  crs: string | null;
  unit: string | null;
  registration: 'vertex' | 'cell' | null;
  /** Pictures of full size in the file. */
  pages: number;
  channel: string | null;
  /** Of a mesh: x east, y north, z up, and the axis of the file that was taken for up. */
  vertices?: number;
  triangles?: number;
  bounds?: Box;
  up?: 'y' | 'z';
  upGuessed?: boolean;
  overhangs?: { count: number };
  at?: readonly At[];
  /** What a note beside the file says. */
  noted?: NotedFacts;
  warnings: readonly Pick<RasterWarning, 'code' | 'message'>[];
  /** How sure the reading of a headerless file is, and the next ones. */
  guess?: { lead: number; next: readonly RawLayout[] };
}
type Failed = { file: string; error: ErrorRecord };
/** An archive: what each height file in it holds; `file` is its path inside. */
interface Archive {
  file: string;
  format: 'zip';
  members: (Entry | Failed)[];
  warnings: readonly { code: string; message: string }[];
}
type Outcome = Entry | Archive | Failed;

interface Asked {
  readonly raw: RawLayout | undefined;
  readonly header: boolean;
  readonly at: readonly (readonly [number, number])[];
  readonly up: 'y' | 'z' | undefined;
}

/** What the header says of spacing and the rest, for people and programs. */
function saidBy(
  info: RasterInfo,
): Pick<Entry, 'spacing' | 'spacings' | 'crs' | 'unit' | 'registration' | 'pages' | 'channel' | 'noted'> {
  const ground = groundSpacing(info);
  const alike = ground !== null && Math.abs(ground.east / ground.north - 1) <= 1e-3;
  return {
    spacing: ground && alike ? ground.north : null,
    ...(ground && !alike ? { spacings: ground } : {}),
    crs: info.georeference?.crs ?? null,
    unit: info.unit ?? null,
    registration: info.registration ?? null,
    pages: info.pages ?? 1,
    channel: info.channel ?? null,
    ...(info.noted ? { noted: info.noted } : {}),
  };
}

/** What a mesh is, beside the raster that it gives. */
function meshEntry({ mesh }: RasterInfo): Partial<Entry> {
  if (!mesh) return {};
  const { vertices, triangles, bounds, options, guessed, overhangs } = mesh;
  return { vertices, triangles, bounds, up: options.up, upGuessed: guessed, overhangs: { count: overhangs } };
}

async function inspectFile(file: string, asked: Asked, verbose: boolean): Promise<Outcome> {
  const name = path.basename(file);
  try {
    const source = await heightSource(fromCaller(file));
    if (!(await isZip(source))) return await inspectSource(source, name, asked, verbose);
    const archive = heightsOfZip(await source.read(0, source.size), name);
    const members: (Entry | Failed)[] = [];
    for (const [member, inside] of archivedSources(archive))
      members.push(await inspectSource(inside, member, asked, verbose));
    const warnings = archive.refused.map((n) => ({
      code: 'structure',
      message: `"${n}" leads out of the archive: it is left alone.`,
    }));
    return { file: name, format: 'zip', members, warnings };
  } catch (reason) {
    return failed(reason, name, verbose);
  }
}

function failed(reason: unknown, name: string, verbose: boolean): Failed {
  const { details, ...error } = asLevelGridError(reason, 'reading the file', name).toRecord();
  return { file: name, error: verbose && details !== undefined ? { ...error, details } : error };
}

async function inspectSource(
  source: ByteSource,
  name: string,
  { raw, header, at, up }: Asked,
  verbose: boolean,
): Promise<Entry | Failed> {
  try {
    const reading = { ...(raw ? { raw } : {}), ...(up ? { mesh: { up } } : {}) };
    const { opened, facts } = header
      ? await openReading(source, reading).then((o) => ({ opened: o, facts: factsOf(name, o, null) }))
      : await withProgress(name, (job) => countSource(source, reading, job));
    const { format, width, height, channels, bitDepth, sampleType, byteOrder, noData } = opened.info;
    const stats: SourceStatistics | null = facts.stats;
    return {
      file: name,
      format,
      width,
      height,
      channels,
      bitDepth,
      sampleType,
      byteOrder,
      // a value that no number can stand for in a document is left to the count
      noData: { value: noData !== undefined && Number.isFinite(noData) ? noData : null, count: stats?.voids ?? null },
      min: stats?.min ?? null,
      max: stats?.max ?? null,
      mean: stats?.mean ?? null,
      distinctCodes: stats?.distinctCodes ?? null,
      ...(stats?.distinctMore ? { distinctMore: true as const } : {}),
      codeStep: stats?.codeStep ?? null,
      ...saidBy(opened.info),
      ...meshEntry(opened.info),
      ...(at.length > 0 ? { at: await valuesAt(opened, at) } : {}),
      warnings: facts.warnings.map(({ code, message }) => ({ code, message })),
      ...(opened.guess ? { guess: { lead: opened.guess.lead, next: opened.guess.next } } : {}),
    };
  } catch (reason) {
    return failed(reason, name, verbose);
  }
}

/** Samples at places; reads no further than the last of them. */
async function valuesAt(opened: OpenedFile, places: readonly (readonly [number, number])[]): Promise<At[]> {
  const { width, height } = opened.info;
  const out = places.map(([row, col]): At => ({ row, col, value: null }));
  const inside = out.filter((p) => p.row < height && p.col < width);
  const last = Math.max(-1, ...inside.map((p) => p.row));
  if (last < 0) return out;
  const found = new Map<At, number>();
  for await (const { y, rows, data } of opened.bands()) {
    for (const p of inside) if (p.row >= y && p.row < y + rows) found.set(p, Number(data[(p.row - y) * width + p.col]));
    if (y + rows > last) break;
  }
  return out.map((p) => {
    const value = found.get(p) ?? NaN;
    return { ...p, value: Number.isFinite(value) ? value : null };
  });
}

function parsePlace(text: string): [number, number] {
  const found = /^\s*(\d{1,9})\s*,\s*(\d{1,9})\s*$/.exec(text);
  if (found) return [Number(found[1]), Number(found[2])];
  throw new LevelGridError('usage', {
    found: `"${text}" as a place`,
    expected: 'ROW,COLUMN, both counted from 0 in the north-west',
    remedy: 'Example: --at 767,12',
  });
}

/** Says what height files really hold. Every file is tried. */
export async function inspect(
  files: readonly string[],
  options: { raw?: string; verbose?: boolean; header?: boolean; at?: readonly string[]; up?: string },
): Promise<CommandResult> {
  const asked: Asked = {
    raw: options.raw === undefined ? undefined : parseRawLayout(options.raw),
    header: options.header ?? false,
    at: (options.at ?? []).map(parsePlace),
    up: options.up === undefined ? undefined : upAxis(options.up),
  };
  const outcomes: Outcome[] = [];
  for (const file of files) outcomes.push(await inspectFile(file, asked, options.verbose ?? false));
  const fine = (o: Outcome): boolean => !('error' in o) && (!('members' in o) || o.members.every(fine));
  return { json: { files: outcomes }, text: outcomes.map(outcomeText).join('\n\n'), fine: outcomes.every(fine) };
}

function outcomeText(o: Outcome): string {
  if ('error' in o)
    return `${oneLine(o.file)}\n  ⧄ ${errorText({ ...o.error, file: null }, true).replaceAll('\n', '\n  ')}`;
  if (!('members' in o)) return entryText(o);
  return [
    `${oneLine(o.file)}: a zip with ${o.members.length} height ${o.members.length === 1 ? 'file' : 'files'}`,
    ...o.warnings.map((w) => `◧ ${oneLine(w.message)}`),
    ...o.members.map(outcomeText),
  ].join('\n\n');
}

function entryText(o: Entry): string {
  const ground = o.spacings ?? (o.spacing === null ? null : { east: o.spacing, north: o.spacing });
  const said = [
    ...(o.channel === null ? [] : [`channel ${oneLine(o.channel)}`]),
    ...(o.unit === null ? [] : [`heights in ${o.unit}`]),
    ...(ground ? [`samples ${formatShort(ground.east, 4)} × ${formatShort(ground.north, 4)} m apart`] : []),
    ...(o.crs === null ? [] : [oneLine(o.crs)]),
    ...(o.noted ? [`${oneLine(o.noted.from)}: ${o.noted.lines.map((l) => `“${oneLine(l)}”`).join(' ')}`] : []),
    ...(o.registration === null ? [] : [`samples are ${o.registration === 'cell' ? 'cells' : 'vertices'}`]),
    ...(o.noData.count !== null && o.noData.count > 0
      ? [`${formatNumber(o.noData.count, 0)} ${o.noData.count === 1 ? 'void' : 'voids'}`]
      : []),
  ];
  return [
    oneLine(o.file),
    table(
      ['Format', 'Size', 'Channels', 'Bits', 'Type', 'Order', 'Lowest', 'Highest', 'Mean', 'Codes', 'Step'],
      [
        [
          formatName(o.format),
          `${o.width} × ${o.height}`,
          String(o.channels),
          String(o.bitDepth),
          o.sampleType,
          o.byteOrder ?? '–',
          short(o.min),
          short(o.max),
          short(o.mean),
          o.distinctCodes === null ? '–' : `${o.distinctMore ? 'over ' : ''}${formatNumber(o.distinctCodes, 0)}`,
          short(o.codeStep),
        ],
      ],
    ),
    ...(said.length > 0 ? [said.join('; ')] : []),
    ...(o.at ?? []).map(
      (p) => `row ${p.row}, column ${p.col}: ${p.value === null ? 'no height' : formatShort(p.value, 6)}`,
    ),
    ...o.warnings.map((w) => `◧ ${w.message}`),
    ...(o.guess ? nextReadings(o.guess.next) : []),
  ].join('\n');
}

const short = (value: number | null): string => (value === null ? '–' : formatShort(value, 3));

/** The next-best readings, as they are given to --raw. */
const nextReadings = (next: readonly RawLayout[]): string[] =>
  next
    .slice(0, 3)
    .map(
      (l) =>
        `  or ${layoutText(l)}: --raw ${[l.width, l.height, l.type, l.byteOrder, ...(l.skip > 0 ? [l.skip] : [])].join(',')}`,
    );
