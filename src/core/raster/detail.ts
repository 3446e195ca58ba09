import { formatShort, transform } from '../base';
import type { RasterInfo, RasterWarning, StoredBand } from './types';

/** What some rows of a raster show of where its samples come from. */
export interface SampleLook {
  /**
   * Samples from one place to the next where neighbours differ less than usual, as interpolating leaves it; null where
   * there is no such pattern.
   */
  readonly period: number | null;
  /** How strong that is, as a share of the differences themselves. */
  readonly strength: number;
  /** Share of samples that stand out from both sides, as thin lines and letters do. */
  readonly needles: number;
  /** Neighbours would differ so many times less with the bytes of each sample exchanged. */
  readonly swapped: number;
  /** Rows of a headerless file don't follow each other, or only when each is moved sideways by some samples. */
  readonly torn: boolean;
}

/** Pairs of neighbouring rows that are looked at, and samples of each. */
const PAIRS = 64;
const MOST_COLUMNS = 4096;
/** Narrower rows show no pattern. */
const LEAST_COLUMNS = 64;
/** A sample that differs by more than this share of the range from both sides, two samples away, stands out. */
const STANDS_OUT = 0.08;
/**
 * Rows are moved by so many samples at most, and at least: ground that rises aslant fits better a sample or two aside.
 */
const MOST_SHEAR = 8;
const LEAST_SHEAR = 3;

/** Keeps some pairs of rows while bands pass by. */
export class RowSampler {
  private readonly wanted: ReadonlySet<number>;
  private readonly rows: Float64Array[] = [];
  private readonly columns: number;
  private readonly first: number;

  constructor(private readonly info: Pick<RasterInfo, 'width' | 'height'>) {
    const { width, height } = info;
    this.columns = Math.min(width, MOST_COLUMNS);
    this.first = (width - this.columns) >> 1;
    const wanted = new Set<number>();
    if (height >= 2)
      for (let i = 0; i < PAIRS; i++) {
        // whole pairs only
        const y = 2 * Math.floor(((i + 0.5) * Math.floor(height / 2)) / PAIRS);
        wanted.add(y).add(y + 1);
      }
    this.wanted = wanted;
  }

  add({ y, rows, data }: Pick<StoredBand, 'y' | 'rows' | 'data'>): void {
    const { width } = this.info;
    for (let r = 0; r < rows; r++) {
      if (!this.wanted.has(y + r)) continue;
      const at = r * width + this.first;
      this.rows.push(Float64Array.from(data.subarray(at, at + this.columns) as Float64Array));
    }
  }

  /** Null where there is too little to look at. */
  result({ bitDepth, sampleType, format }: Pick<RasterInfo, 'bitDepth' | 'sampleType' | 'format'>): SampleLook | null {
    const { rows, columns } = this;
    if (columns < LEAST_COLUMNS || rows.length < 2) return null;
    return {
      ...patternOf(rows),
      needles: needleShare(rows),
      swapped: bitDepth === 16 && sampleType !== 'float' ? swappedGain(rows, sampleType === 'int') : 1,
      // costly, and of others nobody asks
      torn: format === 'raw' && tornRows(rows),
    };
  }
}

/** Amplitude of a pattern against the mean, and how far it rises above what is usual for the raster. */
const LEAST_AMPLITUDE = 0.07;
const LEAST_RISE = 6;
/** A pattern is looked for among waves of up to so many samples; where a longer one than that is the strongest, it is ground. */
const LONGEST_WAVE = 32;
const LONGEST_PERIOD = 8.5;

/**
 * The period with which differences between neighbours vary along rows: interpolated samples vary less between those
 * that they were made of (after A. C. Gallagher, Detection of linear and cubic interpolation, 2005). Both the first and
 * the second differences are looked at; a doubled raster shows only in the first.
 */
