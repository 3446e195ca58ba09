import { LevelGridError, type ByteSource } from '../../base';
import { type RawLayout, RAW_MAX_SIDE } from './layout';

export interface RawGuess {
  readonly layout: RawLayout;
  /** 0..1: how far the best reading lies ahead of the next one. */
  readonly certainty: number;
  /** The other readings that fit the length, best first. */
  readonly others: readonly RawLayout[];
}

/** Longest side against the shorter one that is still considered. */
const MAX_ASPECT = 4;
/** Added to every score, so that ground without any roughness is still decided by shape. */
const EVEN = 0.01;
const WINDOWS = 6;
const WINDOW_BYTES = 1 << 18;

type Kind = 'u8' | 'le' | 'be';

/**
 * Guesses the layout of a headerless file. Its length gives the candidate sizes (as 16-bit and as 8-bit samples); the
 * data ranks them: on terrain, neighbours are alike, so the mean step between a sample and the one a row below is
 * smallest for the true width, and steps along a row are smallest for the true sample type and byte order. A square
 * needs less evidence than a rectangle.
 */
export async function guessRaw(source: ByteSource): Promise<RawGuess> {
  const candidates: { width: number; height: number; kind: Kind }[] = [];
  for (const [bytes, kinds] of [
    [2, ['le', 'be']],
    [1, ['u8']],
  ] as const) {
    for (const [width, height] of sizesFor(source.size / bytes))
      for (const kind of kinds) candidates.push({ width, height, kind });
  }
  if (candidates.length === 0) {
    throw new LevelGridError('raw-length', {
      found: `${source.size} bytes, which is no width × height of 8-bit or 16-bit samples with sides up to ${MAX_ASPECT} : 1`,
      expected: 'a headerless height file',
      remedy:
        'State its layout (width, height, sample type, byte order, bytes to skip), or check what the file really is.',
    });
  }
  const windows = await readWindows(source, Math.max(...candidates.map((c) => c.width * (c.kind === 'u8' ? 1 : 2))));
  const along = new Map<Kind, number>();
  for (const kind of ['le', 'be', 'u8'] as const) along.set(kind, roughness(windows, kind, 1));
  const scored = candidates.map((candidate) => {
    const { width, height, kind } = candidate;
    const square = width === height ? 0.75 : 1;
    const narrow = kind === 'u8' ? 1.15 : 1;
    const score = ((along.get(kind) ?? 1) + roughness(windows, kind, width) + EVEN) * square * narrow;
    return { candidate, score };
  });
  scored.sort((a, b) => a.score - b.score);
  const [best, second] = scored as [(typeof scored)[number], (typeof scored)[number] | undefined];
  const toLayout = ({ candidate: { width, height, kind } }: (typeof scored)[number]): RawLayout => ({
    width,
    height,
    type: kind === 'u8' ? 'u8' : 'u16',
    byteOrder: kind === 'be' ? 'big' : 'little',
    skip: 0,
  });
  return {
    layout: toLayout(best),
    certainty: second ? Math.max(0, Math.min(1, 1 - best.score / (second.score || 1))) : 1,
    others: scored.slice(1, 9).map(toLayout),
  };
}

/** Width and height pairs with that product, within the aspect limit, squares first. */
function sizesFor(samples: number): [number, number][] {
  const out: [number, number][] = [];
  if (!Number.isInteger(samples) || samples < 4) return out;
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
    const at = count === 1 ? 0 : Math.floor((span * i) / (count - 1) / 2) * 2;
    out.push(await source.read(at, length));
  }
  return out;
}

/**
 * Mean absolute difference between samples `lag` apart, as a share of the mean difference between samples that have
 * nothing to do with each other (an odd, long way apart): 0 is smooth, 1 is noise.
 */
function roughness(windows: readonly Uint8Array[], kind: Kind, lag: number): number {
  let near = 0;
  let far = 0;
  let count = 0;
  for (const bytes of windows) {
    const n = kind === 'u8' ? bytes.length : bytes.length >> 1;
    const low = kind === 'le' ? 0 : 1;
    const at =
      kind === 'u8'
        ? (i: number): number => bytes[i]! * 257
        : (i: number): number => bytes[2 * i + low]! | (bytes[2 * i + 1 - low]! << 8);
    const stride = Math.max(1, Math.floor((n - lag) / 20000) | 1);
    for (let i = 0; i + lag < n; i += stride) {
      const value = at(i);
      near += Math.abs(value - at(i + lag));
      far += Math.abs(value - at((i + (n >> 1) + 7) % n));
      count++;
    }
  }
  if (count === 0) return 1;
  return far === 0 ? 0 : Math.min(2, near / far);
}
