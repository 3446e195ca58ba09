import { partOf, type JobContext } from '../base';
import type { Recipe } from '../recipe';
import { decoderFor } from './decoders';
import { ErrorMeter, LineFit } from './error-meter';
import { byMaking, causesOf, withoutFollowing } from './causes';
import { checkFiles } from './pack-files';
import { documentCheck, editionCheck, openReference, reprintCheck, type Reference } from './pipeline';
import { readDocuments, recipeCheck } from './documents';
import { readAll } from './read-all';
import { placeholderCheck, planFaults, toldCheck } from './said';
import { trustedOf } from './trusted';
import { readingCheck, sourceFilesCheck } from './source-steps';
import {
  checkFileList,
  checkGrid,
  checkTarget,
  factsOfTarget,
  layersOf,
  checkPrinted,
  checkPlacement,
  checkSpots,
  endsOf,
  expectedCard,
  expectedGrid,
  expectedHeights,
  TIE,
  type ExpectedGrid,
  type ExpectedHeights,
  type Page,
  type SourceFacts,
} from './twin';
import type { Findings, Proof, ProofCheck, ProofInput, ProofMaps } from './types';
import { typedValues, valueChecks } from './values';
import { heightCheck, seamCheck, spotCheck, spotMeter, spotProofs } from './verdicts';

/**
 * Reads a pack back as the target would, with the values that are typed in, and compares it with what must be there:
 * files, values, placement and check spots, worked out from recipe and source alone; the ground, worked out a second
 * time in each row and each column at least once; and all samples, compared with the pipeline. Streams; holds a row of
 * each open tile.
 */
export async function prove(input: ProofInput, job?: JobContext): Promise<{ proof: Proof; maps: ProofMaps | null }> {
  const given = await givenBy(input, job);
  const { page, recipe, reference, facts } = given;
  const claimed = claimedBy(given);
  const { causes, list, sizes } = claimed;
  const findings: Findings = {
    checks: given.checks,
    meter: new ErrorMeter(),
    line: new LineFit(),
    seamsCompared: 0,
    seamsDifferent: 0,
  };
  findings.checks.push(
    ...causes,
    list,
    sizes,
    ...checkTarget(given.recipe, given.grid),
    checkPlacement(page, given.grid),
  );
  findings.checks.push(...recipeCheck(page, recipe, given.current));
  const fits = list.state === 'holds' && sizes.state === 'holds' && !claimed.unlike;
  const { decoder, values } = given;
  const read =
    given.files.readable && fits
      ? await readAll(
          { ...given, ...claimed, files: given.files.sources },
          { decoder, values, maps: input.maps === true },
          findings,
          job,
        )
      : null;
  const heights = read?.heights ?? claimed.claimed;
  checkPages(given, claimed, findings.checks, heights, read);
  const wrong = checkValues(given, claimed, findings.checks, heights, read);
  const ground = checkGround(given, claimed, findings, heights, read, wrong);
  findings.checks.push(...readingNotes(given));
  const trusted = trustedOf(recipe, reference);
  if (given.worded && reference && Object.keys(input.typed ?? {}).length === 0)
    findings.checks.push(...toldCheck(given.pages, { checks: byMaking(findings.checks), trusted }, reference.file));
  const tally = read?.pipeline?.tally ?? null;
  return {
    proof: {
      holds: findings.checks.every((c) => c.state !== 'fault'),
      compared: reference ? 'source' : 'page',
      draft: page.draft,
      step: heights.step,
      encodingError: ground.encodingError,
      groundError: read?.groundError ?? null,
      clipped: tally ? { low: tally.below, high: tally.above } : null,
      places: read?.places ?? null,
      differentSamples: read?.differentSamples ?? null,
      checks: byMaking(withoutFollowing(findings.checks, claimed.explained)),
      trusted,
      wrongValues: wrong,
      spots: ground.spots,
      unit: factsOfTarget(recipe.target).unitName,
      seams: { compared: findings.seamsCompared, different: findings.seamsDifferent },
      rim: reference ? rimOf(recipe, given.grid, facts) : null,
    },
    maps: read?.maps ?? null,
  };
}

type Read = Awaited<ReturnType<typeof readAll>>;

/** What a proof has to go by: the pack's own documents and files, and the source where there is one. */
async function givenBy(input: ProofInput, job?: JobContext) {
  const { page, written, recipe, text, pages, current } = await readDocuments(input);
  const edition = editionCheck(page.edition);
  const checks: ProofCheck[] = [];
  const values = typedValues(page, input.typed ?? {});
  const decoder = decoderFor(recipe, values);
  const files = await checkFiles(input, page, checks, partOf(job, 0, 0.15));
  const reference = input.reference ? await openReference(input.reference, recipe, partOf(job, 0.15, 0.3)) : null;
  if (reference) checks.push(readingCheck(recipe, reference.opened.reading));
  checks.push(...sourceFilesCheck(recipe, (await reference?.opened.sums?.()) ?? null));
  const facts = factsOf(page, recipe, reference);
  return {
    page,
    written,
    recipe,
    text,
    pages,
    current,
    edition,
    // words can be compared where the same edition has written them
    worded: current && edition.length === 0,
    checks,
    values,
    decoder,
    files,
    reference,
    facts,
    grid: expectedGrid(recipe, facts),
  };
}
type Given = Awaited<ReturnType<typeof givenBy>>;

