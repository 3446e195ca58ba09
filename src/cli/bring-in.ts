import path from 'node:path';
import { checkpoint, formatShort, LevelGridError, type ByteSource } from '../core/base';
import { groundSpacing, metresOfHeight, type RasterWarning } from '../core/raster';
import { archivedSources, factsOf, heightsOfZip, openReading } from '../core/run';
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
  options: { out: string; spacing?: string; asIs?: boolean; member?: string; partial?: boolean },
): Promise<CommandResult> {
  const [first = ''] = files;
  const source =
    files.length > 1
      ? await heightSources(files)
      : await memberOf(await heightSource(fromCaller(first)), options.member);
  const opened = await openReading(source, options.partial ? { partial: true } : {});
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
    json: { width, height, spacing, noData: { count: voids }, warnings },
    text: [
      `${path.basename(out)}: ${width} × ${height} samples${spacing === null ? '' : `, ${formatShort(spacing, 6)} m apart`}, floats of 32 bits, little-endian, rows from the north`,
      ...(voids > 0 ? [`${voids} voids`] : []),
      ...warnings.map((w) => `◧ ${w.message}`),
    ].join('\n'),
    fine: true,
  };
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
