import { checkpoint, formatLength, formatNumber, formatShort, type JobContext } from '../base';
import { groundSpacing, metresOfStored, type OpenRaster, type RasterInfo } from '../raster';
import { finestWave } from './detail';

/** One of several data sets that may be of the same ground. */
export interface Candidate {
  readonly name: string;
  readonly raster: OpenRaster;
}

/** What a data set is worth. */
export interface CandidateFacts {
  readonly name: string;
  readonly width: number;
  readonly height: number;
  readonly bitDepth: number;
  readonly sampleType: RasterInfo['sampleType'];
  /** Metres from sample to sample, north–south; null where the file doesn't say it. */
  readonly spacing: number | null;
  readonly voids: number;
  readonly low: number | null;
  readonly high: number | null;
  /** Heights in metres, else in units of the file. */
  readonly metres: boolean;
  /** The finest waves that hold ground, in samples, and in metres where the spacing is known. */
  readonly wave: number | null;
  readonly detail: number | null;
}

/** Two data sets at the same places. */
export interface Difference {
  readonly of: readonly [string, string];
  readonly largest: number;
  readonly mean: number;
  /** One of the two doesn't say what its numbers are: the second was laid on the first by a factor and a shift. */
  readonly fitted: boolean;
  /** Share of the places that both hold where they are the same to a hundredth of the mean height difference, or to rounding. */
  readonly same: number;
  /** Share of the sides, east and south, at which the largest lies. */
  readonly at: readonly [number, number];
  /** Differences from the north-west, `side` × `side`; NaN where one holds nothing. */
  readonly map: Float32Array;
}

export interface Comparison {
  /** Best first. */
  readonly ranked: readonly (CandidateFacts & { readonly reasons: readonly string[] })[];
  /** Of the best against each other one. */
  readonly differences: readonly Difference[];
  readonly side: number;
  /** What the one that has most of others in it is made of; null where none is. */
  readonly made: {
    readonly name: string;
    readonly of: readonly { readonly name: string; readonly share: number }[];
  } | null;
}

/** Places along both sides at which data sets are compared, and rows that are taken apart into waves. */
const SIDE = 256;
const ROWS = 96;

/**
 * Data sets of the same ground against each other: voids, real detail, differences. Where all say where they lie the
 * ground that they share is compared, else their whole extents are taken for the same. Reads each once.
 */
export async function compare(candidates: readonly Candidate[], job?: JobContext): Promise<Comparison> {
  const frames = framesOf(candidates.map((c) => c.raster.info));
  const looks: Look[] = [];
  for (const [i, { name, raster }] of candidates.entries()) {
    checkpoint(job);
    looks.push(await lookAt(name, raster, frames[i]!, job));
    job?.report?.(i + 1, candidates.length);
  }
  const order = looks.map((l) => l.facts).sort(better);
  const best = looks.find((l) => l.facts === order[0])!;
  const others = order.slice(1).map((f) => looks.find((l) => l.facts === f)!);
  return {
    ranked: order.map((facts) => ({ ...facts, reasons: reasonsOf(facts, order) })),
    differences: others.map((o) => differenceOf(best, o)),
    side: SIDE,
    made: madeOf(looks),
  };
}

/** The part of a raster that is compared: first column and row, and samples from place to place. */
interface Frame {
  readonly x: number;
  readonly y: number;
  readonly dx: number;
  readonly dy: number;
}

function framesOf(infos: readonly RasterInfo[]): Frame[] {
  const whole = (info: RasterInfo): Frame => ({
    x: 0,
    y: 0,
    dx: (info.width - 1) / (SIDE - 1),
    dy: (info.height - 1) / (SIDE - 1),
  });
  const places = infos.map((i) => i.georeference);
  const [first] = places;
  if (!first || places.some((g) => !g || g.degrees !== first.degrees || g.crs !== first.crs)) return infos.map(whole);
  const west = Math.max(...places.map((g) => g!.x));
  const north = Math.min(...places.map((g) => g!.y));
  const east = Math.min(...infos.map((i) => i.georeference!.x + (i.width - 1) * i.georeference!.dx));
  const south = Math.max(...infos.map((i) => i.georeference!.y - (i.height - 1) * i.georeference!.dy));
  // ground that is nowhere shared is compared as it lies
  if (!(east > west && north > south)) return infos.map(whole);
  return places.map((g) => ({
    x: (west - g!.x) / g!.dx,
    y: (g!.y - north) / g!.dy,
    dx: (east - west) / g!.dx / (SIDE - 1),
    dy: (north - south) / g!.dy / (SIDE - 1),
  }));
}

