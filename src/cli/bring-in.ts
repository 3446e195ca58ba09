import path from 'node:path';
import { checkpoint, formatShort, LevelGridError, type ByteSource } from '../core/base';
import { groundSpacing, metresOfHeight, type RasterWarning, type RasterInfo } from '../core/raster';
import { archivedSources, factsOf, heightsOfZip, openReading } from '../core/run';
import type { Arrangement } from '../core/mosaic';
import { proposedSquares, squared, type Squares } from '../core/squares';
import { DiskFolder } from '../io/node';
import { onExit } from './signals';
import { fromCaller, heightSource, heightSources, isZip } from './files';
import { withProgress, type CommandResult } from './output';

/**
 * A source as a headerless raster: Float32, little-endian, rows from the north, NaN where there is no height. In metres
 * where the file says what its heights are; `asIs` leaves them as they are stored.
 */
export async function bringInCommand(
  files: readonly string[],
  options: {
    out: string;
    spacing?: string;
    asIs?: boolean;
    member?: string;
    partial?: boolean;
    squares?: string | true;
  },
): Promise<CommandResult> {
  const [first = ''] = files;
  const source =
    files.length > 1
      ? await heightSources(files)
      : await memberOf(await heightSource(fromCaller(first)), options.member);
  const asItLies = await openReading(source, options.partial ? { partial: true } : {});
  const { arrangement } = asItLies;
  const opened =
    options.squares === undefined
      ? asItLies
      : squared(asItLies, squaresOf(asItLies.info, options.squares, source.name));
  const { info } = opened;
  const { width, height } = info;
  const unit = options.asIs ? 1 : (metresOfHeight(info) ?? 1);
  const spacing = options.spacing === undefined ? squareSpacing(info) : typedSpacing(options.spacing);
  const out = fromCaller(options.out);
  const folder = await DiskFolder.open(path.dirname(out), {
    sources: files.map(fromCaller),
    replace: true,
  });
  const forget = onExit(() => folder.abortNow());
  let voids = 0;
  try {
    await withProgress('Reading', async (job) => {
      await folder.prepare([path.basename(out)]);
      const sink = await folder.open(path.basename(out));
      for await (const { y, rows, data } of opened.bands(job)) {
        checkpoint(job);
        const bytes = new Uint8Array(data.length * 4);
        const view = new DataView(bytes.buffer);
        for (let i = 0; i < data.length; i++) {
          const value = Number(data[i]);
          const there = Number.isFinite(value);
          if (!there) voids++;
          view.setFloat32(i * 4, there ? value * unit : NaN, true);
        }
        await sink.write(bytes);
        job.report?.(y + rows, height);
      }
      await sink.close();
      await source.unchanged?.();
      await folder.commit();
    });
  } finally {
    await folder.abort();
    forget();
  }
  const said: readonly RasterWarning[] = factsOf(source.name, opened, null).warnings;
  const warnings = said.map(({ code, message }) => ({ code, message }));
  return {
    json: {
      width,
      height,
      spacing,
      noData: { count: voids },
      ...(arrangement ? { arrangement } : {}),
      ...(options.squares === undefined ? {} : { crs: info.georeference?.crs ?? null }),
      warnings,
    },
    text: [
      `${path.basename(out)}: ${width} × ${height} samples${spacing === null ? '' : `, ${formatShort(spacing, 6)} m apart`}, floats of 32 bits, little-endian, rows from the north`,
      ...(options.squares === undefined ? [] : [`square metres in ${info.georeference?.crs ?? ''}`]),
      ...(arrangement ? [arrangementText(arrangement)] : []),
      ...(voids > 0 ? [`${voids} voids`] : []),
      ...warnings.map((w) => `◧ ${w.message}`),
    ].join('\n'),
    fine: true,
  };
}

/** Squares as they are proposed, or of another size. */
function squaresOf(info: RasterInfo, asked: string | true, file: string): Squares {
  const proposed = proposedSquares(info);
  if (!proposed)
    throw new LevelGridError('usage', {
      file,
      found: 'a raster whose samples do not lie in degrees',
      expected: 'degrees, to make square metres of',
      remedy: 'Leave --squares out.',
    });
  return asked === true ? proposed : { ...proposed, spacing: typedSpacing(asked) };
}

/** How several files were put together. */
function arrangementText({ parts, by, rows, edges, seams }: Arrangement): string {
  const how =
    by === 'ground' ? 'placed by their coordinates' : `placed by their names, rows from the ${rows ?? 'north'}`;
  return `${parts.length} files, ${how}, edges ${edges}; across ${seams.seams} seams they differ by ${formatShort(seams.mean)} on the average, ${formatShort(seams.largest)} at most (neighbours by ${formatShort(seams.usual)})`;
}

/** A height file of an archive, by its path inside; where it holds only one, that one. Any other file is itself. */
async function memberOf(source: ByteSource, member: string | undefined): Promise<ByteSource> {
  if (!(await isZip(source))) return source;
  const files = archivedSources(heightsOfZip(await source.read(0, source.size), source.name, member));
  const [first, second] = files.values();
  if (first && !second) return first;
  throw new LevelGridError('usage', {
    file: source.name,
    found: `${files.size} height files in the archive`,
    expected: 'the one that is wanted',
    remedy: `Name it: --member ${[...files.keys()][0] ?? 'NAME'}`,
  });
}

/** What the file says, where both ways are alike. */
function squareSpacing(info: Parameters<typeof groundSpacing>[0]): number | null {
  const ground = groundSpacing(info);
  return ground && Math.abs(ground.east / ground.north - 1) <= 1e-3 ? ground.north : null;
}

function typedSpacing(text: string): number {
  const value = Number(text);
  if (Number.isFinite(value) && value >= 1e-6 && value <= 1e5) return value;
  throw new LevelGridError('usage', {
    found: `"${text}" as metres from sample to sample`,
    expected: 'a number from 0.000001 to 100 000',
    remedy: 'Example: --spacing 2.5',
  });
}
