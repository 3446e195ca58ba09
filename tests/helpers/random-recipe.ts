/** Random ground and recipes that can be made of it: every operation, every type of samples, every way to fit. */
import fc from 'fast-check';
import { planChain, sidesOf } from '@/core/chain';
import type { SourceFacts } from '@/core/plan';
import { FILTERS, memoryRaster, sourceStatistics, type RasterInfo, type StoredSamples } from '@/core/raster';
import type { Recipe } from '@/core/recipe';
import type { CountedSource } from '@/core/run';
import { hills, recipeWith } from './rasters';

export type Kind = 'codes' | 'bytes' | 'floats' | 'doubles' | 'signed';

/** Ground of every type of samples, some of it voids where the type can hold them. */
export function samplesOf(kind: Kind, width: number, height: number, seed: number, holes: number): StoredSamples {
  const codes = hills(width, height, seed);
  const metres = (c: number): number => 3900 + c * 0.0071;
  const kinds = {
    codes: () => codes,
    bytes: () => Uint8Array.from(codes, (c) => c >> 8),
    signed: () => Int16Array.from(codes, (c) => (c >> 4) - 2000),
    floats: () => Float32Array.from(codes, metres),
    doubles: () => Float64Array.from(codes, metres),
  };
  const samples = kinds[kind]();
  if (kind === 'floats' || kind === 'doubles')
    for (let i = 0; i < holes; i++) {
      const at = (i * 7919 + seed * 104729) % samples.length;
      samples.fill(i % 5 === 4 ? Infinity : NaN, at, Math.min(samples.length, at + 1 + (i % 4)));
    }
  return samples;
}

const TYPES = {
  codes: { bitDepth: 16, sampleType: 'uint' },
  bytes: { bitDepth: 8, sampleType: 'uint' },
  signed: { bitDepth: 16, sampleType: 'int' },
  floats: { bitDepth: 32, sampleType: 'float' },
  doubles: { bitDepth: 64, sampleType: 'float' },
} as const;

export const DEGREES = { x: 80.1, y: -46.6, dx: 3e-4, dy: 2.5e-4, metres: null, degrees: true, crs: null };

export async function countedOf(
  kind: Kind,
  samples: StoredSamples,
  width: number,
  over: Partial<RasterInfo> = {},
): Promise<CountedSource> {
  const info: RasterInfo = {
    format: 'raw',
    width,
    height: samples.length / width,
    channels: 1,
    byteOrder: null,
    warnings: [],
    ...TYPES[kind],
    ...over,
  };
  const opened = { ...memoryRaster(info, samples), reading: {} };
  const facts: SourceFacts = { file: 'fells.raw', info, warnings: [], stats: await sourceStatistics(opened) };
  return { opened, facts };
}

/** Steps in any order in which they can stand. */
const steps = fc.oneof(
  fc.record({ op: fc.constant('turn' as const), quarters: fc.constantFrom(1, 2, 3) }),
  fc.record({ op: fc.constant('mirror' as const), axis: fc.constantFrom('x' as const, 'y' as const) }),
  fc.constant({ op: 'swap-axes' as const }),
  fc.record({
    op: fc.constant('values' as const),
    from: fc.integer({ min: 0, max: 255 }),
    become: fc.oneof(fc.constant('void' as const), fc.integer({ min: 1000, max: 5000 })),
  }),
  fc.record({ op: fc.constant('linearise' as const), curve: fc.constantFrom('srgb' as const, 2.2) }),
);
const sizes = fc.constantFrom(8, 15, 22, 29, 33, 65, 64, 127, 106);
export const cases = fc.record({
  kind: fc.constantFrom<Kind>('codes', 'bytes', 'floats', 'doubles', 'signed'),
  width: fc.integer({ min: 2, max: 90 }),
  height: fc.integer({ min: 2, max: 70 }),
  seed: fc.integer({ min: 1, max: 1000 }),
  holes: fc.integer({ min: 0, max: 60 }),
  across: sizes,
  down: sizes,
  method: fc.constantFrom('resample', 'resample', 'resample', 'pad', 'crop'),
  filter: fc.constantFrom(...FILTERS),
  clamp: fc.boolean(),
  fill: fc.option(fc.integer({ min: 3000, max: 5000 }), { nil: undefined }),
  at: fc.tuple(fc.nat(), fc.nat()),
  range: fc.constantFrom('source', 'ground', 'pinned', 'narrow'),
  exaggeration: fc.constantFrom(1, 1, 2.2, 0.37),
  worldScale: fc.constantFrom(1, 1, 0.3),
  steps: fc.array(steps, { maxLength: 4 }),
  metric: fc.option(
    fc.record({
      op: fc.constant('reproject' as const),
      zone: fc.constant(44),
      south: fc.constant(true),
      spacing: fc.constantFrom(31, 55, 'rung' as const, 'rung' as const),
      whole: fc.constantFrom(true as const, undefined),
      hold: fc.constantFrom(true as const, undefined),
    }),
    { nil: undefined },
  ),
  x: fc.nat(),
  y: fc.nat(),
});
export type Case = typeof cases extends fc.Arbitrary<infer T> ? T : never;

