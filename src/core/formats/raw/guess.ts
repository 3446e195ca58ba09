import { LevelGridError, type ByteSource } from '../../base';
import { HOST_IS_LITTLE, swapBytes } from '../bytes';
import { type RawLayout, type RawType, rawSampleBytes, RAW_MAX_SIDE } from './layout';

export interface RawGuess {
  readonly layout: RawLayout;
  /** 0..1: how far the best reading lies ahead of the next one. */
  readonly lead: number;
  /** The other readings that fit the length, best first. */
  readonly next: readonly RawLayout[];
}

/** With less than this lead a guess is a question. */
export const SURE_LEAD = 0.3;

/** Longest side against the shorter one that is still considered. */
const MAX_ASPECT = 4;
/** Added to every score, so that ground without any roughness is still decided by shape. */
const EVEN = 0.01;
/** Bytes that headers in front of samples take, multiples of every sample's size; and how much better they must look. */
const HEADERS = [4, 8, 12, 16, 20, 24, 28, 32, 36, 40, 44, 48, 64, 80, 96, 128, 256, 512, 1024, 2048, 4096] as const;
const HEADER_HANDICAP = 1.5;
const ODD_HANDICAP = 2;
/** A reading behind a header must lie so far ahead, where the length alone would let it be refused. */
const LEAST_BEHIND_HEADER = 0.2;
/** Longest side against the shorter one behind a header. */
const HEADER_ASPECT = 2.1;
const LONGEST_HEADER = 4096;
const WINDOWS = 12;
const WINDOW_BYTES = 1 << 17;
/** Pairs that are compared in one window. */
const PAIRS = 6000;
const MOST_NEXT = 8;

/** Ground may be so many times rougher across rows than along them. */
const MOST_UNLIKE = 4;

/** A type and byte order in which a file may be read, and how much better than others it must look to be believed. */
interface Kind {
  readonly type: 'u8' | 'u16' | 'i16' | 'u32' | 'i32' | 'f32';
  readonly order: 'little' | 'big';
  readonly handicap: number;
}

const KINDS: readonly Kind[] = (['little', 'big'] as const).flatMap((order) => [
  { type: 'u16', order, handicap: 1 },
  { type: 'i16', order, handicap: 1 },
  { type: 'f32', order, handicap: 1 },
  // the bits of floats rise with them: whole numbers of 32 bits must be clearly smoother
  { type: 'u32', order, handicap: 1.6 },
  { type: 'i32', order, handicap: 1.6 },
  ...(order === 'little' ? [{ type: 'u8', order, handicap: 1.15 } as const] : []),
]);

/**
 * Guesses the layout of a headerless file. Its length gives the candidate sizes for each sample type; the data ranks
 * them: on terrain, neighbours are alike, so the mean step between a sample and the one a row below is smallest for the
 * true width, and steps along a row are smallest for the true sample type and byte order. A square needs less evidence
 * than a rectangle, a file without a header less than one whose header must be skipped.
 */
export async function guessRaw(source: ByteSource): Promise<RawGuess> {
  const usual = KINDS.flatMap((kind) => [
    ...candidatesFor(source.size, kind, 0),
    ...HEADERS.flatMap((skip) => candidatesFor(source.size, kind, skip).filter(isUsual)),
  ]);
  const rest = KINDS.flatMap((kind) =>
    HEADERS.flatMap((skip) =>
      candidatesFor(source.size, kind, skip).filter((c) => !isUsual(c) && c.width <= HEADER_ASPECT * c.height),
    ),
  ).filter((c) => c.height <= HEADER_ASPECT * c.width);
  if (usual.length + rest.length === 0) throw noSize(source);
  const longest = Math.max(...[...usual, ...rest].map((c) => c.width * rawSampleBytes(c.kind.type)));
  const windows = await readWindows(source, longest);
  const readings = new Map(KINDS.map((kind) => [kind, readingOf(windows, kind)]));
  const score = (c: Candidate): Scored[] => scoreOf(c, readings.get(c.kind) ?? null);
  const first = usual.flatMap(score);
  // the many odd sizes behind a header are looked at only where nothing else is convincing
  const quick = guessOf(first);
  const guess = quick && quick.lead >= SURE_LEAD ? quick : guessOf([...first, ...rest.flatMap(score)]);
  if (guess && (guess.layout.skip === 0 || guess.lead >= LEAST_BEHIND_HEADER)) return guess;
  // some header can be found for any length: one that is not convincing is none
  const plain = guessOf(first.filter((s) => s.candidate.skip === 0));
  if (plain) return plain;
  if (guess) throw noSize(source);
  throw new LevelGridError('raw-length', {
    found: 'bytes that make no heights in any order and type',
    expected: 'a headerless height file',
    remedy: 'State its layout (width, height, sample type, byte order, bytes to skip).',
  });
}

