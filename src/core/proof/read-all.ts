import { asLevelGridError, partOf, type ByteSource, type JobContext } from '../base';
import { groundAgain, looksAt, looksWithout, workOutAgain, type Looks, type Made } from './again';
import { compareFiles, type Seen } from './compare-files';
import type { Recipe } from '../recipe';
import type { decoderFor } from './decoders';
import { ErrorMap, type ErrorFigures } from './error-meter';
import { orientationChecks } from './orientation';
import { openPipeline, type Pipeline, type Reference } from './pipeline';
import { checkHeights, checkOnMap, expectedOnMap, type ExpectedHeights, type SourceReading } from './twin';
import type { Findings, Proof, ProofCheck, ProofMaps } from './types';
import { clippedCheck, sampleCheck } from './verdicts';

/** A pack whose files can be read, and the source that it is held against. */
export interface Whole extends Made {
  readonly reference: Reference | null;
  readonly files: readonly ByteSource[];
}

/** How the target reads the files, with the values as typed. */
export interface Reading {
  readonly decoder: ReturnType<typeof decoderFor>;
  readonly values: ReadonlyMap<string, number | string>;
  /** Collects the difference view. */
  readonly maps: boolean;
}

export interface ReadAll {
  readonly heights: ExpectedHeights;
  readonly pipeline: Pipeline | null;
  readonly groundError: ErrorFigures | null;
  readonly places: Proof['places'];
  readonly differentSamples: number | null;
  readonly spotCodes: ReadonlyMap<string, number>;
  readonly spotGround: SourceReading['values'] | null;
  readonly maps: ProofMaps | null;
}

/** The difference view while it is collected. */
interface Maps {
  readonly encoding: ErrorMap;
  readonly ground: ErrorMap;
}

/** Reads all files and, where there is a source, the source: what is found goes into the checks; null where it can't be. */
export async function readAll(
  whole: Whole,
  reading: Reading,
  findings: Findings,
  job: JobContext | undefined,
): Promise<ReadAll | null> {
  const { reference } = whole;
  if (reference) return againstSource(whole, reference, reading, findings, job);
  const seen = await readFiles(
    whole,
    reading,
    { pipeline: null, looks: looksWithout(whole.page), map: null },
    findings,
    job,
  );
  if (!seen) return null;
  findings.checks.push(checkHeights(whole.page, whole.claimed));
  findings.checks.push(...(await checkOnMap(whole.page, whole.grid, whole.files, isPacked(whole.recipe), undefined)));
  return {
    heights: whole.claimed,
    pipeline: null,
    groundError: null,
    places: null,
    differentSamples: null,
    spotCodes: spotCodesOf(whole, seen),
    spotGround: null,
    maps: null,
  };
}

async function againstSource(
  whole: Whole,
  reference: Reference,
  reading: Reading,
  findings: Findings,
  job: JobContext | undefined,
): Promise<ReadAll | null> {
  const { page, recipe, claimed, files } = whole;
  const { checks } = findings;
  const { width, height } = page.fit;
  const maps = reading.maps ? { encoding: new ErrorMap(width, height), ground: new ErrorMap(width, height) } : null;
  const pipeline = await openPipeline(
    recipe,
    reference,
    { unit: claimed.unit, map: maps?.ground ?? null },
    partOf(job, 0.3, 0.42),
  );
  if ('refusal' in pipeline) {
    checks.push({
      id: 'recipe',
      step: 'output',
      state: 'fault',
      message: `The recipe can’t be made from this source: ${pipeline.refusal.message}`,
    });
    return null;
  }
  const ground = await groundAgain(reference, recipe, partOf(job, 0.42, 0.45));
  const looks = looksAt(whole, ground);
  const seen = await readFiles(whole, reading, { pipeline, looks, map: maps?.encoding ?? null }, findings, job);
  if (!seen) return null;
  const onMap = ground.onMap && expectedOnMap(ground.onMap, whole.grid, whole.facts);
  checks.push(...(await checkOnMap(page, whole.grid, files, isPacked(recipe), onMap)));
  const again = await workOutAgain(whole, reference, ground, looks, seen, checks, partOf(job, 0.9, 1));
  const samples = files.reduce((sum, _, i) => sum + page.files[i]!.width * page.files[i]!.height, 0);
  const all = sampleCheck(seen, page, samples, claimed.as);
  checks.push(all.check);
  const names = page.files.map((f) => f.name);
  const differing = seen.differing.map((d) => d.index);
  checks.push(...orientationChecks(seen.sparse, names, differing));
  const { below: low, above: high, voids } = pipeline.tally;
  checks.push(clippedCheck({ low, high }, again.beyond, width * height, page.height.clipped));
  if (voids > 0)
    checks.push({
      id: 'voids',
      step: 'fit',
      state: 'fault',
      message: `${voids} vertices without a height were written as if they had one.`,
    });
  return {
    heights: again.heights,
    pipeline,
    groundError: pipeline.groundError(),
    places: again.places,
    differentSamples: all.different,
    spotCodes: spotCodesOf(whole, seen),
    spotGround: again.spotGround,
    maps: maps && mapsOf(maps),
  };
}

/** Reads the files; null where one can't be read, which is a fault of the pack. */
async function readFiles(
  { page, recipe, claimed, files }: Whole,
  { decoder, values }: Reading,
  {
    pipeline,
    looks,
    map,
  }: { readonly pipeline: Pipeline | null; readonly looks: Looks; readonly map: ErrorMap | null },
  findings: Findings,
  job: JobContext | undefined,
): Promise<Seen | null> {
  try {
    return await compareFiles(
      {
        page,
        sources: files,
        decoder,
        reading: readingOf(values),
        heights: claimed,
        pipeline,
        map,
        places: looks.kept,
        extremes: pipeline !== null && recipe.height.range === 'ground',
        telling: looks.telling,
        voidCode: looks.voidCode,
        all: looks.whole !== null,
      },
      findings,
      partOf(job, 0.45, 0.9),
    );
  } catch (reason) {
    const fault = unreadable(reason);
    if (!fault) throw reason;
    findings.checks.push(fault);
    return null;
  }
}

const isPacked = ({ output }: Recipe): boolean => output.compression === 'deflate';

/** The code of each spot in the file that the page names. */
function spotCodesOf({ page }: Whole, seen: Seen): Map<string, number> {
  const codes = new Map<string, number>();
  page.spots.forEach((spot, i) => {
    const code = seen.codes[i]?.find((f) => f.file === spot.file)?.code;
    if (code !== undefined) codes.set(spot.id, code);
  });
  return codes;
}

const mapsOf = ({ encoding, ground }: Maps): ProofMaps => ({
  columns: encoding.columns,
  rows: encoding.rows,
  encoding: encoding.cells,
  ground: ground.cells,
  worst: { encoding: encoding.worst(), ground: ground.worst() },
});

/** How the typed orders have the files read; null where none is typed. */
function readingOf(values: ReadonlyMap<string, number | string>): {
  byteOrder: 'little' | 'big' | null;
  rows: 'north' | 'south' | null;
} {
  const order = values.get('byteOrder');
  const rows = values.get('rowOrder');
  return {
    byteOrder: order === 'little' || order === 'big' ? order : null,
    rows: rows === 'north' || rows === 'south' ? rows : null,
  };
}

/** A file that can't be read is a fault of the pack, not of the proof. */
function unreadable(reason: unknown): ProofCheck | null {
  const error = asLevelGridError(reason, 'reading the pack');
  if (error.code === 'cancelled' || error.code === 'internal') return null;
  return { id: 'files', step: 'output', state: 'fault', message: error.message };
}
