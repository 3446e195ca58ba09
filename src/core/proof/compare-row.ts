import { CodeComparisonKernel, type RowFigures } from '../wasm';
import { RowErrors, type ErrorMap, type LineFit } from './error-meter';
import type { StoredRow } from './code-rows';
import type { TargetDecoder } from './decoders';
import type { Findings } from './types';
import type { ExpectedHeights } from './twin';

/** Samples between those that are fed to the line. */
const LINE_EVERY = 8;

/** What shows a code, and where the codes at both ends count as clipped; world heights in metres. */
export interface Shown {
  /** The highest code. */
  readonly top: number;
  /** What the target makes of what is stored. */
  readonly heightOf: (stored: number) => number;
  /** World height of a sample of the fitted ground = unit · sample + shift. */
  readonly unit: number;
  readonly shift: number;
  readonly lowest: number;
  readonly highest: number;
}

/** Compares rows of codes with the fitted ground: errors, clipped samples, the line through both. */
export class RowComparison {
  private readonly shown: Shown;
  private readonly kernel: CodeComparisonKernel | null;

  constructor(
    decoder: TargetDecoder,
    heights: ExpectedHeights,
    /** The stored value that heights of the ground are counted from. */
    datum: number,
    width: number,
    private readonly map: ErrorMap | null,
    private readonly findings: Findings,
  ) {
    // of codes worked out once for each
    const table =
      heights.as === 'codes' ? Float64Array.from({ length: 65536 }, (_, code) => decoder.heightOf(code)) : null;
    this.shown = {
      heightOf: table ? (code) => table[code]! : (stored) => decoder.heightOf(stored),
      top: table ? heights.top : 1,
      unit: heights.unit,
      shift: heights.offset + heights.unit * datum - heights.zero,
      // a sample is clipped where its own height rounds to a code that does not exist
      lowest: heights.as === 'metres' ? -Infinity : heights.low - heights.zero - heights.step / 2,
      highest: heights.as === 'metres' ? Infinity : heights.high - heights.zero + heights.step / 2,
    };
    // the kernel takes codes of all 16 bits for granted
    this.kernel = table && heights.top === 65535 ? CodeComparisonKernel.create(table, width, map) : null;
  }

  /** `codes` begin at column `from` of row `y` of the whole, whose fitted ground is `ground`. */
  compare(y: number, from: number, codes: StoredRow, ground: Float32Array): void {
    const { shown, findings, map, kernel } = this;
    const under = ground.subarray(from, from + codes.length);
    const start = map?.rowStart(y) ?? 0;
    const figures =
      kernel && codes instanceof Uint16Array
        ? kernel.compare(codes, under, from, start, shown.unit, shown.shift, shown.lowest, shown.highest)
        : compareCodes(codes, under, from, start, shown, map, findings.line);
    findings.meter.addRow(figures);
  }

  /** Completes line and map. */
  finish(): void {
    if (this.kernel) this.findings.line.set(this.kernel.finish().line);
  }
}

/** The plain twin of the kernel. */
export function compareCodes(
  codes: StoredRow,
  ground: Float32Array,
  from: number,
  start: number,
  { heightOf, top, unit, shift, lowest, highest }: Shown,
  map: Pick<ErrorMap, 'cells' | 'columnOf'> | null,
  line: LineFit,
): RowFigures {
  const errors = new RowErrors(map, start);
  let low = 0;
  let high = 0;
  for (let x = 0; x < codes.length; x++) {
    const sample = ground[x]!;
    if (sample !== sample) continue;
    const expected = sample * unit + shift;
    const code = codes[x]!;
    if (code === 0 && expected < lowest) low++;
    else if (code === top && expected >= highest) high++;
    else {
      const shown = heightOf(code);
      errors.add(x, shown - expected, from + x);
      if (x % LINE_EVERY === 0) line.add(expected, shown);
    }
  }
  return errors.figures(low, high);
}