const noSize = (source: ByteSource): LevelGridError =>
  new LevelGridError('raw-length', {
    found: `${source.size} bytes, which is no width × height of samples of 8, 16 or 32 bits with sides up to ${MAX_ASPECT} : 1, nor with a header in front that could be told`,
    expected: 'a headerless height file',
    remedy:
      'State its layout (width, height, sample type, byte order, bytes to skip), or check what the file really is.',
  });

/** A reading that fits the length of the file. */
interface Candidate {
  readonly width: number;
  readonly height: number;
  readonly kind: Kind;
  readonly skip: number;
}

interface Scored {
  readonly candidate: Candidate;
  /** Less is better. */
  readonly score: number;
  /** 0..1: ground is as rough across rows as along them. */
  readonly alike: number;
}

const candidatesFor = (bytes: number, kind: Kind, skip: number): Candidate[] =>
  sizesFor((bytes - skip) / rawSampleBytes(kind.type)).map(([width, height]) => ({ width, height, kind, skip }));

/** Nothing where the bytes can't be read so. */
function scoreOf(candidate: Candidate, reading: Reading | null): Scored[] {
  if (!reading) return [];
  const { width, height, kind, skip } = candidate;
  const down = reading.down.get(width) ?? roughness(reading.samples, width);
  reading.down.set(width, down);
  const square = width === height ? 0.75 : 1;
  const header = skip === 0 ? 1 : isUsual(candidate) ? HEADER_HANDICAP : ODD_HANDICAP;
  const score = (reading.along + down + EVEN) * square * header * kind.handicap;
  return [{ candidate, score, alike: Math.min(1, (MOST_UNLIKE * (reading.along + EVEN)) / (down + EVEN)) }];
}

function guessOf(scored: readonly Scored[]): RawGuess | null {
  const [best, second, ...others] = [...scored].sort((a, b) => a.score - b.score);
  if (!best) return null;
  const ahead = second ? Math.max(0, Math.min(1, 1 - best.score / (second.score || 1))) : 1;
  return {
    layout: layoutOf(best.candidate),
    // where the ground is much rougher across rows than along them, the width is none of these
    lead: best.alike * ahead,
    next: [...(second ? [second] : []), ...others].slice(0, MOST_NEXT).map((s) => layoutOf(s.candidate)),
  };
}

const layoutOf = ({ width, height, kind, skip }: Candidate): RawLayout => ({
  width,
  height,
  type: kind.type,
  byteOrder: kind.order,
  skip,
});

/** Sizes that are common enough to be believed behind a header: squares, and sides of a multiple of 64, or one more. */
function isUsual({ width, height }: Pick<Candidate, 'width' | 'height'>): boolean {
  const usual = (side: number): boolean => side >= 64 && side % 64 <= 1;
  return width === height || (usual(width) && usual(height));
}

/** Width and height pairs with that product, within the aspect limit. */
function sizesFor(samples: number): [number, number][] {
  const out: [number, number][] = [];
  if (!Number.isInteger(samples) || samples < 1) return out;
  for (let h = Math.ceil(Math.sqrt(samples / MAX_ASPECT)); h * h <= samples; h++) {
    if (samples % h !== 0) continue;
    const w = samples / h;
    if (w > RAW_MAX_SIDE || w > h * MAX_ASPECT) continue;
    out.push([w, h]);
    if (w !== h) out.push([h, w]);
  }
  return out;
}