/** What the page says that the heights rest on: taken as it says it, and held against the source when that has been read. */
function claimedBy({ page, recipe, reference, facts, grid }: Given) {
  const claims = claimsOf(recipe, page, codesOf(page, reference));
  const info = reference?.opened.info;
  const source = info ? { ...info, ...codesOf(page, reference) } : page.source;
  const { checks: causes, explained, unlike } = causesOf(page, recipe, { source, entering: facts }, claims);
  return {
    claims,
    claimed: expectedHeights(recipe, claims),
    source,
    causes,
    explained,
    unlike,
    list: checkFileList(page, recipe, grid),
    sizes: checkGrid(page, recipe, grid, { source, entering: facts }, explained),
  };
}
type Claimed = ReturnType<typeof claimedBy>;

/** The pages for people: their numbers, words and picture. */
function checkPages(
  { page, pages, recipe, grid, worded, current, edition, written, text }: Given,
  { causes, explained, source }: Claimed,
  checks: ProofCheck[],
  heights: ExpectedHeights,
  read: Read | null,
): void {
  const told = worded
    ? {
        recipe,
        grid,
        // what only follows from a cause is not told of the pages
        heights: explained.has('heights') ? { ...heights, zero: page.height.zero } : heights,
        source: explained.has('ground') ? page.source : source,
        map: page.map,
      }
    : null;
  checks.push(...checkPrinted(page, pages, told, current), ...(current ? edition : []));
  // slopes are drawn by the spacing and the step of the recipe: with others the picture is another one
  const picture = causes.length === 0 ? (read?.pipeline?.picture() ?? null) : null;
  if (worded) checks.push(...reprintCheck(written, text, picture));
}

/** The card's values; the ids of those that are wrong. */
function checkValues(
  { page, values, recipe, facts, grid, decoder }: Given,
  { explained }: Claimed,
  checks: ProofCheck[],
  heights: ExpectedHeights,
  read: Read | null,
): readonly string[] {
  const card = expectedCard(recipe, facts, grid, heights, read?.pipeline != null);
  const { wrong, found } = valueChecks(page, values, card, decoder, grid, explained);
  checks.push(...found);
  return wrong;
}

/** What the typed values make of the codes: all samples against the fitted ground, or the spots of the page. */
function checkGround(
  { page, recipe, written, grid, decoder, worded }: Given,
  { causes, explained }: Claimed,
  findings: Findings,
  heights: ExpectedHeights,
  read: Read | null,
  wrong: readonly string[],
): Pick<Proof, 'encodingError' | 'spots'> {
  const { checks } = findings;
  const budget = budgetOf(page, recipe, heights);
  const limit = budget.halfStep + budget.typing + budget.arithmetic;
  const spots = spotProofs(page, read?.spotCodes ?? new Map(), (code) => decoder.heightOf(code), heights, grid.unit);
  const meter = read?.pipeline ? findings.meter : spotMeter(spots);
  const figures = meter.figures();
  const labels = wrong.map((id) => labelOf(page, id));
  if (read) checks.push(heightCheck(figures, limit, budget, findings, labels));
  const made = read?.pipeline?.document() ?? null;
  if (made && worded && causes.length === 0) checks.push(documentCheck(written, made));
  checks.push(...planFaults(made?.checks ?? page.checks));
  checks.push(checkSpots(page, grid, heights, read?.spotGround ?? null, explained), ...spotCheck(spots, limit));
  if (page.files.length > 1 && page.tiles.edges === 'shared' && read) checks.push(seamCheck(findings));
  const against = read?.pipeline ? 'fitted ground' : 'check spots';
  return { encodingError: { ...figures, budget, samples: meter.samples, against }, spots };
}

/** What a reader should know of this proof. */
function readingNotes({ page, recipe, reference }: Given): ProofCheck[] {
  const notes: ProofCheck[] = [];
  if (!reference)
    notes.push({
      id: 'compared',
      step: 'source',
      state: 'note',
      message: 'Held against its own page only: the ground was not compared, since no source was given.',
    });
  notes.push(...placeholderCheck(recipe));
  if (page.draft !== null)
    notes.push({
      id: 'draft',
      step: 'output',
      state: 'note',
      message: `A draft on ${page.draft} vertices: it says nothing of the full pack.`,
    });
  return notes;
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
function budgetOf(
  page: Page,
  recipe: Recipe,
  { as, step, fine, low, high, zero }: ExpectedHeights,
): Proof['encodingError']['budget'] {
  const rounding = (id: string): number => {
    const row = page.card.find((r) => r.id === id);
    return row ? 0.5 * 10 ** -row.digits : 0;
  };
  const { heights: kind, unit } = factsOfTarget(recipe.target);
  const typing =
    kind.kind === 'centred'
      ? ((kind.middle / kind.perUnit) * rounding('heightScale') + rounding('heightOffset')) * unit
      : ['heightRange', 'topOfRange', 'baseElevation', 'highestElevation'].reduce((sum, id) => sum + rounding(id), 0);
  // a block is as near to its ground as half of it is tall
  const layers = layersOf(kind, recipe);
  const block = layers ? (high - low) / (layers.top - layers.bottom) : 0;
  const reach = Math.max(Math.abs(low - zero), Math.abs(high - zero), Math.abs(low), Math.abs(high));
  return {
    halfStep: step / 2 + block / 2,
    typing: as === 'metres' ? 0 : Math.min(typing, fine / 10),
    arithmetic: Math.min(fine / 10, TIE * step + reach * 2 ** -48),
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
