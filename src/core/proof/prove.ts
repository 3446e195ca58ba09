import { asLevelGridError, partOf, type ByteSource, type JobContext } from '../base';
import type { Recipe } from '../recipe';
import { compareFiles, type Seen } from './compare-files';
import { decoderFor } from './decoders';
import { ErrorMap, ErrorMeter, LineFit, type ErrorFigures } from './error-meter';
import { orientationChecks } from './orientation';
import { checkFiles } from './pack-files';
import {
  documentCheck,
  editionCheck,
  openPipeline,
  openReference,
  reprintCheck,
  type Pipeline,
  type Reference,
} from './pipeline';
import { readDocuments, recipeCheck } from './documents';
import { placeholderCheck, planFaults, toldCheck } from './said';
import { asItLiesCheck, extremesCheck, meshChecks, sizeCheck, sourceCheck } from './source-checks';
import { trustedOf } from './trusted';
import { readingCheck, sourceFilesCheck, stepChecks } from './source-steps';
import {
  checkFileList,
  checkGrid,
  checkHeights,
  checkPrinted,
  checkPlacement,
  checkSpots,
  elevationOf,
  endsOf,
  expectedCard,
  expectedGrid,
  expectedHeights,
  LEAST_PLACES,
  MOST_PLACES,
  placesOf,
  seedOf,
  readGround,
  TIE,
  unitNameOf,
  workOutSteps,
  type ExpectedGrid,
  type ExpectedHeights,
  type Page,
  type Place,
  type SourceFacts,
  type SourceReading,
} from './twin';
import type { Findings, Proof, ProofCheck, ProofInput, ProofMaps } from './types';
import { typedValues, valueChecks } from './values';
import {
  clippedCheck,
  heightCheck,
  placeChecks,
  sampleCheck,
  seamCheck,
  spotCheck,
  spotMeter,
  spotProofs,
} from './verdicts';

/**
 * Reads a pack back as the target would, with the values that are typed in, and compares it with what must be there:
 * files, values, placement and check spots, worked out from recipe and source alone; the ground, worked out a second
 * time in each row and each column at least once; and all samples, compared with the pipeline. Streams; holds a row of
 * each open tile.
 */
