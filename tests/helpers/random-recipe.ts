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
/** Heights that are mended: elevations are said as shares of the range, places as shares of the ground. */
const share = fc.integer({ min: 0, max: 20 }).map((n) => n / 20);
const mends = fc.oneof(
  fc.record({
    op: fc.constant('fill-voids' as const),
    method: fc.constantFrom('membrane', 'distance', 'lowest', 'elevation'),
    level: share,
  }),
  fc.record({
    op: fc.constant('heal-steps' as const),
    step: fc.constantFrom(undefined, 2, 9),
    stored: fc.constantFrom(undefined, 'cut'),
    ring: fc.option(fc.array(fc.tuple(share, share), { minLength: 3, maxLength: 5 })),
  }),
  fc.record({ op: fc.constant('despike' as const), threshold: fc.constantFrom(0, 3, 40) }),
  fc.record({
    op: fc.constant('smooth' as const),
    radius: fc.constantFrom(1, 4, 9),
    strength: fc.constantFrom(0, 0.3, 1),
  }),
  fc.record({
    op: fc.constant('sea' as const),
    level: share,
    select: fc.constantFrom('all', 'border', 'spot'),
    spot: fc.tuple(share, share),
    tolerance: fc.constantFrom(undefined, 0, 20),
    maxSlope: fc.constantFrom(undefined, undefined, 2),
    bed: fc.boolean(),
  }),
  fc.record({ op: fc.constant('levels' as const), from: fc.tuple(share, share), to: fc.tuple(share, share) }),
  fc.record({
    op: fc.constant('range' as const),
    low: share,
    high: share,
    base: fc.option(share),
    factor: fc.constantFrom(undefined, 0.4, 1.7),
  }),
  fc.record({ op: fc.constant('crop' as const), at: fc.tuple(share, share), size: fc.tuple(share, share) }),
  fc.record({
    op: fc.constant('pad' as const),
    by: fc.array(fc.constantFrom(0, 2.5, 8, 20), { minLength: 4, maxLength: 4 }),
    with: fc.constantFrom('edge', 'mirror', 'level'),
    level: share,
  }),
);
const drawn = fc.oneof(
  fc.record({
    op: fc.constant('river' as const),
    line: fc.array(fc.tuple(share, share), { minLength: 2, maxLength: 4 }),
    mode: fc.constantFrom('deepen', 'raise'),
    depth: fc.constantFrom(0.5, 7),
    width: fc.constantFrom(2, 9),
    banks: fc.constantFrom(0, 6),
    snap: fc.constantFrom(true, undefined),
    throughBorder: fc.constantFrom(true, undefined),
    uphill: fc.constantFrom(true, undefined),
  }),
  fc.record({
    op: fc.constant('lake' as const),
    at: fc.tuple(share, share),
    depth: fc.constantFrom(2, 9),
    banks: fc.constantFrom(0, 10),
  }),
  fc.record({
    op: fc.constant('area' as const),
    ring: fc.array(fc.tuple(share, share), { minLength: 3, maxLength: 5 }),
    mode: fc.constantFrom('level', 'raise', 'smooth'),
    by: share,
    border: fc.constantFrom(0, 7),
  }),
);
type Mend =
  (typeof mends extends fc.Arbitrary<infer T> ? T : never) | (typeof drawn extends fc.Arbitrary<infer T> ? T : never);

/** Metres from sample to sample, as `recipeWith` has it. */
const SPACING = 2.5;

/** A share of a side in whole samples, in metres. */
const along = (n: number, of: number): number => Math.floor(n * (of - 1)) * SPACING;

