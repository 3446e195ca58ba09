import { formatNumber } from '../base';
import type { FoundCode } from './telling-places';
import { codeOf, elevationOf, isCode, looseFor, slackAt, TIE, type ExpectedHeights, type GroundValue } from './twin';
import type { Proof, ProofCheck } from './types';

/** So many of something, in words. */
export const count = (n: number, one: string, many = `${one}s`): string =>
  `${formatNumber(n, 0)} ${n === 1 ? one : many}`;

/** Vertices beyond one end of the codes: those that are for certain, and those that are decided by the last bits. */
export interface Beyond {
  readonly least: number;
  readonly most: number;
}

/** Counts a vertex that lies `by` codes beyond an end. */
function note(of: { least: number; most: number }, by: number, slack: number, either: boolean): void {
  if (by > 0.5 + slack && !either) of.least++;
  if (by > 0.5 - slack || either) of.most++;
}

/** The ground worked out a second time, vertex by vertex, against the codes in the files. */
export class VertexJudge {
  private seen = 0;
  private voids = 0;
  private wrong = 0;
  private first = '';
  private readonly outside = { low: { least: 0, most: 0 }, high: { least: 0, most: 0 } };

  /** The heights for the vertex before: mostly they are the same for the next one. */
  private loosened: { readonly spread: number; readonly heights: ExpectedHeights } | null = null;

  constructor(private readonly heights: ExpectedHeights) {}

  private loose(value: GroundValue): ExpectedHeights {
    if (!('spread' in value)) return this.heights;
    if (this.loosened?.spread !== value.spread)
      this.loosened = { spread: value.spread, heights: looseFor(value, this.heights) };
    return this.loosened.heights;
  }

  /** One vertex: what it is, and the code that each file holds that has it. */
  judge(x: number, y: number, value: GroundValue, codes: readonly FoundCode[]): void {
    const { heights } = this;
    this.seen++;
    const elevation = elevationOf(value, heights);
    if (elevation === null) {
      this.voids++;
      return;
    }
    const loose = this.loose(value);
    const expected = codeOf(elevation, loose);
    // decided by the last bits: ground, or the elevation of voids
    const or = value.kind === 'either' && heights.voids !== null ? codeOf(heights.voids, heights) : null;
    this.countBeyond(elevation, value, loose);
    const other = codes.find((f) => !isCode(f.code, expected) && !(or && isCode(f.code, or)));
    if (!other) return;
    this.wrong++;
    if (this.first === '')
      this.first = `at vertex ${x}, ${y} ${other.file} holds ${other.code}, and the source gives ${expected.code}`;
  }

  private countBeyond(elevation: number, { kind }: GroundValue, heights: ExpectedHeights): void {
    const { as, low, high, step, loose } = heights;
    // metres have no ends
    if (as === 'metres') return;
    const slack = as === 'codes' ? TIE + loose / step : slackAt(elevation, heights) / step;
    const either = kind === 'either';
    note(this.outside.low, (low - elevation) / step, slack, either);
    note(this.outside.high, (elevation - high) / step, slack, either);
  }

  get different(): number {
    return this.wrong;
  }

  /** Vertices below and above the height range, of those that were judged. */
  get beyond(): { readonly low: Beyond; readonly high: Beyond } {
    return this.outside;
  }

  /** `total`: vertices of the whole; `left`: rows and columns of which none was judged. */
  checks(total: number, left: NonNullable<Proof['places']>['left']): ProofCheck[] {
    const { seen, voids, wrong, first, heights } = this;
    const what = heights.as === 'codes' ? 'code' : 'height';
    const vertices = count(seen, 'vertex', 'vertices');
    const checks: ProofCheck[] = [];
    if (voids > 0)
      checks.push({
        id: 'voids',
        step: 'fit',
        state: 'fault',
        message: `${formatNumber(voids, 0)} of ${vertices} have no ground in the source, and the recipe gives voids no elevation.`,
      });
    const whole = seen === total;
    checks.push(
      wrong > 0
        ? {
            id: 'codes',
            step: 'source',
            state: 'fault',
            message: `${formatNumber(wrong, 0)} of ${vertices}, worked out again from the source, ${wrong === 1 ? 'holds' : 'hold'} another ${what}: ${first}.`,
          }
        : {
            id: 'codes',
            step: 'source',
            state: 'holds',
            message: whole
              ? `All ${vertices}, worked out again from the source in double precision, hold the ${what} that they must have.`
              : `${formatNumber(seen, 0)} of ${count(total, 'vertex', 'vertices')}, worked out again from the source in double precision, hold the ${what} that they must have${leftOut(left)}.`,
          },
    );
    return checks;
  }
}

/** What of the whole was not looked at. */
function leftOut({ rows, columns }: NonNullable<Proof['places']>['left']): string {
  if (rows === 0 && columns === 0) return ': one at least in each row and each column';
  const parts = [rows > 0 ? count(rows, 'row') : '', columns > 0 ? count(columns, 'column') : ''].filter(
    (p) => p !== '',
  );
  return `; ${parts.join(' and ')} hold none of them`;
}