/** The steps of a case that can be done to its source, in an order in which they can. */
function stepsOf({ kind, width, height, metric, steps: wanted }: Case): object[] {
  const codes = kind === 'codes' || kind === 'bytes';
  const out: object[] = [];
  let mixed = false;
  for (const step of wanted) {
    if (step.op === 'linearise') {
      if (!codes || mixed) continue;
      mixed = true;
    }
    if (step.op === 'values') {
      if (mixed) continue;
      // a share of the codes, wherever these lie
      const scale = { codes: 257, bytes: 1, signed: 16, floats: 1.8, doubles: 1.8 }[kind];
      const from = (kind === 'floats' || kind === 'doubles' ? 3900 : kind === 'signed' ? -2000 : 0) + step.from * scale;
      out.push({ ...step, from, to: from + 20 * scale });
    } else out.push(step);
  }
  // two squares each way at least
  if (!metric || Math.min(width, height) < 8) return out;
  // turns and mirrors follow it
  const lays = (s: object): boolean => 'op' in s && ['turn', 'mirror', 'swap-axes'].includes(String(s.op));
  const { spacing, zone, south, op, whole, hold } = metric;
  const asked = { op, zone, south, spacing, ...(whole ? { whole } : {}), ...(hold ? { hold } : {}) };
  return [...out.filter((s) => !lays(s)), asked, ...out.filter(lays)];
}

export function recipeOf(c: Case, info: RasterInfo): Recipe {
  const list = stepsOf(c);
  const { entering } = planChain(recipeFor(c, list), info);
  return recipeFor({ ...c, ...sidesOf(entering) }, list);
}

/** For a source that enters the fit with these sides. */
function recipeFor(c: Case, list: readonly object[]): Recipe {
  const floats = c.kind === 'floats' || c.kind === 'doubles';
  const side = (size: number, samples: number): number =>
    c.method === 'crop' ? Math.min(size, samples - (samples % 7) + 1, samples) : size;
  const [across, down] = [Math.max(2, side(c.across, c.width)), Math.max(2, side(c.down, c.height))];
  const place = (n: number, samples: number, size: number): number =>
    c.method === 'crop' ? n % (samples - size + 1) : (n % (samples + size - 1)) - samples + 1;
  return recipeWith({
    steps: list,
    source: floats ? { low: undefined, high: undefined } : { low: 1310, high: 2140 },
    fit: {
      size: [across, down],
      method: c.method,
      filter: c.filter,
      clamp: c.clamp,
      worldScale: c.worldScale,
      ...(c.fill === undefined ? {} : { voids: c.fill }),
      ...(c.method === 'resample' ? {} : { at: [place(c.at[0], c.width, across), place(c.at[1], c.height, down)] }),
    },
    height: {
      exaggeration: c.exaggeration,
      ...(c.range === 'pinned' || c.range === 'narrow'
        ? {
            range: 'pinned',
            low: floats ? 4000 : 1400,
            high: (floats ? 4000 : 1400) + (c.range === 'narrow' ? 0.02 : 300),
          }
        : { range: c.range }),
    },
  });
}