/** A step of a recipe over ground that is so large by now. */
function mendOf(mend: Mend, ground: { width: number; height: number }, kind: Kind): object {
  const floats = kind === 'floats' || kind === 'doubles';
  const [low, rise] = floats ? [3900, 470] : [1310, 830];
  const at = (level: number): number => low + level * rise;
  switch (mend.op) {
    case 'fill-voids':
      return {
        op: mend.op,
        method: mend.method,
        ...(mend.method === 'elevation' ? { elevation: at(mend.level) } : {}),
      };
    case 'sea':
      return {
        op: mend.op,
        level: at(mend.level),
        select:
          mend.select === 'spot'
            ? { spot: [along(mend.spot[0], ground.width), along(mend.spot[1], ground.height)] }
            : mend.select,
        ...(mend.tolerance === undefined ? {} : { tolerance: mend.tolerance }),
        ...(mend.maxSlope === undefined ? {} : { maxSlope: mend.maxSlope }),
        become: mend.bed && mend.level < 0.9 ? { slope: 0.3, depth: 9 } : at(mend.level) - 11,
      };
    case 'levels': {
      const [a, b] = [Math.min(...mend.from), Math.max(...mend.from) + 0.1];
      return {
        op: mend.op,
        points: [
          [at(a), at(Math.min(...mend.to))],
          [at(b), at(Math.max(...mend.to))],
        ],
      };
    }
    case 'range':
      return {
        op: mend.op,
        low: at(Math.min(mend.low, mend.high)),
        high: at(Math.max(mend.low, mend.high) + 0.1),
        ...(mend.base === null ? {} : { base: mend.base * 100 }),
        ...(mend.factor === undefined ? {} : { factor: mend.factor }),
      };
    case 'crop': {
      const side = (n: number, of: number): readonly [number, number] => {
        const size = Math.max(1, Math.floor((0.5 + n / 2) * (of - 1)));
        return [size, of - 1 - size];
      };
      const [wide, freeX] = side(mend.size[0], ground.width);
      const [tall, freeY] = side(mend.size[1], ground.height);
      const [x, y] = [Math.floor(mend.at[0] * freeX), Math.floor(mend.at[1] * freeY)];
      ground.width = wide + 1;
      ground.height = tall + 1;
      return { op: mend.op, at: [x * SPACING, y * SPACING], size: [wide * SPACING, tall * SPACING] };
    }
    case 'pad': {
      const [north = 0, east = 0, south = 0, west = 0] = mend.by;
      const samples = (metres: number): number => Math.round(metres / SPACING);
      ground.width += samples(east) + samples(west);
      ground.height += samples(north) + samples(south);
      return {
        op: mend.op,
        by: { north, east, south, west },
        with: mend.with === 'level' ? at(mend.level) : mend.with,
      };
    }
    case 'river': {
      const { line, snap, throughBorder, uphill, ...rest } = mend;
      return {
        ...rest,
        line: line.map(([x, y]) => [along(x, ground.width), along(y, ground.height)]),
        ...(snap ? { snap } : {}),
        ...(throughBorder ? { throughBorder } : {}),
        ...(uphill ? { uphill } : {}),
      };
    }
    case 'lake': {
      const {
        at: [x, y],
        ...rest
      } = mend;
      return { ...rest, spot: [along(x, ground.width), along(y, ground.height)] };
    }
    case 'area':
      return {
        ...mend,
        ring: mend.ring.map(([x, y]) => [along(x, ground.width), along(y, ground.height)]),
        by: mend.mode === 'level' ? at(mend.by) : mend.mode === 'raise' ? mend.by * 40 - 20 : 1 + 8 * mend.by,
      };
    case 'heal-steps':
      return {
        op: mend.op,
        ...(mend.step === undefined ? {} : { step: mend.step }),
        ...(mend.stored === undefined ? {} : { stored: mend.stored }),
        ...(mend.ring === null
          ? {}
          : { ring: mend.ring.map(([x, y]) => [along(x, ground.width), along(y, ground.height)]) }),
      };
    case 'despike':
    case 'smooth':
      return mend;
  }
}

/** Ground turned by an angle, or moved onto control points. */
interface Move {
  readonly degrees: number;
  readonly about: readonly [number, number];
  readonly warped: boolean;
}
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
  mends: fc.array(fc.oneof(mends, mends, drawn), { maxLength: 3 }),
  /** Turned by an angle or moved, as shares of the ground. */
  moves: fc.oneof(
    { weight: 3, arbitrary: fc.constant<Move[]>([]) },
    {
      weight: 1,
      arbitrary: fc.array(
        fc.record<Move>({
          degrees: fc.constantFrom(3, -20, 90, 171),
          // about the middle: turned about a corner, nothing of the ground may be left in its frame
          about: fc.constantFrom<[number, number]>([0.5, 0.5], [0.4, 0.6]),
          warped: fc.boolean(),
        }),
        { minLength: 1, maxLength: 2 },
      ),
    },
  ),
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
function stepsOf({ kind, width, height, metric, moves, mends: mended, steps: wanted }: Case): object[] {
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
  // heights are mended when nothing is chosen by its value any more, before and after turns
  const last = out.findLastIndex((s) => 'op' in s && (s.op === 'values' || s.op === 'linearise'));
  // ground of a row or column less than two wide has no size in metres
  const ground = { width, height };
  const mending = mended.map((m) => mendOf(m, ground, kind));
  out.splice(last + 1 + (width % Math.max(1, out.length - last)), 0, ...mending);
  const moving = moves.map(({ degrees, about: [x, y], warped }) => {
    const [e, s] = [along(x, ground.width), along(y, ground.height)];
    const [w, h] = [ground.width * SPACING, ground.height * SPACING];
    return warped
      ? {
          op: 'warp',
          points: [
            [
              [0, 0],
              [1, 2],
            ],
            [
              [w, 0],
              [w - 3, 1],
            ],
            [
              [0, h],
              [2, h + 1],
            ],
            [
              [w, h],
              [e / 9 + 0.9 * w, s / 9 + 0.9 * h],
            ],
          ],
        }
      : { op: 'rotate', degrees, about: [e, s] };
  });
  // two squares each way at least
  if (!metric || Math.min(ground.width, ground.height) < 8) return [...out, ...moving];
  // turns and mirrors follow it
  const lays = (s: object): boolean => 'op' in s && ['turn', 'mirror', 'swap-axes'].includes(String(s.op));
  const { spacing, zone, south, op, whole, hold } = metric;
  const asked = { op, zone, south, spacing, ...(whole ? { whole } : {}), ...(hold ? { hold } : {}) };
  return [...out.filter((s) => !lays(s)), asked, ...moving, ...out.filter(lays)];
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
