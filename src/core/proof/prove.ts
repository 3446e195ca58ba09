import {
  asLevelGridError,
  formatNumber,
  LevelGridError,
  parseJson,
  partOf,
  type ByteSource,
  type JobContext,
  type JsonKind,
} from '../base';
import { parseRecipe, parseRecipeText, documentError, RECIPE_VERSION, type Recipe } from '../recipe';
import { compareFiles, type Seen } from './compare-files';
import { decoderFor } from './decoders';
import { ErrorMap, ErrorMeter, LineFit, type ErrorFigures } from './error-meter';
import { orientationChecks } from './orientation';
import { checkFiles, MOST_TEXT, readPackText } from './pack-files';
import { documentCheck, openPipeline, openReference, reprintCheck, type Pipeline, type Reference } from './pipeline';
import { proofLines } from './summary';
import { trustedOf } from './trusted';
import { meshCheck, readingCheck, sourceFilesCheck, stepChecks } from './source-steps';
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
  pageSchema,
  LEAST_PLACES,
  MOST_PLACES,
  placesOf,
  seedOf,
  slackAt,
  readGround,
  sourceStage,
  toldOnPages,
  proveMesh,
  TIE,
  unitNameOf,
  workOutSteps,
  type ExpectedGrid,
  type ExpectedHeights,
  type Page,
  type Place,
  type PrintedPages,
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

const PAGE: JsonKind = {
  words: 'pack document',
  code: 'pack-document',
  limits: { length: MOST_TEXT, depth: 24 },
  remedy: 'Make the pack again.',
};

interface Documents {
  readonly page: Page;
  /** import.json as it stands. */
  readonly written: unknown;
  readonly recipe: Recipe;
  readonly printed: PrintedPages;
  /** Written by this version, as its recipe says: all its words can be judged. */
  readonly current: boolean;
}

/** The documents of a pack, read and checked. */
async function readDocuments(input: ProofInput): Promise<Documents> {
  const text = await readPackText(await input.file('import.json'), 'import.json');
  const value = parseJson(text, PAGE, 'import.json');
  if (typeof value === 'object' && value !== null && 'card' in value && !('source' in value)) {
    throw new LevelGridError('pack-document', {
      file: 'import.json',
      found: 'a pack that an earlier Level Grid has written, which does not say enough of its source to be proved',
      expected: 'a pack of this version',
      remedy: 'Make it again: its recipe.json is opened as it is, and gives the same heights.',
    });
  }
  const page = pageSchema.safeParse(value);
  if (!page.success) throw documentError(page.error, 'pack document', 'import.json', value);
  const recipeText = await readPackText(await input.file('recipe.json'), 'recipe.json');
  const recipe = parseRecipeText(recipeText, 'recipe.json');
  const printed = async (name: string): Promise<string | null> => {
    const source = await input.file(name);
    return source ? readPackText(source, name).catch(() => null) : null;
  };
  return {
    page: page.data,
    written: value,
    recipe,
    current: (JSON.parse(recipeText) as { version?: unknown }).version === RECIPE_VERSION,
    printed: { markdown: await printed('import.md'), html: await printed('import.html') },
  };
}

/**
 * Reads a pack back as the target would, with the values that are typed in, and compares it with what must be there:
 * files, values, placement and check spots, worked out from recipe and source alone; the ground, worked out a second
 * time at more than a thousand vertices; and all samples, compared with the pipeline. Streams; holds a row of each
 * open tile.
 */
export async function prove(input: ProofInput, job?: JobContext): Promise<{ proof: Proof; maps: ProofMaps | null }> {
  const { page, written, recipe, printed, current } = await readDocuments(input);
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
  const told = current ? { recipe, grid, heights: claimed, source } : null;
  checks.push(...(await checkPrinted(page, printed, told)), ...(current ? reprintCheck(written, printed) : []));
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
  if (made && current) checks.push(documentCheck(written, made));
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
  if (current && reference && !typedApart) checks.push(...(await toldCheck(printed, checks, reference.file)));
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
      trusted: trustedOf(recipe, reference),
      wrongValues: wrong,
      spots,
      unit: unitNameOf(page.target),
      seams: { compared: findings.seamsCompared, different: findings.seamsDifferent },
      rim: reference ? rimOf(recipe, grid, facts) : null,
    },
    maps: read?.maps ?? null,
  };
}

