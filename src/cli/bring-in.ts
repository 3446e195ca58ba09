import path from 'node:path';
import { checkpoint, formatShort, LevelGridError, type ByteSource } from '../core/base';
import { groundSpacing, metresOfStored, type RasterWarning, type RasterInfo, type StoredSamples } from '../core/raster';
import { maybeOfSamples } from '../core/notes';
import { HOST_IS_LITTLE, swapBytes } from '../core/formats';
import { openEntering, planChain } from '../core/chain';
import { freshRecipe, madeMetric, withBlend } from '../core/edits';
import { trueCalibration } from '../core/height';
import { sourceReading, type Recipe } from '../core/recipe';
import { archivedSources, factsOf, heightsOfZip, openReading } from '../core/run';
import type { Arrangement } from '../core/mosaic';
import { proposedSquares } from '../core/squares';
import { DiskFolder } from '../io/node';
import { onExit } from './signals';
import { fromCaller, heightSource, heightSources, isZip, readRecipe, upAxis } from './files';
import { withProgress, type CommandResult } from './output';

/**
 * A source as a headerless raster: Float32, little-endian, rows from the north, NaN where there is no height. In metres
 * where the file or a recipe says what its heights are. Degrees become square metres; `asIs` leaves them as they lie. With a
 * recipe it is what enters the fit: read as it says, after all its steps.
 */
export async function bringInCommand(
  files: readonly string[],
  options: {
    out: string;
    spacing?: string;
    up?: string;
    blend?: string;
    asIs?: boolean;
    member?: string;
    partial?: boolean;
    recipe?: string;
  },
): Promise<CommandResult> {
  const [first = ''] = files;
  const refused: string[] = [];
  const refuse = (archive: string, entry: string): void =>
    void refused.push(`${archive}: "${entry}" leads out of the archive: it is left alone.`);
  const source =
    files.length > 1
      ? await heightSources(files, refuse)
      : await memberOf(await heightSource(fromCaller(first)), options.member, refuse);
  const asked = options.spacing === undefined ? null : typedSpacing(options.spacing);
  const given = options.recipe === undefined ? null : await readRecipe(options.recipe);
  const asItLies = await openReading(
    source,
    given
      ? sourceReading(given)
      : {
          ...(options.partial ? { partial: true } : {}),
          mesh: {
            ...(options.up === undefined ? {} : { up: upAxis(options.up) }),
            ...(asked === null ? {} : { spacing: asked }),
          },
        },
  );
  const { arrangement } = asItLies;
  const recipe = given ?? withAsked(freshRecipe(asItLies, source.name || 'source'), asItLies.info, options, asked);
  const chain = planChain(recipe, asItLies.info);
  if (chain.refusal) throw chain.refusal.error;
  const opened = openEntering(asItLies, chain).shown;
  const { info } = opened;
  const { width, height } = info;
  // what samples stand for is said by the recipe, or by the file as it lies
  const { unit, offset } = given
    ? trueCalibration(given.source.heights, chain.entering.ends)
    : (metresOfStored(asItLies.info) ?? { unit: 1 / (asItLies.info.stretched ?? 1), offset: 0 });
  // read as squares, which follow the way north
  const ground = groundSpacing(info);
  const spacing = asked ?? (given ? chain.entering.spacing : (ground?.north ?? null));
  const out = fromCaller(options.out);
  const folder = await DiskFolder.open(path.dirname(out), {
    sources: files.map(fromCaller),
    replace: true,
  });
  const forget = onExit(() => folder.abortNow());
  let voids = 0;
  let [min, max] = [Infinity, -Infinity];
  try {
    await withProgress('Reading', async (job) => {
      await folder.prepare([path.basename(out)]);
      const sink = await folder.open(path.basename(out));
      // one band is written while the next one is read
      let writing = Promise.resolve();
      for await (const { y, rows, data } of opened.bands(job)) {
        checkpoint(job);
        const heights = new Float32Array(data.length);
        const seen = inMetres(data, heights, offset, unit);
        voids += seen.voids;
        min = Math.min(min, seen.min);
        max = Math.max(max, seen.max);
        const bytes = new Uint8Array(heights.buffer);
        if (!HOST_IS_LITTLE) swapBytes(bytes, 4);
        await writing;
        writing = sink.write(bytes);
        // its fault is told by whoever waits for it next
        writing.catch(() => undefined);
        job.report?.(y + rows, height);
      }
      await writing;
      await sink.close();
      await source.unchanged?.();
      await folder.commit();
    });
  } finally {
    await folder.abort();
    forget();
  }
  const said: readonly RasterWarning[] = factsOf(source.name, asItLies, null).warnings.filter(
    (w) => !(w.code === 'degrees' && chain.entering.metric),
  );
  const warnings = [
    ...said.map(({ code, message }) => ({ code, message })),
    ...refused.map((message) => ({ code: 'structure', message })),
    ...(unit !== 1 && maybeOfSamples(asItLies.info, { min, max })
      ? [
          {
            code: 'noted',
            message: `The samples run from ${min} to ${max} and not over all codes: what ${asItLies.info.noted?.from ?? 'the note'} says may be meant of the lowest and the highest sample; it was taken for code 0 and the highest.`,
          },
        ]
      : []),
  ];
  const { noted } = asItLies.info;
  return {
    json: {
      width,
      height,
      spacing,
      ground,
      noData: { count: voids },
      crs: info.georeference?.crs ?? null,
      edges: arrangement?.edges ?? null,
      seams: (arrangement?.between ?? []).map(({ parts: between, largest }) => ({
        between,
        maxDifference: largest * unit,
      })),
      missing: arrangement?.missing ?? [],
      ...(noted ? { noted } : {}),
      overhangs: { count: info.mesh?.overhangs ?? 0, at: info.mesh?.overhangAt ?? null },
      ...(arrangement ? { arrangement } : {}),
      warnings,
    },
    text: [
      `${path.basename(out)}: ${width} × ${height} samples${spacing === null ? '' : `, ${formatShort(spacing, 6)} m apart`}, floats of 32 bits, little-endian, rows from the north`,
      ...(chain.entering.metric ? [`square metres in ${info.georeference?.crs ?? ''}`] : []),
      ...(noted ? [`as ${noted.from} says: ${noted.lines.map((l) => `“${l}”`).join(' ')}`] : []),
      ...(arrangement ? [arrangementText(arrangement, unit)] : []),
      ...(voids > 0 ? [`${voids} voids`] : []),
      ...warnings.map((w) => `◧ ${w.message}`),
    ].join('\n'),
    fine: true,
  };
}