export async function prove(input: ProofInput, job?: JobContext): Promise<{ proof: Proof; maps: ProofMaps | null }> {
  const { page, written, recipe, text, pages, current } = await readDocuments(input);
  // words can be compared where the same edition has written them
  const edition = editionCheck(page.edition);
  const worded = current && edition.length === 0;
  const checks: ProofCheck[] = [];
  const values = typedValues(page, input.typed ?? {});
  const decoder = decoderFor(page.target, values);
  const files = await checkFiles(input, page, checks, partOf(job, 0, 0.15));
  const reference = input.reference ? await openReference(input.reference, recipe, partOf(job, 0.15, 0.3)) : null;
  if (reference) checks.push(readingCheck(recipe, reference.opened.reading));
  checks.push(...sourceFilesCheck(recipe, (await reference?.opened.sums?.()) ?? null));
  const facts = factsOf(page, recipe, reference);
  const grid = expectedGrid(recipe, facts);
  // what the heights rest on is first taken as the page says it, and held against the source when that has been read
  const claims = claimsOf(recipe, page, codesOf(page, reference));
  const claimed = expectedHeights(recipe, claims);
  const list = checkFileList(page, recipe, grid);
  const info = reference?.opened.info;
  const source = info ? { ...info, ...codesOf(page, reference) } : page.source;
  const sizes = checkGrid(page, recipe, grid, { source, entering: facts });
  checks.push(list, sizes, checkPlacement(page, grid), ...recipeCheck(page, recipe, current));
  const told = worded ? { recipe, grid, heights: claimed, source } : null;
  checks.push(...checkPrinted(page, pages, told, current), ...(current ? edition : []));
  if (worded) checks.push(...reprintCheck(written, text));
  const { wrong, found } = valueChecks(page, values, expectedCard(recipe, facts, grid, claimed), decoder, grid);
  checks.push(...found);
  const budget = budgetOf(page, claimed);
  const limit = budget.halfStep + budget.typing + budget.arithmetic;
  const findings: Findings = {
    checks,
    meter: new ErrorMeter(),
    line: new LineFit(),
    seamsCompared: 0,
    seamsDifferent: 0,
  };

  const readable = files.readable && list.state === 'holds' && sizes.state === 'holds';
  const read = readable
    ? await readAll(
        input,
        { page, recipe, grid, facts, claims, claimed, reference, files: files.sources },
        decoder,
        values,
        findings,
        job,
      )
    : null;
  const heights = read?.heights ?? claimed;
  const spots = spotProofs(page, read?.spotCodes ?? new Map(), (code) => decoder.heightOf(code), heights);
  const meter = read?.pipeline ? findings.meter : spotMeter(spots);
  const figures = meter.figures();
  if (read)
    checks.push(
      heightCheck(
        figures,
        limit,
        budget,
        findings,
        wrong.map((id) => labelOf(page, id)),
      ),
    );
  const made = read?.pipeline?.document() ?? null;
  if (made && worded) checks.push(documentCheck(written, made));
  checks.push(...planFaults(made?.checks ?? page.checks));
  checks.push(checkSpots(page, grid, heights, read?.spotGround ?? null), ...spotCheck(spots, limit));
  if (page.files.length > 1 && page.tiles.edges === 'shared' && read) checks.push(seamCheck(findings));
  if (!reference)
    checks.push({
      id: 'compared',
      step: 'source',
      state: 'note',
      message: 'Held against its own page only: the ground was not compared, since no source was given.',
    });
  checks.push(...placeholderCheck(recipe));
  if (page.draft !== null)
    checks.push({
      id: 'draft',
      step: 'output',
      state: 'note',
      message: `A draft on ${page.draft} vertices: it says nothing of the full pack.`,
    });
  const tally = read?.pipeline?.tally ?? null;
  const compared = reference ? 'source' : 'page';
  const typedApart = Object.keys(input.typed ?? {}).length > 0;
  const trusted = trustedOf(recipe, reference);
  if (worded && reference && !typedApart) checks.push(...toldCheck(pages, { checks, trusted }, reference.file));
  return {
    proof: {
      holds: checks.every((c) => c.state !== 'fault'),
      compared,
      draft: page.draft,
      step: heights.step,
      encodingError: {
        ...figures,
        budget,
        samples: meter.samples,
        against: read?.pipeline ? 'fitted ground' : 'check spots',
      },
      groundError: read?.groundError ?? null,
      clipped: tally ? { low: tally.below, high: tally.above } : null,
      places: read?.places ?? null,
      differentSamples: read?.differentSamples ?? null,
      checks,
      trusted,
      wrongValues: wrong,
      spots,
      unit: unitNameOf(page.target),
      seams: { compared: findings.seamsCompared, different: findings.seamsDifferent },
      rim: reference ? rimOf(recipe, grid, facts) : null,
    },
    maps: read?.maps ?? null,
  };
}

const labelOf = (page: Page, id: string): string => page.card.find((r) => r.id === id)?.label ?? id;

/** What is known of the ground that is fitted: from the source itself, or else as the page says. */
function factsOf(page: Page, recipe: Recipe, reference: Reference | null): SourceFacts {
  const { file, assumed: _, ...asItLies } = page.source;
  if (!reference) return { file, spacing: recipe.source.spacing, ...(page.entering ?? asItLies) };
  const { width, height, bitDepth, sampleType } = reference.entered.shown.info;
  return { file: reference.file, width, height, bitDepth, sampleType, spacing: reference.spacing };
}

/** Depth and type of the codes in the files of the source. */
function codesOf(page: Page, reference: Reference | null): Pick<SourceFacts, 'bitDepth' | 'sampleType'> {
  const info = reference?.opened.info;
  return info ? (info.own ?? info) : page.source;
}

function claimsOf(
  recipe: Recipe,
  page: Page,
  codes: Pick<SourceFacts, 'bitDepth' | 'sampleType'>,
): Parameters<typeof expectedHeights>[1] {
  const { bitDepth, sampleType } = endsOf(recipe, codes);
  const { min, max } = page.entering ?? page.source;
  return {
    bitDepth,
    sampleType,
    min: min ?? 0,
    max: max ?? 0,
    groundLow: page.height.groundLow ?? page.height.low,
    groundHigh: page.height.groundHigh ?? page.height.high,
  };
}

/**
 * Half a step of rounding, what the digits of the card lose, and what arithmetic may: codes may be off by a hundredth
 * of a step about the middle of two, and doubles by their last bits.
 */