/** A few stretches of the file, each long enough to hold a sample and the one a row below. */
async function readWindows(source: ByteSource, longestRow: number): Promise<Uint8Array[]> {
  // what may be a header would pass for very rough ground
  const start = source.size > 4 * LONGEST_HEADER ? LONGEST_HEADER : 0;
  const length = Math.min(source.size - start, Math.max(WINDOW_BYTES, longestRow * 3));
  const span = source.size - start - length;
  const count = span === 0 ? 1 : WINDOWS;
  const out: Uint8Array[] = [];
  for (let i = 0; i < count; i++) {
    // on a multiple of every sample's size
    const at = start + (count === 1 ? 0 : Math.floor((span * i) / (count - 1) / 8) * 8);
    out.push(await source.read(at, length));
  }
  return out;
}

/** Largest elevation, and smallest that is not 0, that anybody writes, in any unit. */
const MOST = 1e8;
const LEAST = 1e-6;
/** Share of samples that may be voids or marks for voids. */
const MOST_ODD = 0.3;

interface Reading {
  readonly samples: readonly Float64Array[];
  /** Roughness along a row, and across rows of so many samples, as far as it was asked for. */
  readonly along: number;
  readonly down: Map<number, number>;
}

/** The windows read in one way; null where that can't be heights, or shows nothing that another reading does not. */
function readingOf(windows: readonly Uint8Array[], kind: Kind): Reading | null {
  let odd = 0;
  let total = 0;
  const samples = windows.map((window) => {
    const out = samplesIn(window, kind);
    total += out.length;
    if (kind.type === 'f32')
      for (let i = 0; i < out.length; i++) {
        const size = Math.abs(out[i]!);
        if (size <= MOST && (size >= LEAST || size === 0)) continue;
        odd++;
        out[i] = NaN;
      }
    return out;
  });
  if (odd > total * MOST_ODD) return null;
  const whole = kind.type !== 'f32' && kind.type !== 'u8';
  if (whole && !isOfThisSign(samples, kind.type)) return null;
  return { samples, along: roughness(samples, 1), down: new Map() };
}

/**
 * Signed and unsigned whole numbers differ in where the line lies that nothing steps over: terrain leaps by half of all
 * codes from sample to sample only where the reading is wrong. Unsigned where neither leaps.
 */
function isOfThisSign(windows: readonly Float64Array[], type: RawType): boolean {
  const codes = 2 ** (8 * rawSampleBytes(type));
  const signed = type.startsWith('i');
  // the other reading moves half of the codes by all of them
  const other = (v: number): number => (signed ? (v < 0 ? v + codes : v) : v >= codes / 2 ? v - codes : v);
  let here = 0;
  let there = 0;
  for (const samples of windows) {
    let a = samples[0]!;
    let before = other(a);
    for (let i = 1; i < samples.length; i++) {
      const b = samples[i]!;
      const after = other(b);
      if (Math.abs(a - b) > codes / 2) here++;
      if (Math.abs(before - after) > codes / 2) there++;
      a = b;
      before = after;
    }
  }
  return signed ? here < there : here <= there;
}

/** Arrays of the types that are guessed. */
const ARRAYS = {
  u8: Uint8Array,
  u16: Uint16Array,
  i16: Int16Array,
  u32: Uint32Array,
  i32: Int32Array,
  f32: Float32Array,
} as const;

/** The samples of a window, read in one way. */
function samplesIn(window: Uint8Array, { type, order }: Kind): Float64Array {
  const size = rawSampleBytes(type);
  const bytes = new Uint8Array(window.subarray(0, window.length - (window.length % size)));
  if ((order === 'little') !== HOST_IS_LITTLE) swapBytes(bytes, size);
  return new Float64Array(new ARRAYS[type](bytes.buffer));
}

/**
 * Mean absolute difference between samples `lag` apart, as a share of the mean difference between samples that have
 * nothing to do with each other (an odd, long way apart): 0 is smooth, 1 is noise.
 */
function roughness(windows: readonly Float64Array[], lag: number): number {
  let near = 0;
  let far = 0;
  let count = 0;
  for (const samples of windows) {
    const n = samples.length;
    const stride = Math.max(1, Math.floor((n - lag) / PAIRS) | 1);
    for (let i = 0; i + lag < n; i += stride) {
      const value = samples[i]!;
      const step = Math.abs(value - samples[i + lag]!);
      const away = Math.abs(value - samples[(i + (n >> 1) + 7) % n]!);
      if (step !== step || away !== away) continue;
      near += step;
      far += away;
      count++;
    }
  }
  if (count === 0) return 1;
  return far === 0 ? 0 : Math.min(2, near / far);
}
