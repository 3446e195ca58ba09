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
  checkPrinted,
  checkPlacement,
  checkSpots,
  endsOf,
  expectedCard,
  expectedGrid,
  expectedHeights,
  TIE,
  unitNameOf,
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
  const { checks: causes, explained, unlike } = causesOf(page, recipe, { source, entering: facts }, claims);
  const sizes = checkGrid(page, recipe, grid, { source, entering: facts }, explained);
  checks.push(...causes, list, sizes, checkPlacement(page, grid), ...recipeCheck(page, recipe, current));
  const findings: Findings = {
    checks,
    meter: new ErrorMeter(),
    line: new LineFit(),
    seamsCompared: 0,
    seamsDifferent: 0,
  };

  const fits = list.state === 'holds' && sizes.state === 'holds' && !unlike;
  const readable = files.readable && fits;
  const read = readable
    ? await readAll(
        { page, recipe, grid, facts, claims, claimed, reference, files: files.sources },
        { decoder, values, maps: input.maps === true },
        findings,
        job,
      )
    : null;
  const heights = read?.heights ?? claimed;
  const told = worded
    ? {
        recipe,
        grid,
        // what only follows from a cause is not told of the pages
        heights: explained.has('heights') ? { ...heights, zero: page.height.zero } : heights,
        source: explained.has('ground') ? page.source : source,
      }
    : null;
  checks.push(...checkPrinted(page, pages, told, current), ...(current ? edition : []));
  // slopes are drawn by the spacing and the step of the recipe: with others the picture is another one
  const picture = causes.length === 0 ? (read?.pipeline?.picture() ?? null) : null;
  if (worded) checks.push(...reprintCheck(written, text, picture));
  const { wrong, found } = valueChecks(
    page,
    values,
    expectedCard(recipe, facts, grid, heights, read?.pipeline != null),
    decoder,
    grid,
    explained,
  );
  checks.push(...found);
  const budget = budgetOf(page, heights);
  const limit = budget.halfStep + budget.typing + budget.arithmetic;
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
  if (made && worded && causes.length === 0) checks.push(documentCheck(written, made));
  checks.push(...planFaults(made?.checks ?? page.checks));
  checks.push(checkSpots(page, grid, heights, read?.spotGround ?? null, explained), ...spotCheck(spots, limit));
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
  if (worded && reference && !typedApart)
    checks.push(...toldCheck(pages, { checks: byMaking(checks), trusted }, reference.file));
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
      checks: byMaking(withoutFollowing(checks, explained)),
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