const PLACEHOLDERS = {
  low: 'the elevation of the lowest code',
  high: 'the elevation of the highest code',
  unit: 'the unit of the heights',
  spacing: 'the distance from sample to sample',
} as const;

/** What the printed pages tell of a proof is what this one has found. */
async function toldCheck(printed: PrintedPages, checks: readonly ProofCheck[], source: string): Promise<ProofCheck[]> {
  // where something else is wrong, it is only to be expected that the pages tell of better days
  const holds = checks.every((c) => c.state !== 'fault');
  if (!holds) return [];
  const found = proofLines({ holds, compared: 'source', checks }, source);
  const pages = await toldOnPages(printed);
  return pages.flatMap(({ file, told }): ProofCheck[] => {
    if (told.length === 0) return [];
    const plain = (line: string): string => line.replace(/[\s\u00a0]+/g, ' ').trim();
    const [, ...lines] = found.map(plain);
    // what holds may be told in more ways than one; what does not may not be kept quiet
    const surplus = told.slice(1).find((line) => !lines.includes(line));
    const quiet = lines.find((line) => !line.startsWith('Holds: ') && !told.includes(line));
    const first = told[0] ?? '';
    const verdict = first.startsWith('The pack holds');
    if (verdict && surplus === undefined && quiet === undefined) return [];
    const what = !verdict ? `“${first}”` : surplus !== undefined ? `“${surplus}”` : `nothing of “${quiet ?? ''}”`;
    return [
      {
        id: 'told',
        step: 'output',
        state: 'fault',
        message: `${file} does not tell what the proof has found: it says ${what}.`,
      },
    ];
  });
}

/** What is wrong with the plan is wrong with the pack, however well its files hold what was planned. */
const planFaults = (found: Page['checks']): ProofCheck[] =>
  found
    .filter((c) => c.state === 'fault')
    .map(({ id, message }) => ({
      id: `plan-${id}`,
      step: 'output',
      state: 'fault',
      message: `Of the plan: ${message}`,
    }));

/** Files may be right to the code and stand for nothing: numbers that nobody has said are named. */
function placeholderCheck({ source: { assumed = [] } }: Recipe): ProofCheck[] {
  if (assumed.length === 0) return [];
  const names = assumed.map((a) => PLACEHOLDERS[a]);
  return [
    {
      id: 'placeholders',
      step: 'source',
      state: 'caution',
      message: `It rests on ${names.length === 1 ? 'a placeholder that nobody has said' : 'placeholders that nobody has said'}: ${names.join(', ')}. Heights and distances are right only if ${names.length === 1 ? 'it is' : 'they are'}.`,
    },
  ];
}

/** The page opens as a project by the recipe in it: there are not two. */
function recipeCheck(page: Page, recipe: Recipe, current: boolean): ProofCheck[] {
  if (page.recipe === undefined && current)
    return [
      {
        id: 'two-recipes',
        step: 'output',
        state: 'fault',
        message: 'import.json does not hold the recipe: it can’t be opened as a project.',
      },
    ];
  if (page.recipe === undefined || same(page.recipe, recipe)) return [];
  return [
    {
      id: 'two-recipes',
      step: 'output',
      state: 'fault',
      message: 'import.json holds another recipe than recipe.json: the values of one may not be those of the other.',
    },
  ];
}