/** Samples as offset + sample · unit, rounded to 32 bits; how many are voids, and the ends of the others. */
function inMetres(
  samples: StoredSamples,
  into: Float32Array,
  offset: number,
  unit: number,
): { voids: number; min: number; max: number } {
  let voids = 0;
  let [min, max] = [Infinity, -Infinity];
  // a loop of its own: among whole numbers there are no voids, and it takes two thirds of the time
  if (!(samples instanceof Float32Array || samples instanceof Float64Array)) {
    for (let i = 0; i < samples.length; i++) {
      const value = samples[i]!;
      if (value < min) min = value;
      if (value > max) max = value;
      into[i] = offset + value * unit;
    }
    return { voids, min, max };
  }
  for (let i = 0; i < samples.length; i++) {
    const value = samples[i]!;
    if (value - value !== 0) {
      voids++;
      into[i] = NaN;
      continue;
    }
    if (value < min) min = value;
    if (value > max) max = value;
    into[i] = offset + value * unit;
  }
  return { voids, min, max };
}

/** The steps that are asked for: seams blended, and degrees made metric unless they shall stay as they lie. */
function withAsked(
  recipe: Recipe,
  info: RasterInfo,
  { blend, asIs }: { readonly blend?: string; readonly asIs?: boolean },
  spacing: number | null,
): Recipe {
  const blended = blend === undefined ? recipe : withBlend(recipe, blendOver(blend));
  const proposed = asIs ? null : proposedSquares(info);
  if (!proposed) return blended;
  return madeMetric(blended, spacing === null ? proposed : { ...proposed, spacing });
}

/** How several files were put together. */
function arrangementText({ parts, by, rows, edges, seams, missing }: Arrangement, unit: number): string {
  const metres = (stored: number): string => formatShort(stored * unit);
  const how =
    by === 'ground' ? 'placed by their coordinates' : `placed by their names, rows from the ${rows ?? 'north'}`;
  return `${parts.length} files, ${how}, edges ${edges}; across ${seams.seams} seams they differ by ${metres(seams.mean)} on the average, ${metres(seams.largest)} at most (neighbours by ${metres(seams.usual)})${missing.length > 0 ? `; no file for ${missing.map((m) => `column ${m.column}, row ${m.row}`).join('; ')}` : ''}`;
}

/** A height file of an archive, by its path inside; where it holds only one, that one. Any other file is itself. */
async function memberOf(
  source: ByteSource,
  member: string | undefined,
  refuse: (archive: string, entry: string) => void,
): Promise<ByteSource> {
  if (!(await isZip(source))) return source;
  const archive = heightsOfZip(await source.read(0, source.size), source.name, member);
  archive.refused.forEach((entry) => refuse(source.name, entry));
  const files = archivedSources(archive);
  const [first, second] = files.values();
  if (first && !second) return first;
  throw new LevelGridError('usage', {
    file: source.name,
    found: `${files.size} height files in the archive`,
    expected: 'the one that is wanted',
    remedy: `Name it: --member ${[...files.keys()][0] ?? 'NAME'}`,
  });
}

function blendOver(text: string): number {
  const value = Number(text);
  if (Number.isInteger(value) && value >= 1 && value <= 4096) return value;
  throw new LevelGridError('usage', {
    found: `"${text}" as samples to blend seams over`,
    expected: 'a whole number from 1 to 4096',
    remedy: 'Example: --blend 32',
  });
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
