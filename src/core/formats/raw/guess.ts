import { LevelGridError, type ByteSource } from '../../base';
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
const WINDOWS = 6;
const WINDOW_BYTES = 1 << 18;
const MOST_NEXT = 8;

/** A type and byte order in which a file may be read, and how much better than others it must look to be believed. */
interface Kind {
  readonly type: RawType;
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
 * than a rectangle.
 */
export async function guessRaw(source: ByteSource): Promise<RawGuess> {
  const candidates = KINDS.flatMap((kind) =>
    sizesFor(source.size / rawSampleBytes(kind.type)).map(([width, height]) => ({ width, height, kind })),
  );
  if (candidates.length === 0) {
    throw new LevelGridError('raw-length', {
      found: `${source.size} bytes, which is no width × height of samples of 8, 16 or 32 bits with sides up to ${MAX_ASPECT} : 1`,
      expected: 'a headerless height file',
      remedy:
        'State its layout (width, height, sample type, byte order, bytes to skip), or check what the file really is.',
    });
  }
  const longest = Math.max(...candidates.map((c) => c.width * rawSampleBytes(c.kind.type)));
  const windows = await readWindows(source, longest);
  const readings = new Map(KINDS.map((kind) => [kind, readingOf(windows, kind)]));
  const scored = candidates
    .flatMap((candidate) => {
      const { width, height, kind } = candidate;
      const reading = readings.get(kind);
      if (!reading) return [];
      const square = width === height ? 0.75 : 1;
      const rough = reading.along + roughness(reading.samples, width);
      return [{ candidate, score: (rough + EVEN) * square * kind.handicap }];
    })
    .sort((a, b) => a.score - b.score);
  const [best, second] = scored;
  if (!best) {
    throw new LevelGridError('raw-length', {
      found: 'bytes that make no heights in any order and type',
      expected: 'a headerless height file',
      remedy: 'State its layout (width, height, sample type, byte order, bytes to skip).',
    });
  }
  const toLayout = ({ candidate: { width, height, kind } }: (typeof scored)[number]): RawLayout => ({
    width,
    height,
    type: kind.type,
    byteOrder: kind.order,
    skip: 0,
  });
  return {
    layout: toLayout(best),
    lead: second ? Math.max(0, Math.min(1, 1 - best.score / (second.score || 1))) : 1,
    next: scored.slice(1, 1 + MOST_NEXT).map(toLayout),
  };
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
  const length = Math.min(source.size, Math.max(WINDOW_BYTES, longestRow * 3));
  const span = source.size - length;
  const count = span === 0 ? 1 : WINDOWS;
  const out: Uint8Array[] = [];
  for (let i = 0; i < count; i++) {
    // on a multiple of every sample's size
    const at = count === 1 ? 0 : Math.floor((span * i) / (count - 1) / 8) * 8;
    out.push(await source.read(at, length));
  }
  return out;
}

/** Largest elevation, and smallest that is not 0, that anybody writes, in any unit. */
const MOST = 1e8;
const LEAST = 1e-6;
/** Share of samples that may be voids or marks for voids. */
const MOST_ODD = 0.3;

/** The windows read in one way; null where that can't be heights, or shows nothing that another reading does not. */
function readingOf(windows: readonly Uint8Array[], kind: Kind): { samples: Float64Array[]; along: number } | null {
  const bytes = rawSampleBytes(kind.type);
  const little = kind.order === 'little';
  let odd = 0;
  let total = 0;
  const samples = windows.map((window) => {
    const view = new DataView(window.buffer, window.byteOffset, window.byteLength);
    const out = new Float64Array(Math.floor(window.length / bytes));
    for (let i = 0; i < out.length; i++) {
      let value = sampleAt(view, i * bytes, kind.type, little);
      if (kind.type === 'f32') {
        const size = Math.abs(value);
        if (!(size <= MOST && (size >= LEAST || size === 0))) {
          odd++;
          value = NaN;
        }
      }
      out[i] = value;
    }
    total += out.length;
    return out;
  });
  if (odd > total * MOST_ODD) return null;
  const whole = kind.type !== 'f32' && kind.type !== 'u8';
  if (whole && !isOfThisSign(samples, kind.type)) return null;
  return { samples, along: roughness(samples, 1) };
}

/**
 * Signed and unsigned whole numbers differ in where the line lies that nothing steps over: terrain leaps by half of all
 * codes from sample to sample only where the reading is wrong. Unsigned where neither leaps.
 */
function isOfThisSign(windows: readonly Float64Array[], type: RawType): boolean {
  const codes = 2 ** (8 * rawSampleBytes(type));
  const signed = type.startsWith('i');
  let here = 0;
  let there = 0;
  for (const samples of windows) {
    for (let i = 1; i < samples.length; i++) {
      const [a, b] = [samples[i - 1]!, samples[i]!];
      if (Math.abs(a - b) > codes / 2) here++;
      // the other reading moves half of the codes by all of them
      const other = (v: number): number => (signed ? (v < 0 ? v + codes : v) : v >= codes / 2 ? v - codes : v);
      if (Math.abs(other(a) - other(b)) > codes / 2) there++;
    }
  }
  return signed ? here < there : here <= there;
}

function sampleAt(view: DataView, at: number, type: RawType, little: boolean): number {
  switch (type) {
    case 'u8':
      return view.getUint8(at);
    case 'i8':
      return view.getInt8(at);
    case 'u16':
      return view.getUint16(at, little);
    case 'i16':
      return view.getInt16(at, little);
    case 'u32':
      return view.getUint32(at, little);
    case 'i32':
      return view.getInt32(at, little);
    case 'f32':
      return view.getFloat32(at, little);
    case 'f64':
      return view.getFloat64(at, little);
  }
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
    const stride = Math.max(1, Math.floor((n - lag) / 20000) | 1);
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