function patternOf(rows: readonly Float64Array[]): Pick<SampleLook, 'period' | 'strength'> {
  const width = rows[0]!.length;
  const first = new Float64Array(width - 2);
  const second = new Float64Array(width - 2);
  for (const row of rows) {
    let a = row[0]!;
    let b = row[1]!;
    for (let x = 1; x < width - 1; x++) {
      const c = row[x + 1]!;
      const bend = Math.abs(a - 2 * b + c);
      if (bend - bend === 0) {
        first[x - 1]! += Math.abs(a - b);
        second[x - 1]! += bend;
      }
      a = b;
      b = c;
    }
  }
  const found = [first, second].map(strongestPeriod).filter((p) => p !== null);
  const best = found.sort((a, b) => b.amplitude - a.amplitude)[0];
  return { period: best?.period ?? null, strength: best?.amplitude ?? 0 };
}

function strongestPeriod(sums: Float64Array): { period: number; amplitude: number } | null {
  const n = 2 ** Math.floor(Math.log2(Math.min(2048, sums.length)));
  const mean = sums.reduce((s, v) => s + v, 0) / sums.length;
  if (!(mean > 0)) return null;
  // logarithms, less their mean nearby: steep and gentle places count alike
  const logs = sums.map((v) => Math.log(v + mean * 1e-3));
  const near = 16;
  const real = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    const [from, to] = [Math.max(0, i - near), Math.min(logs.length, i + near + 1)];
    let sum = 0;
    for (let k = from; k < to; k++) sum += logs[k]!;
    real[i] = (logs[i]! - sum / (to - from)) * (0.5 - 0.5 * Math.cos((2 * Math.PI * i) / n));
  }
  const lowest = Math.ceil(n / LONGEST_WAVE);
  const heights = amplitudes(real).slice(lowest);
  let best = 0;
  heights.forEach((h, i) => {
    if (h > heights[best]!) best = i;
  });
  const amplitude = heights[best]!;
  const usual = [...heights].sort((a, b) => a - b)[heights.length >> 1]!;
  const period = n / (lowest + best);
  return period <= LONGEST_PERIOD && amplitude >= LEAST_AMPLITUDE && amplitude >= LEAST_RISE * usual
    ? { period, amplitude }
    : null;
}

/** Amplitudes of the waves in a windowed line of 2ⁿ numbers, by frequency from 0 to a half. */
function amplitudes(line: Float64Array): number[] {
  const n = line.length;
  const re = Float64Array.from(line);
  const im = new Float64Array(n);
  transform(re, im);
  // the window halves what is there; the highest frequency stands alone
  return Array.from({ length: n / 2 + 1 }, (_, k) => (Math.hypot(re[k]!, im[k]!) / n) * (k === n / 2 ? 2 : 4));
}

function needleShare(rows: readonly Float64Array[]): number {
  let [low, high] = [Infinity, -Infinity];
  for (const row of rows)
    for (let x = 0; x < row.length; x++) {
      const v = row[x]!;
      if (v < low) low = v;
      if (v > high) high = v;
    }
  const least = STANDS_OUT * (high - low);
  if (!(least > 0)) return 0;
  let [count, all] = [0, 0];
  for (const row of rows)
    for (let x = 2; x < row.length - 2; x++) {
      const before = row[x]! - row[x - 2]!;
      const after = row[x]! - row[x + 2]!;
      all++;
      if ((before > least && after > least) || (before < -least && after < -least)) count++;
    }
  return count / all;
}

function swappedGain(rows: readonly Float64Array[], signed: boolean): number {
  const swap = (v: number): number => {
    const code = ((v & 0xff) << 8) | ((v >> 8) & 0xff);
    return signed && code > 0x7fff ? code - 0x10000 : code;
  };
  let [asRead, swapped] = [0, 0];
  for (const row of rows) {
    let a = row[0]!;
    let other = swap(a);
    for (let x = 1; x < row.length; x++) {
      const b = row[x]!;
      const next = swap(b);
      // voids are no numbers, of which nothing is left
      if (a - a === 0 && b - b === 0) {
        asRead += Math.abs(a - b);
        swapped += Math.abs(other - next);
      }
      a = b;
      other = next;
    }
  }
  // flat either way says nothing
  return swapped > 0 ? asRead / swapped : 1;
}

