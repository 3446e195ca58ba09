import { halveKernel } from '../wasm';
import type { RasterInfo, StoredSamples } from './types';

/** One level of an overview: sample k stands for samples 2ˡ·k … 2ˡ·(k+1)−1 of the raster. */
export interface Level {
  readonly width: number;
  readonly height: number;
  readonly samples: StoredSamples;
}

/** One level on its own, as it is kept beside a source. */
export interface Overview extends Level {
  readonly level: number;
}

/** Whether an overview can be one of this raster: its size and the kind of its samples say so. */
export function overviewFits(
  { level, width, height, samples }: Overview,
  info: Pick<RasterInfo, 'width' | 'height' | 'bitDepth' | 'sampleType' | 'mayHoldVoids'>,
): boolean {
  const whole = info.sampleType === 'uint' && info.bitDepth <= 16 && !info.mayHoldVoids;
  return (
    width === Math.ceil(info.width / 2 ** level) &&
    height === Math.ceil(info.height / 2 ** level) &&
    samples.length === width * height &&
    samples instanceof (whole ? Uint16Array : Float32Array)
  );
}

/** Levels stop where the longer side is at most this. */
const COARSEST = 256;

/** Half the size by means of 2 × 2 (voids left out). Whole numbers up to 16 bits stay whole; the mean is rounded. */
function halveRows(from: Level, to: Level, firstRow: number, endRow: number): void {
  const { samples, width, height } = from;
  if (samples instanceof Uint16Array && to.samples instanceof Uint16Array) {
    const pairs = Math.min(endRow, height >> 1) - firstRow;
    const rows = samples.subarray(2 * firstRow * width);
    if (pairs > 0 && halveKernel(rows, to.samples.subarray(firstRow * to.width), width, pairs)) firstRow += pairs;
  }
  for (let y = firstRow; y < endRow; y++) {
    const top = 2 * y * width;
    const bottom = Math.min(height - 1, 2 * y + 1) * width;
    const at = y * to.width;
    if (samples instanceof Uint16Array && to.samples instanceof Uint16Array)
      halveCodes(samples, to.samples, top, bottom, at, width);
    else halveRow(samples, to.samples, top, bottom, at, width);
  }
}

/** One row of 16-bit codes, the twin of the kernel: on its own, so that the loop knows one type of array only. */
export function halveCodes(
  from: Uint16Array,
  to: Uint16Array,
  top: number,
  bottom: number,
  at: number,
  width: number,
): void {
  const end = top + (width & ~1);
  let t = top;
  let b = bottom;
  let o = at;
  for (; t < end; t += 2, b += 2, o++) to[o] = (from[t]! + from[t + 1]! + from[b]! + from[b + 1]! + 2) >> 2;
  if (width & 1) to[o] = (2 * from[t]! + 2 * from[b]! + 2) >> 2;
}

function halveRow(
  from: StoredSamples,
  to: StoredSamples,
  top: number,
  bottom: number,
  at: number,
  width: number,
): void {
  const whole = to instanceof Uint16Array;
  for (let l = 0, o = at; l < width; l += 2, o++) {
    const r = l + 1 < width ? l + 1 : l;
    const a = from[top + l]!;
    const b = from[top + r]!;
    const c = from[bottom + l]!;
    const d = from[bottom + r]!;
    const sum = a + b + c + d;
    to[o] = whole ? (sum + 2) >> 2 : sum === sum ? sum / 4 : meanOfValid(a, b, c, d);
  }
}

function meanOfValid(...values: number[]): number {
  const valid = values.filter((v) => v === v);
  return valid.length === 0 ? NaN : valid.reduce((s, v) => s + v, 0) / valid.length;
}

/** A raster and its overviews, finest first, which grow with the rows of the raster that are known. */
export class Pyramid {
  readonly levels: readonly Level[];
  private readonly done: number[];

  /** `overview`: a level that is known from an earlier time, whole; it must fit the raster. */
  constructor(finest: Level, overview: Overview | null = null) {
    const levels = [finest];
    for (let last = finest; Math.max(last.width, last.height) > COARSEST;) {
      const width = Math.ceil(last.width / 2);
      const height = Math.ceil(last.height / 2);
      const whole = last.samples instanceof Uint8Array || last.samples instanceof Uint16Array;
      last = { width, height, samples: whole ? new Uint16Array(width * height) : new Float32Array(width * height) };
      levels.push(last);
    }
    this.levels = levels;
    this.done = levels.map(() => 0);
    if (overview) this.takeOver(overview);
  }

  private takeOver({ level, samples }: Overview): void {
    const own = this.levels[level];
    if (level < 1 || !own) return;
    own.samples.set(samples);
    this.done[level] = own.height;
    this.carry(level + 1);
  }

  /** The finest overview whose longer side is at most `most`, copied; null where that is the raster itself. */
  overview(most: number): Overview | null {
    const level = this.levels.findIndex((l) => Math.max(l.width, l.height) <= most);
    const found = this.levels[level];
    return found && level > 0 ? { ...found, samples: found.samples.slice(), level } : null;
  }

  /** The first `rows` rows of the raster are there now: carries them into the overviews. */
  grow(rows: number): void {
    this.done[0] = Math.max(this.done[0] ?? 0, Math.min(rows, this.levels[0]?.height ?? 0));
    this.carry(1);
  }

  /** Carries what each level knows into the next, from level `from` on. */
  private carry(from: number): void {
    const { levels, done } = this;
    for (let l = from; l < levels.length; l++) {
      if (done[l] === levels[l]!.height) continue;
      const finer = levels[l - 1]!;
      const level = levels[l]!;
      const above = done[l - 1]!;
      const end = above === finer.height ? level.height : above >> 1;
      halveRows(finer, level, done[l]!, end);
      done[l] = end;
    }
  }

  /** Rows of each level that are known. */
  get known(): readonly number[] {
    return this.done;
  }
}