function budgetOf(page: Page, { step, low, high, zero }: ExpectedHeights): Proof['encodingError']['budget'] {
  const rounding = (id: string): number => {
    const row = page.card.find((r) => r.id === id);
    return row ? 0.5 * 10 ** -row.digits : 0;
  };
  const typing =
    page.target === 'component-grid'
      ? (256 * rounding('heightScale') + rounding('heightOffset')) / 100
      : rounding('heightRange') + rounding('baseElevation');
  const reach = Math.max(Math.abs(low - zero), Math.abs(high - zero), Math.abs(low), Math.abs(high));
  return {
    halfStep: step / 2,
    typing: Math.min(typing, step / 10),
    arithmetic: Math.min(step / 10, TIE * step + reach * 2 ** -48),
  };
}

/** Most samples that are weighed for all places together. */
const MOST_WORK = 1.5e8;

/** How many vertices can be worked out one by one: each takes as many samples as its kernel covers. */
function affordable(recipe: Recipe, grid: ExpectedGrid, facts: SourceFacts): number {
  if (recipe.fit.method !== 'resample') return MOST_PLACES;
  const taps = (n: number, m: number): number => 6 * Math.max(1, (n - 1) / Math.max(1, m - 1));
  const each = taps(facts.width, grid.width) * taps(facts.height, grid.height);
  return Math.max(Math.min(LEAST_PLACES, grid.width + grid.height), Math.floor(MOST_WORK / each));
}

interface Whole {
  readonly page: Page;
  readonly recipe: Recipe;
  readonly grid: ExpectedGrid;
  readonly facts: SourceFacts;
  readonly claims: Parameters<typeof expectedHeights>[1];
  readonly claimed: ExpectedHeights;
  readonly reference: Reference | null;
  readonly files: readonly ByteSource[];
}

interface ReadAll {
  readonly heights: ExpectedHeights;
  readonly pipeline: Pipeline | null;
  readonly groundError: ErrorFigures | null;
  readonly places: Proof['places'];
  readonly differentSamples: number | null;
  readonly spotCodes: ReadonlyMap<string, number>;
  readonly spotGround: SourceReading['values'] | null;
  readonly maps: ProofMaps | null;
}

/** Reads all files and, where there is a source, the source: what is found goes into the checks. */
async function readAll(
  input: ProofInput,
  whole: Whole,
  decoder: ReturnType<typeof decoderFor>,
  values: ReadonlyMap<string, number | string>,
  findings: Findings,
  job: JobContext | undefined,
): Promise<ReadAll | null> {
  const { page, recipe, grid, facts, claimed, reference, files } = whole;
  const { checks } = findings;
  const { width, height } = page.fit;
  const mapped =
    input.maps && reference ? { encoding: new ErrorMap(width, height), ground: new ErrorMap(width, height) } : null;
  let pipeline: Pipeline | null = null;
  if (reference) {
    const opened = await openPipeline(
      recipe,
      reference,
      { unit: claimed.unit, map: mapped?.ground ?? null },
      partOf(job, 0.3, 0.45),
    );
    if ('refusal' in opened) {
      checks.push({
        id: 'recipe',
        step: 'output',
        state: 'fault',
        message: `The recipe can’t be made from this source: ${opened.refusal.message}`,
      });
      return null;
    }
    pipeline = opened;
  }
  const spots = page.spots.map(({ x, y }): Place => ({ x, y }));
  const seed = seedOf(page.files.map((f) => f.sha256 ?? f.name));
  const most = affordable(recipe, grid, facts);
  const places = placesOf(grid, facts, reference ? spots : [], seed);
  const telling = places.length < grid.width * grid.height && places.length + grid.width + grid.height <= MOST_PLACES;
  // each row and column comes first
  const kept = [...spots, ...(reference ? places.slice(0, Math.max(0, most - spots.length)) : [])];
  let seen: Seen;
  try {
    seen = await compareFiles(
      {
        page,
        sources: files,
        decoder,
        reading: readingOf(values),
        heights: claimed,
        pipeline,
        map: mapped?.encoding ?? null,
        places: kept,
        extremes: reference !== null && recipe.height.range === 'ground',
        telling: reference && telling && kept.length + grid.width + grid.height <= most ? seed + 2 : null,
      },
      findings,
      partOf(job, 0.45, 0.9),
    );
  } catch (reason) {
    const fault = unreadable(reason);
    if (!fault) throw reason;
    checks.push(fault);
    return null;
  }
  const spotCodes = new Map<string, number>();
  page.spots.forEach((spot, i) => {
    const code = seen.codes[i]?.find((f) => f.file === spot.file)?.code;
    if (code !== undefined) spotCodes.set(spot.id, code);
  });
  const bare = { spotCodes, pipeline, heights: claimed };
  if (!reference || !pipeline) {
    checks.push(checkHeights(page, claimed));
    return { ...bare, groundError: null, places: null, differentSamples: null, spotGround: null, maps: null };
  }

  const twin = await workOutAgain(whole, reference, kept, seen, checks, partOf(job, 0.9, 1));
  const samples = files.reduce((sum, _, i) => sum + page.files[i]!.width * page.files[i]!.height, 0);
  const all = sampleCheck(seen, page, samples);
  checks.push(all.check);
  const names = page.files.map((f) => f.name);
  checks.push(
    ...orientationChecks(
      seen.sparse,
      names,
      seen.differing.map((d) => d.index),
    ),
  );
  checks.push(clippedCheck(pipeline.tally.below, pipeline.tally.above, width * height, page.height.clipped));
  if (pipeline.tally.voids > 0)
    checks.push({
      id: 'voids',
      step: 'fit',
      state: 'fault',
      message: `${pipeline.tally.voids} vertices without a height were written as if they had one.`,
    });
  const groundError = pipeline.groundError();
  return {
    ...bare,
    heights: twin.heights,
    groundError,
    places: { compared: twin.compared, different: twin.different, left: twin.left },
    differentSamples: all.different,
    spotGround: twin.values.slice(0, spots.length),
    maps: mapped && {
      columns: mapped.encoding.columns,
      rows: mapped.encoding.rows,
      encoding: mapped.encoding.cells,
      ground: mapped.ground.cells,
      worst: { encoding: mapped.encoding.worst(), ground: mapped.ground.worst() },
    },
  };
}

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

