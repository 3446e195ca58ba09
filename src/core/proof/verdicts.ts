import { formatLength, formatShort } from '../base';
import type { PlanDocument } from '../plan';
import { ErrorMeter, type ErrorFigures } from './error-meter';
import type { Findings, Proof, ProofCheck, SpotProof } from './types';

/*
 * What the figures of a proof mean, in sentences.
 */

/** The check spots as the truth, where there is no other. */
export function spotMeter(spots: readonly SpotProof[], limit: number, document: PlanDocument): ErrorMeter {
  const meter = new ErrorMeter();
  for (const { shown, expected, expectedCode } of spots) {
    if (shown === null || expected === null) continue;
    const error = Math.abs(shown - expected);
    if (clippedSpot(expectedCode, shown, expected, limit, document)) continue;
    meter.addRow({ max: error, sum: error, squares: error * error, count: 1 });
  }
  return meter;
}

/** A spot outside the height range shows the end of the range, not its own height. */
function clippedSpot(
  code: number | null,
  shown: number,
  expected: number,
  limit: number,
  document: PlanDocument,
): boolean {
  const lowest = document.height.low - document.height.zero;
  const highest = document.height.high - document.height.zero;
  return (
    (code === 0 && expected < lowest && shown - expected > limit) ||
    (code === 65535 && expected > highest && expected - shown > limit)
  );
}

export function heightCheck(
  checks: ProofCheck[],
  figures: ErrorFigures,
  limit: number,
  budget: Proof['encodingError']['budget'],
  samples: number,
  state: Findings,
  wrong: readonly string[],
): void {
  const parts = `${formatLength(budget.halfStep)} half step + ${formatLength(budget.typing)} typing + ${formatLength(budget.arithmetic)} arithmetic`;
  const clippedMost = state.clippedLow + state.clippedHigh > samples;
  if (figures.max <= limit && !clippedMost) {
    checks.push({
      id: 'heights',
      state: 'holds',
      message: `The largest encoding error is ${formatLength(figures.max)}, within ${formatLength(limit)} (${parts}).`,
    });
    return;
  }
  const line = state.line.result();
  const trend =
    line && !wrong.length && Math.abs(line.slope - 1) > 1e-4
      ? ` Heights are shown ${formatShort(line.slope, 4)} times as tall as they are.`
      : '';
  const blame = wrong.length > 0 ? ` Wrong on the card: ${wrong.join(', ')}.` : trend;
  checks.push({
    id: 'heights',
    state: 'fault',
    message: clippedMost
      ? `${state.clippedLow + state.clippedHigh} samples lie beyond the heights that the files can show.${blame}`
      : `The largest encoding error is ${formatLength(figures.max)}, above ${formatLength(limit)} (${parts}).${blame}`,
  });
}

export function spotCheck(
  checks: ProofCheck[],
  spots: readonly SpotProof[],
  limit: number,
  document: PlanDocument,
): void {
  const off = spots.filter(
    (s) =>
      s.shown !== null &&
      s.expected !== null &&
      Math.abs(s.shown - s.expected) > limit &&
      !clippedSpot(s.expectedCode, s.shown, s.expected, limit, document),
  );
  const codes = spots.filter((s) => s.foundCode !== null && s.foundCode !== s.expectedCode);
  const bad = new Set([...off, ...codes]);
  const names = [...bad].map((s) => s.label.toLowerCase()).join(', ');
  if (bad.size > 0)
    checks.push({
      id: 'spots',
      state: 'fault',
      message: `${bad.size} of ${spots.length} check spots differ: ${names}.`,
    });
  else if (spots.some((s) => s.foundCode !== null))
    checks.push({ id: 'spots', state: 'holds', message: `All ${spots.length} check spots show their height.` });
}

export function seamCheck(checks: ProofCheck[], { seamsCompared, seamsDifferent }: Findings): void {
  checks.push({
    id: 'seams',
    state: seamsDifferent > 0 ? 'fault' : 'holds',
    message:
      seamsDifferent > 0
        ? `${seamsDifferent} of ${seamsCompared} vertices on shared edges differ between neighbours.`
        : `All ${seamsCompared} vertices on shared edges are the same in both tiles.`,
  });
}

export function clippedCheck(checks: ProofCheck[], { clippedLow, clippedHigh }: Findings): void {
  const count = clippedLow + clippedHigh;
  checks.push({
    id: 'clipped',
    state: count > 0 ? 'caution' : 'holds',
    message:
      count > 0
        ? `${clippedLow} samples below and ${clippedHigh} above the height range are clipped.`
        : 'No sample is clipped.',
  });
}
