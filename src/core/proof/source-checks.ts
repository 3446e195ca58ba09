import { apart, formatNumber, formatShort, type JobContext } from '../base';
import type { Recipe } from '../recipe';
import type { Reference } from './pipeline';
import { meshCheck } from './source-steps';
import {
  elevationOf,
  proveMesh,
  slackAt,
  sourceStage,
  type ExpectedHeights,
  type GroundValue,
  type Page,
  type SourceFacts,
  type SourceReading,
} from './twin';
import type { ProofCheck } from './types';

/* What the page says of the source and of the ground made of it, against what was read. */

/** A mesh against its triangles; a recipe of a mesh whose triangles can't be read is none that is proved. */
export async function meshChecks(
  opened: Reference['opened'],
  { source }: Recipe,
  job: JobContext,
): Promise<ProofCheck[]> {
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
export function sizeCheck(
  page: Page,
  facts: SourceFacts,
  { width, height }: { width: number; height: number },
): ProofCheck {
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
export async function asItLiesCheck(
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
          message: `The page speaks of a source that lies from ${endsApart(source, found)}; it lies from ${endsApart(found, source)}.`,
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

interface Range {
  readonly min: number | null;
  readonly max: number | null;
}

/** The ends of a range, with as many digits as it takes to tell them from another one’s; of the same one, a few. */
function endsApart(range: Range, other: Range): string {
  const told = (value: number | null, from: number | null): string =>
    value === null ? 'none' : from === null || value === from ? formatShort(value) : apart(value, from);
  return `${told(range.min, other.min)} to ${told(range.max, other.max)}`;
}

/** What values may differ by that were worked out in two ways: the last bits of 32. */
const BITS = 2 ** -21;

/** What the page says of the values that enter the fit, against those that were read. */
export function sourceCheck(page: Page, { min, max }: SourceReading, { steps }: Recipe): ProofCheck {
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
        message: `The source holds values from ${endsApart({ min, max }, { min, max })}, as the page says.`,
      }
    : {
        id: 'source',
        step: 'source',
        state: 'fault',
        message: `The page speaks of a source with values from ${endsApart(source, { min, max })}; this one holds ${endsApart({ min, max }, source)}.`,
      };
}

/** An elevation with as many digits as the heights have. */
const toBeTold = (elevation: number | null, step: number): string =>
  elevation === null ? 'none' : formatNumber(elevation, Math.min(9, Math.max(2, Math.ceil(1 - Math.log10(step)))));

/** The lowest and highest of vertices that were worked out, in world metres. */
export class Ends {
  low = Infinity;
  high = -Infinity;
  /** Of vertices that are ground or voids by their last bits: what they may be. */
  private readonly doubtful: number[] = [];

  constructor(private readonly heights: ExpectedHeights) {}

  add(value: GroundValue): void {
    const elevation = elevationOf(value, this.heights);
    if (elevation === null) return;
    if (value.kind === 'either') this.doubtful.push(elevation, this.heights.voids ?? elevation);
    else {
      this.low = Math.min(this.low, elevation);
      this.high = Math.max(this.high, elevation);
    }
  }

  /** Whether the lowest (−1) or highest (1) may be this. */
  maybe(said: number, sign: -1 | 1): boolean {
    const sure = sign < 0 ? this.low : this.high;
    const is = (end: number): boolean => Math.abs(said - end) <= slackAt(end, this.heights);
    return is(sure) || this.doubtful.some((end) => sign * end >= sign * sure && is(end));
  }
}

/**
 * The lowest and highest ground that the page states must be reached by the vertices said to do so, and no vertex that
 * was worked out may lie beyond. Where the range follows the ground, those with the lowest and highest codes are among them.
 */
export function extremesCheck(page: Page, heights: ExpectedHeights, ends: Ends, follows: boolean): ProofCheck {
  const { groundLow, groundHigh } = page.height;
  const { low, high } = ends;
  const fine = groundLow !== null && groundHigh !== null && ends.maybe(groundLow, -1) && ends.maybe(groundHigh, 1);
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