interface Look {
  readonly facts: CandidateFacts;
  /** Heights at the places. */
  readonly places: Float32Array;
}

async function lookAt(name: string, raster: OpenRaster, frame: Frame, job?: JobContext): Promise<Look> {
  const { info } = raster;
  const { width, height } = info;
  const metres = metresOfStored(info);
  const { unit, offset } = metres ?? { unit: 1, offset: 0 };
  const places = new Float32Array(SIDE * SIDE).fill(NaN);
  const every = Math.max(1, Math.floor(height / ROWS));
  const rows: Float64Array[] = [];
  let [voids, low, high] = [0, Infinity, -Infinity];
  let above: ArrayLike<number | bigint> | null = null;
  let next = 0;
  for await (const { y, rows: count, data } of raster.bands(job?.signal ? { signal: job.signal } : undefined)) {
    checkpoint(job);
    for (let r = 0; r < count; r++) {
      const row = data.subarray(r * width, (r + 1) * width);
      for (let x = 0; x < width; x++) {
        const value = Number(row[x]) * unit + offset;
        if (value - value !== 0) voids++;
        else {
          if (value < low) low = value;
          if (value > high) high = value;
        }
      }
      if ((y + r) % every === 0 && rows.length < ROWS)
        rows.push(Float64Array.from(row as Float64Array, (v) => v * unit));
      // places between the row above and this one
      while (next < SIDE && Math.ceil(frame.y + next * frame.dy - 1e-9) <= y + r) {
        fillPlaces(places, next, frame, above ?? row, row, y + r, width, { unit, offset });
        next++;
      }
      above = Float64Array.from(row as Float64Array);
    }
  }
  const wave = finestWave(rows, info.sampleType === 'float' ? 0 : unit);
  const spacing = groundSpacing(info)?.north ?? null;
  const east = groundSpacing(info)?.east ?? null;
  return {
    places,
    facts: {
      name,
      width,
      height,
      bitDepth: info.bitDepth,
      sampleType: info.sampleType,
      spacing,
      voids,
      low: low <= high ? low : null,
      high: low <= high ? high : null,
      metres: metres !== null,
      wave,
      detail: wave !== null && east !== null ? wave * east : null,
    },
  };
}

/** Heights along one row of places, on a straight line between the four samples around. */
function fillPlaces(
  places: Float32Array,
  row: number,
  frame: Frame,
  above: ArrayLike<number | bigint>,
  below: ArrayLike<number | bigint>,
  y: number,
  width: number,
  { unit, offset }: { readonly unit: number; readonly offset: number },
): void {
  const down = Math.max(0, Math.min(1, 1 - (y - (frame.y + row * frame.dy))));
  for (let i = 0; i < SIDE; i++) {
    const x = Math.max(0, Math.min(width - 1, frame.x + i * frame.dx));
    const left = Math.min(Math.floor(x + 1e-9), width - 1);
    const right = Math.min(left + 1, width - 1);
    const t = Math.max(0, x - left);
    const mix = (line: ArrayLike<number | bigint>): number =>
      t < 1e-9 ? Number(line[left]) : Number(line[left]) * (1 - t) + Number(line[right]) * t;
    places[row * SIDE + i] =
      offset + unit * (down >= 1 - 1e-9 ? mix(below) : mix(above) * (1 - down) + mix(below) * down);
  }
}

const voidShare = (f: CandidateFacts): number => f.voids / (f.width * f.height);

/** Without voids before with; then finer ground; then finer steps. */
function better(a: CandidateFacts, b: CandidateFacts): number {
  const share = voidShare;
  const holes = (f: CandidateFacts): number => (share(f) > 0.05 ? 2 : 0);
  // steps of 8 bits look like detail, and are none
  const coarse = (f: CandidateFacts): number => (f.sampleType !== 'float' && f.bitDepth < 16 ? 1 : 0);
  const detail = (f: CandidateFacts): number => f.detail ?? (f.wave === null ? Infinity : f.wave / f.width);
  // detail that differs by less than a quarter is the same
  const finer = Math.abs(Math.log(detail(a) / detail(b))) > 0.22 ? Math.sign(detail(a) - detail(b)) : 0;
  return (
    holes(a) - holes(b) ||
    coarse(a) - coarse(b) ||
    finer ||
    share(a) - share(b) ||
    b.bitDepth - a.bitDepth ||
    b.width - a.width ||
    0
  );
}