/** Places that were projected in two ways lie apart by so many samples at most; a sample further lies no more than the whole range. */
const OF_PLACES = 1e-8;

/** The slow twin: the ground at single vertices, from the source's samples. */
async function workOutAgain(
  { page, recipe, grid, facts, claims }: Whole,
  { opened, stageAfter }: Reference,
  kept: readonly Place[],
  seen: Seen,
  checks: ProofCheck[],
  job: JobContext,
): Promise<{
  heights: ExpectedHeights;
  values: SourceReading['values'];
  compared: number;
  different: number;
  left: { rows: number; columns: number };
}> {
  const judged = [...kept, ...seen.telling.map((t) => t.place)];
  const places = [...judged, ...seen.extremes];
  const witnessOf = (index: number): NonNullable<ReturnType<typeof stageAfter>> => stageAfter(index) ?? opened;
  const ground = await workOutSteps(opened, recipe, witnessOf, partOf(job, 0, 0.3));
  const reading = await readGround(ground.stage, facts, recipe, grid, places, partOf(job, 0.3, 1));
  checks.push(sizeCheck(page, facts, ground.stage), sourceCheck(page, reading, recipe));
  checks.push(...(await asItLiesCheck(page, opened, recipe, job)));
  checks.push(...stepChecks(recipe, page, ground.steps));
  checks.push(...(await meshChecks(opened, recipe, job)));
  const [min, max] = [reading.min ?? 0, reading.max ?? 0];
  const worked = expectedHeights(recipe, { ...claims, min, max });
  const heights = ground.stage.deferred
    ? { ...worked, loose: OF_PLACES * Math.abs(worked.unit) * (max - min) }
    : worked;
  const elevations = reading.values.map((v) => elevationOf(v, heights)).filter((e) => e !== null);
  const low = elevations.reduce((a, b) => Math.min(a, b), Infinity);
  const high = elevations.reduce((a, b) => Math.max(a, b), -Infinity);
  checks.push(extremesCheck(page, heights, low, high, recipe.height.range === 'ground'), checkHeights(page, heights));
  const codes = [...seen.codes, ...seen.telling.map((t) => [t.code])];
  const left = {
    rows: grid.height - new Set(judged.map((p) => p.y)).size,
    columns: grid.width - new Set(judged.map((p) => p.x)).size,
  };
  const found = placeChecks(judged, reading.values, codes, heights, left);
  checks.push(...found.checks);
  return { heights, values: reading.values, compared: judged.length, different: found.different, left };
}

/** Vertices on each side that no source sample reaches. */
function rimOf(recipe: Recipe, grid: ExpectedGrid, facts: SourceFacts): Proof['rim'] {
  const side = (n: number, most: number): number => Math.min(most, Math.max(0, n));
  const { startX, startY, width, height } = grid;
  if (recipe.fit.method === 'resample') return { west: 0, east: 0, north: 0, south: 0 };
  return {
    west: side(-startX, width),
    north: side(-startY, height),
    east: side(startX + width - facts.width, width),
    south: side(startY + height - facts.height, height),
  };
}
