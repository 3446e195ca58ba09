import { MemoryFolder, memorySource, type ByteSource, type LevelGridError } from '@/core/base';
import { PngWriter } from '@/core/formats';
import { parseRecipe, type Recipe } from '@/core/recipe';

/** A hilly field of 16-bit codes that uses its whole range; the same for the same size and seed. */
export function hills(width: number, height: number, seed = 1): Uint16Array {
  const key = `${width} × ${height}, ${seed}`;
  const made = known.get(key) ?? makeHills(width, height, seed);
  known.set(key, made);
  return made.slice();
}

/** What was made before in this file of tests: many of them take the same. */
const known = new Map<string, Uint16Array>();

function makeHills(width: number, height: number, seed: number): Uint16Array {
  const out = new Uint16Array(width * height);
  const across = Float64Array.from({ length: width }, (_, x) => Math.sin(x * 0.071 + seed));
  for (let y = 0; y < height; y++) {
    const down = Math.cos(y * 0.053 - seed);
    for (let x = 0; x < width; x++) {
      const h = across[x]! + down + 0.4 * Math.sin((x + 2 * y) * 0.19) + 0.1 * Math.sin(x * y * 0.013);
      out[y * width + x] = Math.round(32767 + h * 12000);
    }
  }
  out[0] = 0;
  out[out.length - 1] = 65535;
  return out;
}

/** Codes as a PNG file in memory, in bands of `rows`. */
export async function pngSource(codes: Uint16Array, width: number, name = 'hills.png', rows = 16): Promise<ByteSource> {
  const folder = new MemoryFolder();
  const writer = await PngWriter.open(await folder.open(name), width, codes.length / width);
  for (let at = 0; at < codes.length; at += rows * width) await writer.write(codes.subarray(at, at + rows * width));
  await writer.close();
  await folder.commit();
  return memorySource(name, folder.files.get(name)!);
}

/** Codes as headerless bytes in the given order. */
export function rawBytes(codes: Uint16Array, order: 'little' | 'big'): Uint8Array {
  const out = new Uint8Array(codes.length * 2);
  const view = new DataView(out.buffer);
  codes.forEach((c, i) => view.setUint16(2 * i, c, order === 'little'));
  return out;
}

interface SourceParts {
  readonly low?: number | undefined;
  readonly high?: number | undefined;
  readonly [key: string]: unknown;
}

/** Heights between two ends; without them, elevations. */
function sourceWith({ low, high, ...rest }: SourceParts): object {
  return { heights: low === undefined ? { as: 'elevations' } : { as: 'ends', low, high }, ...rest };
}

/** The usual recipe of the scenario with parts replaced. Overshoot is let through, so that there is something to clip. */
export function recipeWith(parts: {
  target?: string | object;
  source?: SourceParts;
  /** Given, the recipe is of the newest version; else of the third, with what stood beside the source there. */
  steps?: readonly object[];
  fit?: object;
  height?: object;
  split?: object;
  output?: object;
  name?: string;
}): Recipe {
  return parseRecipe({
    version: parts.steps ? 4 : 3,
    name: parts.name ?? 'kettle',
    ...(parts.steps ? { steps: parts.steps } : {}),
    source: sourceWith({ low: 1310, high: 2140, spacing: 2.5, ...parts.source }),
    target: parts.target ?? 'component-grid',
    fit: { size: 127, clamp: false, ...parts.fit },
    height: { range: 'source', ...parts.height },
    ...(parts.split ? { split: parts.split } : {}),
    output: { format: 'png', ...parts.output },
  });
}

/** The typed error that a piece of work throws; fails where it throws nothing or something else. */
export async function faultOf(work: () => unknown): Promise<LevelGridError> {
  try {
    await work();
  } catch (reason) {
    if (reason instanceof Error && 'code' in reason && 'remedy' in reason) return reason as never;
    throw reason;
  }
  throw new Error('nothing was thrown');
}