/** Rows of a raster read at a wrong width are moved against each other. */
function tornRows(rows: readonly Float64Array[]): boolean {
  const differences = Array.from({ length: 2 * MOST_SHEAR + 1 }, (_, k) => {
    const by = k - MOST_SHEAR;
    let [sum, count] = [0, 0];
    for (let i = 0; i + 1 < rows.length; i += 2) {
      const [a, b] = [rows[i]!, rows[i + 1]!];
      for (let x = MOST_SHEAR; x < a.length - MOST_SHEAR; x++) {
        const d = Math.abs(a[x]! - b[x + by]!);
        if (d - d !== 0) continue;
        sum += d;
        count++;
      }
    }
    return count > 0 ? sum / count : 0;
  });
  let [along, count] = [0, 0];
  for (const row of rows)
    for (let x = 1; x < row.length; x++) {
      const d = Math.abs(row[x]! - row[x - 1]!);
      if (d - d !== 0) continue;
      along += d;
      count++;
    }
  const still = differences[MOST_SHEAR]!;
  const aside = Math.min(...differences.filter((_, k) => Math.abs(k - MOST_SHEAR) >= LEAST_SHEAR));
  return along > 0 && (aside < 0.5 * still || still > 8 * (along / count));
}

/** A pattern this strong comes from repeating samples, or from straight lines between them. */
const CLEAR = 0.45;
/** Less than this share of lines and letters is chance. */
const FEW_NEEDLES = 2e-4;
const SWAPPED_ABOVE = 4;

/** What the look of some rows gives reason to doubt. */
export function lookWarnings(info: Pick<RasterInfo, 'format' | 'byteOrder'>, look: SampleLook): RasterWarning[] {
  const { period, strength, needles, swapped, torn } = look;
  if (swapped > SWAPPED_ABOVE)
    return [
      {
        code: 'byte-order',
        message: `Neighbours differ ${formatShort(swapped, 0)} times less with the two bytes of each sample exchanged: the byte order is probably ${info.byteOrder === 'big' ? 'little' : info.byteOrder === 'little' ? 'big' : 'the other one'}.`,
      },
    ];
  // what says its own width is not doubted
  if (torn && info.format === 'raw')
    return [
      { code: 'row-width', message: 'Rows do not follow from one to the next: the width is probably another one.' },
    ];
  const out: RasterWarning[] = [];
  if (period !== null)
    out.push(
      strength >= CLEAR
        ? {
            code: 'enlarged',
            message: `A pattern repeats every ${formatShort(period, 1)} samples, as enlarging leaves it: the raster holds fewer real samples than it has. Ask for the heights as they were before.`,
          }
        : {
            code: 'pattern',
            message: `A faint pattern repeats every ${formatShort(period, 1)} samples: the raster may have been enlarged smoothly from fewer, or hold noise that was made on a grid.`,
          },
    );
  if (needles > FEW_NEEDLES)
    out.push({
      code: 'needles',
      message: `${formatShort(100 * needles, 2)} % of the samples stand out from both sides by more than ${formatShort(100 * STANDS_OUT, 0)} % of the range: lines or letters are burnt in, or voids that the file does not name. Ask for the bare heights.`,
    });
  return out;
}

/** Words in the name of a picture that is shown beside the data, and is not the data. */
const SHOWN = /(^|[^a-z])(preview|thumb|thumbnail|screenshot|hillshade|shaded|browse)([^a-z]|$)/i;

/** A picture of the terrain in the place of its heights, by its name. */
export function nameWarnings(file: string, { bitDepth }: Pick<RasterInfo, 'bitDepth'>): RasterWarning[] {
  const word = bitDepth === 8 ? SHOWN.exec(file)?.[2] : undefined;
  return word === undefined
    ? []
    : [
        {
          code: 'preview',
          message: `Its name says “${word}” and it has 8 bits: probably a picture to look at, not the heights. Look for the height file beside it.`,
        },
      ];
}
