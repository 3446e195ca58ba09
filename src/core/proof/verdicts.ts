import { formatLength, formatNumber, formatShort } from '../base';
import { ErrorMeter, type ErrorFigures } from './error-meter';
import type { Seen } from './compare-files';
import { heldWithin, type ExpectedHeights, type Page } from './twin';
import { count, type Beyond, type VertexJudge } from './vertices';
import type { Findings, Proof, ProofCheck, SpotProof } from './types';

/*
 * What the figures of a proof mean, in sentences.
 */

/** The spots as they are shown, and as they should be: what is clipped shows the end of the range. */
export function spotProofs(
  page: Page,
  codes: ReadonlyMap<string, number>,
  heightOf: (code: number) => number,
  heights: ExpectedHeights,
  unit: number,
): SpotProof[] {
  return page.spots.map((spot): SpotProof => {
    const foundCode = codes.get(spot.id) ?? null;
    const shown = foundCode === null ? null : heightOf(foundCode);
    const within = spot.elevation === null ? null : heldWithin(heights, spot.elevation);
    return {
      id: spot.id,
      label: spot.label,
      file: spot.file,
      expectedCode: spot.code,
      foundCode,
      expected: within === null ? null : within - heights.zero,
      shown,
      shownInUnit: shown === null ? null : shown / unit,
    };
  });
}

/** The check spots as the truth, where there is no other. */
export function spotMeter(spots: readonly SpotProof[]): ErrorMeter {
  const meter = new ErrorMeter();
  for (const { shown, expected } of spots) {
    if (shown === null || expected === null) continue;
    const error = Math.abs(shown - expected);
    meter.addRow({ max: error, sum: error, squares: error * error, count: 1 });
  }
  return meter;
}

/** Heights are said to be so many times as tall only where that explains nearly all of their errors. */
const GOOD_FIT = 0.95;

export function heightCheck(
  figures: ErrorFigures,
  limit: number,
  budget: Proof['encodingError']['budget'],
  findings: Findings,
  wrong: readonly string[],
): ProofCheck {
  const parts = `${formatLength(budget.halfStep)} half step + ${formatLength(budget.typing)} typing + ${formatLength(budget.arithmetic)} arithmetic`;
  if (figures.max <= limit)
    return {
      id: 'heights',
      step: 'height',
      state: 'holds',
      message: `The largest encoding error is ${formatLength(figures.max)}, within ${formatLength(limit)} (${parts}).`,
    };
  const line = findings.line.result();
  const trend =
    line && wrong.length === 0 && Math.abs(line.slope - 1) > 1e-4 && findings.line.explains(figures.rms) > GOOD_FIT
      ? ` Heights are shown ${formatShort(line.slope, 4)} times as tall as they are.`
      : '';
  const blame = wrong.length > 0 ? ` Wrong on the card: ${wrong.join(', ')}.` : trend;
  return {
    id: 'heights',
    step: 'height',
    state: 'fault',
    message: `The largest encoding error is ${formatLength(figures.max)}, above ${formatLength(limit)} (${parts}).${blame}`,
  };
}

export function spotCheck(spots: readonly SpotProof[], limit: number): ProofCheck[] {
  const off = spots.filter((s) => s.shown !== null && s.expected !== null && Math.abs(s.shown - s.expected) > limit);
  const codes = spots.filter((s) => s.foundCode !== null && s.foundCode !== s.expectedCode);
  const bad = new Set([...off, ...codes]);
  if (bad.size > 0)
    return [
      {
        id: 'spots',
        step: 'height',
        state: 'fault',
        message: `With the values as typed ${bad.size} of ${spots.length} check spots show another height in the files than they should: ${[...bad].map((s) => s.label.toLowerCase()).join(', ')}.`,
      },
    ];
  const seen = spots.filter((s) => s.foundCode !== null).length;
  return seen > 0
    ? [
        {
          id: 'spots',
          step: 'height',
          state: 'holds',
          message: `With the values as typed all ${seen} check spots show their height in the files.`,
        },
      ]
    : [];
}

export function seamCheck({ seamsCompared, seamsDifferent }: Findings): ProofCheck {
  return {
    id: 'seams',
    step: 'split',
    state: seamsDifferent > 0 ? 'fault' : 'holds',
    message:
      seamsDifferent > 0
        ? `${formatNumber(seamsDifferent, 0)} of ${count(seamsCompared, 'pair', 'pairs')} of vertices on shared edges differ between neighbours.`
        : `All ${count(seamsCompared, 'pair', 'pairs')} of vertices on shared edges are the same in both tiles.`,
  };
}

/**
 * Clipped samples, as the page says them, against those that were counted; where every vertex was worked out a second
 * time, against those too.
 */
export function clippedCheck(
  counted: { readonly low: number; readonly high: number },
  again: VertexJudge['beyond'] | null,
  samples: number,
  said: Page['height']['clipped'],
): ProofCheck {
  const at = { id: 'clipped', step: 'height' };
  const { low, high } = counted;
  if (said.low !== low || said.high !== high) {
    const words = (n: number | null): string => (n === null ? 'nothing' : formatNumber(n, 0));
    return {
      ...at,
      state: 'fault',
      message: `The page says of samples clipped below and above the height range: ${words(said.low)} and ${words(said.high)}; there are ${formatNumber(low, 0)} and ${formatNumber(high, 0)}.`,
    };
  }
  const within = (n: number, { least, most }: Beyond): boolean => n >= least && n <= most;
  if (again && !(within(low, again.low) && within(high, again.high)))
    return {
      ...at,
      state: 'fault',
      message: `${formatNumber(low, 0)} samples below and ${formatNumber(high, 0)} above the height range were counted; worked out again from the source there are ${between(again.low)} and ${between(again.high)}.`,
    };
  const all = low + high;
  const sure = again ? ', as all vertices worked out again say' : '';
  if (all === 0) return { ...at, state: 'holds', message: `No sample is clipped${sure}.` };
  // as a plan judges them
  const most = all > samples / 100;
  return {
    ...at,
    state: most ? 'fault' : 'caution',
    message: `${count(low, 'sample')} below and ${formatNumber(high, 0)} above the height range ${all === 1 ? 'is' : 'are'} clipped${most ? ', more than one in a hundred' : ''}${sure}.`,
  };
}

const between = ({ least, most }: Beyond): string =>
  least === most ? formatNumber(least, 0) : `${formatNumber(least, 0)} to ${formatNumber(most, 0)}`;

/** All samples of all files against the pipeline. */
export function sampleCheck(
  seen: Seen,
  page: Page,
  all: number,
  as: ExpectedHeights['as'],
): { check: ProofCheck; different: number } {
  const different = seen.differing.reduce((sum, d) => sum + d.count, 0);
  const first = seen.differing[0];
  if (!first)
    return {
      different,
      check: {
        id: 'samples',
        step: 'output',
        state: 'holds',
        message: `All ${count(all, 'sample')} are, ${as === 'codes' ? 'to the code' : 'to the last bit'}, what Level Grid makes of this source and recipe.`,
      },
    };
  const name = page.files[first.index]?.name ?? '';
  const others = seen.differing.length > 1 ? ` in ${seen.differing.length} files` : '';
  return {
    different,
    check: {
      id: 'samples',
      step: 'output',
      state: 'fault',
      message: `${count(different, 'sample')}${others} ${different === 1 ? 'is' : 'are'} not what the recipe gives: the first is column ${first.x}, row ${first.y} of ${name}, with ${as === 'codes' ? 'code ' : ''}${first.found} instead of ${first.expected}.`,
    },
  };
}
