import { LevelGridError, partOf, type JobContext } from '../base';
import { plan, planDocumentSchema, type PlanDocument } from '../plan';
import { documentError } from '../recipe';
import { countSource, fittedGround, spanOf } from '../run';
import { groundStatistics } from '../raster';
import { compareFiles } from './compare-files';
import { decoderFor } from './decoders';
import { ErrorMeter, LineFit, type ErrorFigures } from './error-meter';
import { checkFiles } from './pack-files';
import { deriveTruth, type Truth } from './truth';
import type { Findings, Proof, ProofCheck, ProofInput, ProofMaps, SpotProof } from './types';
import { valueChecks } from './values';
import { checkWindows } from './windows';
import { clippedCheck, heightCheck, seamCheck, spotCheck, spotMeter } from './verdicts';

/** Checks `import.json` as it comes from outside. */
export function parsePlanDocument(value: unknown, file: string): PlanDocument {
  const result = planDocumentSchema.safeParse(value);
  if (result.success) return result.data;
  throw documentError(result.error, 'pack document', file);
}

/**
 * Reads the written files back as the target would, with the values that are typed in, and compares with the truth.
 * Streams; holds a row of each open tile.
 */
export async function prove(input: ProofInput, job?: JobContext): Promise<{ proof: Proof; maps: ProofMaps | null }> {
  const { document, recipe, typed = {} } = input;
  const checks: ProofCheck[] = [];
  const values: Record<string, number> = {};
  for (const row of document.card) values[row.id] = row.value;
  for (const [id, value] of Object.entries(typed)) {
    if (!(id in values)) {
      throw new LevelGridError('usage', {
        found: `"${id}" as a typed value`,
        expected: `one of ${Object.keys(values).join(', ')}`,
        remedy: 'Name a value of the import card.',
      });
    }
    values[id] = value;
  }
  const decoder = decoderFor(document.target, values);
  const files = await checkFiles(input, checks, partOf(job, 0, 0.15));
  const { reference } = input;
  const counted = !reference
    ? null
    : 'facts' in reference
      ? reference
      : await countSource(reference, recipe.source.raw, partOf(job, 0.15, 0.3));
  let truth: Truth | null = null;
  const fitted = counted ? plan(recipe, counted.facts, null) : null;
  checkWindows(document, fitted ? fitted.work.geometry : null);
  if (counted && fitted) {
    const { work } = fitted;
    // only a range that follows the fitted ground needs its extremes before anything is compared
    const ground =
      recipe.height.range === 'ground'
        ? await groundStatistics(
            fittedGround(counted.opened, recipe, work),
            spanOf(counted, work.datum),
            null,
            partOf(job, 0.3, 0.5),
          )
        : null;
    truth = counted.facts.stats
      ? deriveTruth(recipe, counted.facts.info, counted.facts.stats, work.datum, ground)
      : null;
  }
  const step = truth?.step ?? document.height.step;
  const reach = truth
    ? Math.max(Math.abs(truth.low), Math.abs(truth.high), truth.high - truth.low)
    : Math.max(Math.abs(document.height.low), Math.abs(document.height.high));
  const budget = {
    halfStep: step / 2,
    typing: Math.min(document.typing.budget, step / 10),
    // a target computes in single precision: a few units in the last place of the largest height
    arithmetic: Math.min(Math.max(step / 10, 0.003), reach * 4 * 2 ** -23),
  };
  const limit = budget.halfStep + budget.typing + budget.arithmetic;
  const state: Findings = {
    checks,
    meter: new ErrorMeter(),
    line: new LineFit(),
    clippedLow: 0,
    clippedHigh: 0,
    seamsCompared: 0,
    seamsDifferent: 0,
  };
  const spotCodes = new Map<string, number>();
  let maps: ProofMaps | null = null;
  let groundError: ErrorFigures | null = null;
  if (files.readable) {
    const compared = await compareFiles(
      input,
      files.sources,
      decoder,
      truth,
      counted,
      fitted,
      state,
      limit,
      spotCodes,
      partOf(job, recipe.height.range === 'ground' ? 0.5 : 0.3, 1),
    );
    maps = compared.maps;
    groundError = compared.groundError;
  }
  const spots = document.spots.map((spot): SpotProof => {
    const foundCode = spotCodes.get(spot.id) ?? null;
    return {
      id: spot.id,
      label: spot.label,
      file: spot.file,
      expectedCode: spot.code,
      foundCode,
      expected: spot.elevation === null ? null : spot.elevation - (truth?.zero ?? document.height.zero),
      shown: foundCode === null ? null : decoder.heightOf(foundCode),
    };
  });
  const meter = truth ? state.meter : spotMeter(spots, limit, document);
  const { wrong, found } = valueChecks(document, values, decoder, truth, counted?.facts.info ?? null);
  checks.push(...found);
  const figures = meter.figures();
  if (files.readable) heightCheck(checks, figures, limit, budget, meter.samples, state, wrong);
  spotCheck(checks, spots, limit, document);
  if (document.files.length > 1 && document.tiles.edges === 'shared' && files.readable) seamCheck(checks, state);
  if (truth) clippedCheck(checks, state);
  const proof: Proof = {
    holds: checks.every((c) => c.state === 'holds' || c.state === 'caution'),
    step,
    encodingError: { ...figures, budget, samples: meter.samples, against: truth ? 'fitted ground' : 'check spots' },
    groundError,
    clipped: truth ? { low: state.clippedLow, high: state.clippedHigh } : null,
    checks,
    wrongValues: wrong,
    spots,
    seams: { compared: state.seamsCompared, different: state.seamsDifferent },
    rim: fitted?.work.geometry.rim ?? null,
  };
  return { proof, maps };
}