function same(value: unknown, recipe: Recipe): boolean {
  try {
    return JSON.stringify(parseRecipe(value)) === JSON.stringify(recipe);
  } catch {
    return false;
  }
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

/** A mesh against its triangles; a recipe of a mesh whose triangles can't be read is none that is proved. */
async function meshChecks(opened: Reference['opened'], { source }: Recipe, job: JobContext): Promise<ProofCheck[]> {
  if (opened.geometry) return [meshCheck(await proveMesh(opened, await opened.geometry(), source, job))];
  if (!source.mesh) return [];
  return [
    {
      id: 'mesh',
      step: 'source.mesh',
      state: 'fault',
      message: 'The source is no mesh, as the recipe says that it is.',
    },
  ];
}

/** What enters the fit is as large as the steps make it. */
function sizeCheck(page: Page, facts: SourceFacts, { width, height }: { width: number; height: number }): ProofCheck {
  const said = page.entering ?? page.source;
  const same = (s: { width: number; height: number }): boolean => s.width === width && s.height === height;
  return same(facts) && same(said)
    ? { id: 'entering', step: 'steps', state: 'holds', message: `${width} × ${height} samples enter the fit.` }
    : {
        id: 'entering',
        step: 'steps',
        state: 'fault',
        message: `${width} × ${height} samples should enter the fit: the pipeline has ${facts.width} × ${facts.height}, the page says ${said.width} × ${said.height}.`,
      };
}

/** What a page says of the source as it lies, where steps make other values of it: the lowest and highest are looked up. */
async function asItLiesCheck(
  page: Page,
  opened: Reference['opened'],
  recipe: Recipe,
  job: JobContext,
): Promise<ProofCheck[]> {
  if (!page.entering) return [];
  const { source, entering } = page;
  const found = recipe.steps.some((s) => !s.off) ? await endsOfSource(opened, recipe, job) : entering;
  const fine = source.min === found.min && source.max === found.max;
  return fine
    ? []
    : [
        {
          id: 'source',
          step: 'source',
          state: 'fault',
          message: `The page speaks of a source that lies from ${source.min ?? 'none'} to ${source.max ?? 'none'}; it lies from ${found.min ?? 'none'} to ${found.max ?? 'none'}.`,
        },
      ];
}

async function endsOfSource(
  opened: Reference['opened'],
  recipe: Recipe,
  job: JobContext,
): Promise<{ min: number | null; max: number | null }> {
  let [min, max] = [Infinity, -Infinity];
  for await (const { data } of sourceStage(opened, recipe).samples.bands(job))
    for (let i = 0; i < data.length; i++) {
      const value = data[i] as number;
      if (value < min && value > -Infinity) min = value;
      if (value > max && value < Infinity) max = value;
    }
  return min <= max ? { min, max } : { min: null, max: null };
}

/** What values may differ by that were worked out in two ways: the last bits of 32. */
const BITS = 2 ** -21;

/** What the page says of the values that enter the fit, against those that were read. */
function sourceCheck(page: Page, { min, max }: SourceReading, { steps }: Recipe): ProofCheck {
  const source = page.entering ?? page.source;
  // samples that a step has worked out are rounded by it
  const changed = steps.some((s) => !s.off);
  const same = (a: number | null, b: number | null): boolean =>
    a === b || (changed && a !== null && b !== null && Math.abs(a - b) <= BITS * Math.abs(b));
  return same(source.min, min) && same(source.max, max)
    ? {
        id: 'source',
        step: 'source',
        state: 'holds',
        message: `The source holds values from ${min ?? 'none'} to ${max ?? 'none'}, as the page says.`,
      }
    : {
        id: 'source',
        step: 'source',
        state: 'fault',
        message: `The page speaks of a source with values from ${source.min ?? 'none'} to ${source.max ?? 'none'}; this one holds ${min ?? 'none'} to ${max ?? 'none'}.`,
      };
}

/** An elevation with as many digits as the heights have. */
const toBeTold = (elevation: number | null, step: number): string =>
  elevation === null ? 'none' : formatNumber(elevation, Math.min(9, Math.max(2, Math.ceil(1 - Math.log10(step)))));

/**
 * The lowest and highest ground that the page states must be reached by the vertices said to do so, and no vertex that
 * was worked out may lie beyond. Where the range follows the ground, those with the lowest and highest codes are among them.
 */
function extremesCheck(page: Page, heights: ExpectedHeights, low: number, high: number, follows: boolean): ProofCheck {
  const { groundLow, groundHigh } = page.height;
  const fine =
    groundLow !== null &&
    groundHigh !== null &&
    Math.abs(groundLow - low) <= slackAt(low, heights) &&
    Math.abs(groundHigh - high) <= slackAt(high, heights);
  return fine
    ? {
        id: 'extremes',
        step: 'height',
        state: 'holds',
        message: 'Lowest and highest ground lie where the page says, and no vertex beyond them.',
      }
    : {
        id: 'extremes',
        step: 'height',
        state: 'fault',
        message: `The page states ground from ${toBeTold(groundLow, heights.step)} to ${toBeTold(groundHigh, heights.step)} m; found from ${toBeTold(low, heights.step)} to ${toBeTold(high, heights.step)} m${follows ? ', which the height range follows' : ''}.`,
      };
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