function reasonsOf(facts: CandidateFacts, all: readonly CandidateFacts[]): string[] {
  const out: string[] = [];
  const { voids, width, height, wave, detail, spacing } = facts;
  out.push(
    voids === 0
      ? 'no voids'
      : `${formatShort((100 * voids) / (width * height), 2)} % voids (${formatNumber(voids, 0)} samples)`,
  );
  if (detail !== null && spacing !== null)
    out.push(`ground down to waves of ${formatLength(detail)}, at samples ${formatLength(spacing)} apart`);
  else if (wave !== null) out.push(`ground down to waves of ${formatShort(wave, 1)} samples`);
  else out.push('too little to say how fine it is');
  if (wave !== null && wave > 5)
    out.push(`about ${formatNumber(Math.round((2 * width) / wave), 0)} samples a side would hold nearly the same`);
  if (facts.sampleType !== 'float' && facts.bitDepth < 16 && all.some((f) => f.bitDepth > facts.bitDepth))
    out.push(`${facts.bitDepth} bits, coarser than the others`);
  return out;
}

function differenceOf(a: Look, b: Look): Difference {
  const map = new Float32Array(SIDE * SIDE);
  const fitted = !a.facts.metres || !b.facts.metres;
  const { factor, shift } = fitted ? lineFrom(b.places, a.places) : { factor: 1, shift: 0 };
  let [largest, sum, count, same, at] = [0, 0, 0, 0, 0];
  for (let i = 0; i < map.length; i++) {
    const d = factor * b.places[i]! + shift - a.places[i]!;
    map[i] = d;
    if (d - d !== 0) continue;
    count++;
    sum += Math.abs(d);
    if (Math.abs(d) <= SAME) same++;
    if (Math.abs(d) > largest) [largest, at] = [Math.abs(d), i];
  }
  return {
    of: [a.facts.name, b.facts.name],
    largest,
    mean: count > 0 ? sum / count : 0,
    fitted,
    same: count > 0 ? same / count : 0,
    at: [(at % SIDE) / (SIDE - 1), Math.floor(at / SIDE) / (SIDE - 1)],
    map,
  };
}

/** Least squares: b ≈ factor · a + shift, over the places that both hold. */
function lineFrom(a: Float32Array, b: Float32Array): { factor: number; shift: number } {
  let [n, sa, sb] = [0, 0, 0];
  a.forEach((u, i) => {
    const v = b[i]!;
    if (u - u !== 0 || v - v !== 0) return;
    n++;
    sa += u;
    sb += v;
  });
  let [aa, ab] = [0, 0];
  const [ma, mb] = n > 0 ? [sa / n, sb / n] : [0, 0];
  a.forEach((u, i) => {
    const v = b[i]!;
    if (u - u !== 0 || v - v !== 0) return;
    aa += (u - ma) ** 2;
    ab += (u - ma) * (v - mb);
  });
  const factor = aa > 0 ? ab / aa : 1;
  return { factor, shift: mb - factor * ma };
}

/** Heights that differ by no more are the same but for rounding. */
const SAME = 0.51;
/** Less of another data set than this is chance. */
const LEAST_PART = 0.02;

/** Which data set was put together from others: where each place comes from, the first that it equals. */
function madeOf(looks: readonly Look[]): Comparison['made'] {
  if (looks.length < 3) return null;
  let found: NonNullable<Comparison['made']> | null = null;
  let most = 0;
  for (const whole of looks) {
    const parts = looks.filter((l) => l !== whole);
    const counts = parts.map(() => 0);
    let there = 0;
    for (let i = 0; i < whole.places.length; i++) {
      const value = whole.places[i]!;
      if (value - value !== 0) continue;
      there++;
      const k = parts.findIndex((p) => Math.abs(p.places[i]! - value) <= SAME);
      if (k >= 0) counts[k]!++;
    }
    const of = parts
      .map((p, k) => ({ name: p.facts.name, share: there > 0 ? counts[k]! / there : 0 }))
      .filter((p) => p.share >= LEAST_PART)
      .sort((a, b) => b.share - a.share);
    const total = of.reduce((s, p) => s + p.share, 0);
    const main = parts.find((p) => p.facts.name === of[0]?.name);
    // the whole of it, out of two at least, with ground where the larger part has none
    const fills = main !== undefined && voidShare(main.facts) > voidShare(whole.facts);
    if (of.length >= 2 && total > 0.9 && fills && total > most) [found, most] = [{ name: whole.facts.name, of }, total];
  }
  return found;
}
