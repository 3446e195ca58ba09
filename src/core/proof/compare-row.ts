import type { ErrorMap } from './error-meter';
import type { Findings } from './types';
import type { Truth } from './truth';

/** Samples between those that are fed to the line. */
const LINE_EVERY = 8;

/** Compares rows of codes with the fitted ground: errors, clipped samples, the line through both. */
export class RowComparison {
  private readonly shift: number;
  private readonly unit: number;
  private readonly lowest: number;
  private readonly highest: number;

  constructor(
    /** What the target makes of each code. */
    private readonly heights: Float64Array,
    truth: Truth,
    private readonly map: ErrorMap | null,
    private readonly findings: Findings,
  ) {
    this.unit = truth.unit;
    this.shift = truth.offset - truth.zero;
    // a sample is clipped where its own height rounds to a code that does not exist
    this.lowest = truth.low - truth.zero - truth.step / 2;
    this.highest = truth.high - truth.zero + truth.step / 2;
  }

  /** `codes` begin at column `from` of row `y` of the whole, whose fitted ground is `ground`. The largest error. */
  compare(y: number, from: number, codes: Uint16Array, ground: Float32Array): number {
    const { heights, unit, shift, lowest, highest, findings, map } = this;
    const { line } = findings;
    const cells = map?.cells ?? null;
    const columns = map?.columnOf ?? null;
    const start = map?.rowStart(y) ?? 0;
    const width = codes.length;
    let max = 0;
    let sum = 0;
    let squares = 0;
    let count = 0;
    // the cells of the map take the largest of a run of samples
    let cell = -1;
    let worst = 0;
    for (let x = 0; x < width; x++) {
      const sample = ground[from + x]!;
      if (sample !== sample) continue;
      const expected = sample * unit + shift;
      const code = codes[x]!;
      if (code === 0 && expected < lowest) {
        findings.clippedLow++;
        continue;
      }
      if (code === 65535 && expected >= highest) {
        findings.clippedHigh++;
        continue;
      }
      const shown = heights[code]!;
      const error = Math.abs(shown - expected);
      if (error > max) max = error;
      sum += error;
      squares += error * error;
      count++;
      if (x % LINE_EVERY === 0) line.add(expected, shown);
      if (!columns || !cells) continue;
      const at = start + columns[from + x]!;
      if (at !== cell) {
        if (cell >= 0 && worst > cells[cell]!) cells[cell] = worst;
        cell = at;
        worst = 0;
      }
      if (error > worst) worst = error;
    }
    if (cells && cell >= 0 && worst > cells[cell]!) cells[cell] = worst;
    findings.meter.addRow(max, sum, squares, count);
    return max;
  }
}
