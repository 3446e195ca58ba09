/**
 * What can be wrong with a pack, put there on purpose: in the code that plans and writes, in the files, in the page, in
 * what is typed. Each must turn the proof red and be named. The table is kept in reports/faults.
 */
import { MemoryFolder, memorySource, type ByteSource } from '@/core/base';
import type { PlanDocument } from '@/core/plan';
import type { Proof } from '@/core/proof';
import type { AxisMapping } from '@/core/raster/kernels';
import { faultTable } from '../helpers/fault-table';
import { hills, pngSource, recipeWith } from '../helpers/rasters';

type Parts = Parameters<typeof recipeWith>[0];
type Real = Record<string, (...args: never[]) => unknown>;

const SIDE = 300;
let source: ByteSource;
beforeAll(async () => {
  source = await pngSource(hills(SIDE, SIDE), SIDE);
});

/** Ground with voids: 400 samples in the north without a height. */
const withVoids = (): ByteSource => {
  const heights = Float32Array.from(hills(SIDE, SIDE), (c) => 1310 + (c / 65535) * 830);
  heights.fill(NaN, 9000, 9400);
  return memorySource('hills.raw', new Uint8Array(heights.buffer));
};

interface Fault {
  /** Where it is put. */
  readonly into: 'code' | 'files' | 'page' | 'values' | 'source';
  readonly what: string;
  readonly parts: Parts;
  /** A module of the code that is replaced. */
  readonly module?: readonly [string, (real: Real) => object];
  /** The written pack, changed. */
  readonly change?: (folder: MemoryFolder) => void;
  readonly typed?: Readonly<Record<string, string | number>>;
  readonly source?: () => ByteSource | Promise<ByteSource>;
  /** Another source than the one that was written. */
  readonly reference?: () => Promise<ByteSource>;
  readonly withoutSource?: true;
  /** Words of a failed check. */
  readonly named: RegExp;
}

const MODULES = [
  '@/core/plan/geometry',
  '@/core/plan/card',
  '@/core/plan/placement',
  '@/core/plan/spots',
  '@/core/plan/fine',
  '@/core/height/range',
  '@/core/height/calibration',
  '@/core/height/quantise',
  '@/core/raster/kernels',
  '@/core/raster/resample',
  '@/core/raster/place',
  '@/core/raster/ground',
  '@/core/tiles/split',
  '@/core/tiles/pattern',
];

let broken = false;

async function proofWith({
  parts,
  module,
  change,
  typed,
  source: other,
  reference,
  withoutSource,
}: Omit<Fault, 'named' | 'into' | 'what'>): Promise<Proof> {
  // all modules are read anew where one of them is broken, or was
  if (module || broken) {
    jest.resetModules();
    for (const path of MODULES) jest.dontMock(path);
  }
  broken = module !== undefined;
  if (module) {
    const [path, slip] = module;
    jest.doMock(path, () => {
      const real = jest.requireActual<Real>(path);
      return { ...real, ...slip(real) };
    });
  }
  const { run } = await import('@/core/run');
  const { prove } = await import('@/core/proof');
  const folder = new MemoryFolder();
  const from = other ? await other() : source;
  await run(recipeWith(parts), from, folder);
  change?.(folder);
  const { proof } = await prove({
    file: (n) => folder.source(n),
    ...(withoutSource ? {} : { reference: reference ? await reference() : from }),
    ...(typed ? { typed } : {}),
    others: [...folder.files.keys()],
    ignoreChecksums: true,
  });
  return proof;
}

const text = (folder: MemoryFolder, name: string): string => new TextDecoder().decode(folder.files.get(name));
const put = (folder: MemoryFolder, name: string, value: string): void => {
  folder.files.set(name, new TextEncoder().encode(value));
};
/** import.json changed and both pages printed from it, so that only what they say is wrong. */
const page =
  (edit: (document: PlanDocument) => object) =>
  (folder: MemoryFolder): void => {
    const document = edit(JSON.parse(text(folder, 'import.json')) as PlanDocument) as PlanDocument;
    put(folder, 'import.json', JSON.stringify(document));
    const { importPage, importPageHtml } = jest.requireActual<{
      importPage: (d: unknown, t: unknown) => string;
      importPageHtml: (d: unknown, t: unknown, terrain: null) => string;
    }>('@/core/run/page');
    const { targetOf } = jest.requireActual<{ targetOf: (id: string) => unknown }>('@/core/targets');
    put(folder, 'import.md', importPage(document, targetOf(document.target)));
    put(folder, 'import.html', importPageHtml(document, targetOf(document.target), null));
  };
const json =
  (edit: (document: PlanDocument) => object) =>
  (folder: MemoryFolder): void =>
    put(folder, 'import.json', JSON.stringify(edit(JSON.parse(text(folder, 'import.json')) as PlanDocument)));
/** A RAW of 16 bits, changed sample by sample. */
const raw =
  (name: string, edit: (codes: Uint16Array) => void) =>
  (folder: MemoryFolder): void => {
    const bytes = folder.files.get(name)!.slice();
    const codes = new Uint16Array(bytes.buffer);
    edit(codes);
    folder.files.set(name, bytes);
  };
const geometry =
  (edit: (g: Record<string, { x: number; y: number }>) => object) =>
  (real: Real): object => ({
    fitGeometry: (...args: never[]) => {
      const g = real['fitGeometry']!(...args) as Record<string, { x: number; y: number }>;
      return { ...g, ...edit(g) };
    },
  });

const RAW: Parts = { target: 'odd-grid', fit: { size: 257 }, output: { format: 'raw' } };
const CROP: Parts = { ...RAW, fit: { size: 257, method: 'crop', at: [20, 7] } };
const PAD: Parts = { fit: { size: 379, method: 'pad', at: [30, 40], rim: 1400 } };
const TILES: Parts = { fit: { size: 379 }, split: { across: 3, down: 3 }, output: { format: 'raw' } };
/** Ground of which `low` to `high` are all the codes. */
const narrow = (low: number, high: number): Parts => ({ ...RAW, source: { low, high } });

const FAULTS: readonly Fault[] = [
  // the ground
  {
    into: 'code',
    what: 'a crop displaced by 17 samples',
    parts: CROP,
    module: [
      '@/core/plan/geometry',
      geometry((g) => ({ sourceStart: { x: g['sourceStart']!.x + 17, y: g['sourceStart']!.y } })),
    ],
    named: /worked out again from the source, hold another code/,
  },
  {
    into: 'code',
    what: 'a crop displaced by one row',
    parts: CROP,
    module: [
      '@/core/plan/geometry',
      geometry((g) => ({ sourceStart: { x: g['sourceStart']!.x, y: g['sourceStart']!.y + 1 } })),
    ],
    named: /hold another code/,
  },
  {
    into: 'code',
    what: 'padding with its sign turned round',
    parts: PAD,
    module: ['@/core/plan/geometry', geometry(() => ({ sourceStart: { x: 30, y: 40 } }))],
    named: /hold another code/,
  },
  {
    into: 'code',
    what: 'padding with its axes exchanged',
    parts: PAD,
    module: ['@/core/plan/geometry', geometry(() => ({ sourceStart: { x: -40, y: -30 } }))],
    named: /hold another code/,
  },
  {
    into: 'code',
    what: 'the rim at another elevation',
    parts: PAD,
    module: [
      '@/core/raster/place',
      (real) => ({ place: (s: never, o: { rim: number }) => real['place']!(s, { ...o, rim: o.rim + 3 } as never) }),
    ],
    named: /hold another code/,
  },
  {
    into: 'code',
    what: 'the rim under a miniature left at its true height',
    parts: { fit: { ...PAD.fit, worldScale: 0.5 } },
    module: [
      '@/core/height/calibration',
      (real) => ({
        sampleOfElevation: (e: never, calibration: never) => real['sampleOfElevation']!(e, calibration, 1 as never),
      }),
    ],
    named: /hold another code/,
  },
  {
    into: 'code',
    what: 'resampling by the middles of cells instead of by vertices',
    parts: { fit: { size: 253, filter: 'bilinear' } },
    module: [
      '@/core/raster/kernels',
      () => ({
        axisWeights: ({ sourceSamples: n, resultSamples: m, from, to }: AxisMapping) => {
          const places = Array.from({ length: to - from }, (_, i) =>
            Math.max(0, Math.min(n - 1, ((i + from + 0.5) * n) / m - 0.5)),
          );
          const first = Int32Array.from(places, (x) => Math.min(n - 2, Math.floor(x)));
          const exact = Float64Array.from(places.flatMap((x, i) => [1 - (x - first[i]!), x - first[i]!]));
          return { first, taps: 2, weights: Float32Array.from(exact), exact };
        },
      }),
    ],
    named: /hold another code/,
  },
  {
    into: 'code',
    what: 'a kernel of two lobes for one of three',
    parts: { fit: { size: 253 } },
    module: [
      '@/core/raster/kernels',
      (real) => ({ axisWeights: (m: never) => real['axisWeights']!(m, 'catmull-rom' as never) }),
    ],
    named: /hold another code/,
  },
  {
    into: 'code',
    what: 'one row and one column taken from the place of the next',
    parts: { fit: { size: 253 } },
    module: [
      '@/core/raster/kernels',
      (real) => ({
        axisWeights: (m: { sourceSamples: number; resultSamples: number }, f: never) => {
          const w = real['axisWeights']!(m as never, f) as { first: Int32Array; taps: number };
          const first = w.first.slice();
          first[3] = first[4]!;
          return { ...w, first };
        },
      }),
    ],
    named: /hold another code|not what the recipe gives/,
  },
  {
    into: 'code',
    what: 'overshoot not held although the recipe says so',
    parts: { fit: { size: 379, clamp: true }, height: { range: 'pinned', low: 1000, high: 2500 } },
    source: () =>
      pngSource(
        hills(SIDE, SIDE).map((c) => (c > 32767 ? 60000 : 5000)),
        SIDE,
      ),
    module: [
      '@/core/raster/resample',
      (real) => ({ resample: (s: never, o: object) => real['resample']!(s, { ...o, clamp: null } as never) }),
    ],
    named: /hold another code/,
  },
  {
    into: 'code',
    what: 'the range from another code than the lowest',
    parts: RAW,
    module: [
      '@/core/height/range',
      (real) => ({
        heightRange: (...args: never[]) => {
          const range = real['heightRange']!(...args) as { low: number };
          return { ...range, low: range.low + 1 };
        },
      }),
    ],
    named: /codes are said to stand for/,
  },
  {
    into: 'code',
    what: 'exaggeration about zero instead of the low end',
    parts: { ...RAW, height: { exaggeration: 1.5, offset: 'survey' } },
    module: ['@/core/height/calibration', () => ({ exaggeratedElevation: (e: number, _: number, f: number) => e * f })],
    named: /hold another code|codes are said to stand/,
  },
  {
    into: 'code',
    what: 'codes rounded down',
    parts: RAW,
    module: [
      '@/core/height/quantise',
      (real) => ({
        quantiserFor: (...args: never[]) => {
          const q = real['quantiserFor']!(...args) as { offset: number };
          return { ...q, offset: q.offset - 0.5 };
        },
      }),
    ],
    named: /hold another code/,
  },
  {
    into: 'code',
    what: 'codes rounded a twentieth of a step off',
    parts: { fit: { size: 253 } },
    module: [
      '@/core/height/quantise',
      (real) => ({
        quantiserFor: (...args: never[]) => {
          const q = real['quantiserFor']!(...args) as { offset: number };
          return { ...q, offset: q.offset + 0.05 };
        },
      }),
    ],
    named: /hold another code/,
  },
  {
    into: 'code',
    what: 'the lowest ground missed, where the range follows it',
    parts: { fit: { size: 253 }, height: { range: 'ground' } },
    module: [
      '@/core/raster/ground',
      (real) => ({
        groundStatistics: async (...args: never[]) => {
          const g = (await real['groundStatistics']!(...args)) as { min: number };
          return { ...g, min: g.min + 40 };
        },
      }),
    ],
    named: /The page states ground from/,
  },
  // values and places
  {
    into: 'code',
    what: 'the height scale by a rule of thumb (range / 512)',
    parts: {},
    module: ['@/core/height/range', () => ({ scaleOfRange: (metres: number) => (metres / 512) * 100 })],
    named: /Height scale is typed as/,
  },
  {
    into: 'code',
    what: 'another elevation at world zero',
    parts: {},
    module: ['@/core/height/range', () => ({ worldZero: (_: unknown, __: unknown, r: { high: number }) => r.high })],
    named: /Height offset is typed as/,
  },
  {
    into: 'code',
    what: 'spacing by samples instead of intervals',
    parts: {},
    module: ['@/core/plan/geometry', geometry((g) => ({ spacing: { x: (2.5 * SIDE) / 127, y: g['spacing']!.y } }))],
    named: /Ground scale east is typed as/,
  },
  {
    into: 'code',
    what: 'check spots with north turned round',
    parts: {},
    module: [
      '@/core/plan/spots',
      (real) => ({
        planSpots: (...args: never[]) =>
          (real['planSpots']!(...args) as { north: number }[]).map((s) => ({ ...s, north: -s.north })),
      }),
    ],
    named: /is said to lie at/,
  },
  {
    into: 'code',
    what: 'placement with north turned round',
    parts: TILES,
    module: [
      '@/core/plan/placement',
      (real) => ({
        placementTable: (...args: never[]) =>
          (real['placementTable']!(...args) as { north: number }[]).map((p) => ({ ...p, north: -p.north })),
      }),
    ],
    named: /it belongs at/,
  },
  {
    into: 'code',
    what: 'tile rows numbered from the other end',
    parts: TILES,
    module: [
      '@/core/tiles/split',
      (real) => ({
        splitTiles: (r: { split: object }, ...rest: never[]) =>
          real['splitTiles']!({ ...r, split: { ...r.split, rows: 'south' } } as never, ...rest),
      }),
    ],
    named: /is said to/,
  },
  // files
  ...(
    [
      ['on ground of 1310–2140 m', narrow(1310, 2140)],
      ['on ground of 4000–4015 m', narrow(4000, 4015)],
      ['on ground of 8000–8001 m', narrow(8000, 8001)],
    ] as const
  ).map(([where, parts]): Fault => ({
    into: 'files',
    what: `one sample changed by one code, ${where}`,
    parts,
    change: raw('kettle.raw', (codes) => (codes[12345] = codes[12345]! ^ 1)),
    named: /1 sample is not what the recipe gives: the first is column 9, row 48 of kettle\.raw/,
  })),
  {
    into: 'files',
    what: 'rows mirrored',
    parts: RAW,
    change: raw('kettle.raw', (codes) => {
      const rows = Array.from({ length: 257 }, (_, y) => codes.slice(y * 257, (y + 1) * 257)).reverse();
      rows.forEach((row, y) => codes.set(row, y * 257));
    }),
    named: /its rows are upside down/,
  },
  {
    into: 'files',
    what: 'rows mirrored, and all of it a little higher',
    parts: RAW,
    change: raw('kettle.raw', (codes) => {
      const rows = Array.from({ length: 257 }, (_, y) => codes.slice(y * 257, (y + 1) * 257)).reverse();
      rows.forEach((row, y) =>
        codes.set(
          row.map((c) => Math.min(65535, c + 100)),
          y * 257,
        ),
      );
    }),
    named: /its rows are upside down/,
  },
  {
    into: 'files',
    what: 'two tiles exchanged',
    parts: TILES,
    change: ({ files }) => {
      const [a, b] = ['kettle-r00c01.raw', 'kettle-r02c00.raw'];
      const kept = files.get(a)!;
      files.set(a, files.get(b)!);
      files.set(b, kept);
    },
    named: /kettle-r00c01\.raw does not lie where it should: it holds the ground of kettle-r02c00\.raw/,
  },
  {
    into: 'files',
    what: 'a tile deleted',
    parts: TILES,
    change: ({ files }) => void files.delete('kettle-r01c01.raw'),
    named: /A file is missing: kettle-r01c01\.raw/,
  },
  {
    into: 'files',
    what: 'a tile too many',
    parts: TILES,
    change: ({ files }) => void files.set('kettle-r03c00.raw', files.get('kettle-r00c00.raw')!),
    named: /kettle-r03c00\.raw lies among the files/,
  },
  {
    into: 'files',
    what: 'a column on one side of a seam',
    parts: TILES,
    change: raw('kettle-r00c01.raw', (codes) => {
      for (let y = 0; y < 127; y++) codes[y * 127] = codes[y * 127]! + 1;
    }),
    named: /vertices on shared edges differ/,
  },
  {
    into: 'files',
    what: 'a file cut short',
    parts: RAW,
    change: ({ files }) => void files.set('kettle.raw', files.get('kettle.raw')!.slice(0, -514)),
    named: /131584 bytes/,
  },
  {
    into: 'files',
    what: 'a void where ground should be',
    parts: {
      ...RAW,
      source: {
        low: undefined,
        high: undefined,
        raw: { width: SIDE, height: SIDE, type: 'f32', byteOrder: 'little', skip: 0 },
      },
      fit: { size: 257, method: 'crop', at: [0, 0], voids: 1400 },
    },
    source: withVoids,
    change: (folder) => {
      const recipe = JSON.parse(text(folder, 'recipe.json')) as { fit: { voids?: number } };
      delete recipe.fit.voids;
      put(folder, 'recipe.json', JSON.stringify(recipe));
    },
    named: /vertices without a height/,
  },
  // the page
  {
    into: 'page',
    what: 'no file listed',
    parts: {},
    change: page((d) => ({ ...d, files: [] })),
    named: /kettle\.png is not listed/,
  },
  {
    into: 'page',
    what: 'a tile unlisted',
    parts: TILES,
    change: page((d) => ({ ...d, files: d.files.slice(1) })),
    named: /kettle-r00c00\.raw is not listed/,
  },
  {
    into: 'page',
    what: 'a tile listed twice',
    parts: TILES,
    change: page((d) => ({ ...d, files: [...d.files, d.files[0]] })),
    named: /kettle-r00c00\.raw is listed 2 times/,
  },
  {
    into: 'page',
    what: 'two windows exchanged',
    parts: TILES,
    change: page((d) => ({
      ...d,
      files: d.files.map((f, i) => (i > 1 ? f : { ...f, window: d.files[1 - i]!.window })),
    })),
    named: /kettle-r00c00\.raw is said to lie at 126, 0/,
  },
  {
    into: 'page',
    what: 'placement emptied',
    parts: TILES,
    change: page((d) => ({ ...d, placement: [] })),
    named: /kettle-r00c00\.raw is not placed/,
  },
  {
    into: 'page',
    what: 'placement doubled',
    parts: TILES,
    change: page((d) => ({ ...d, placement: [...d.placement, ...d.placement] })),
    named: /kettle-r00c00\.raw is placed twice/,
  },
  {
    into: 'page',
    what: 'a spot with north turned round',
    parts: {},
    change: page((d) => ({ ...d, spots: d.spots.map((s, i) => (i === 0 ? { ...s, north: -s.north } : s)) })),
    named: /Highest is said to lie at/,
  },
  {
    into: 'page',
    what: 'a spot removed',
    parts: {},
    change: page((d) => ({ ...d, spots: d.spots.slice(1) })),
    named: /the spot highest is missing/,
  },
  {
    into: 'page',
    what: 'a row of the card removed',
    parts: {},
    change: page((d) => ({ ...d, card: d.card.filter((r) => r.id !== 'heightOffset') })),
    // the decoder can't do without it either
    named: /no value for "heightOffset"/,
  },
  {
    into: 'page',
    what: 'the mask’s row removed from the card',
    parts: {},
    change: page((d) => ({ ...d, card: d.card.filter((r) => r.id !== 'companionQuads') })),
    named: /The card lacks companionQuads/,
  },
  {
    into: 'page',
    what: 'a value in another unit',
    parts: {},
    change: page((d) => ({ ...d, card: d.card.map((r) => (r.id === 'groundScaleX' ? { ...r, unit: 'm' } : r)) })),
    named: /Ground scale east stands in m; it should stand in cm/,
  },
  {
    into: 'page',
    what: 'a value changed in import.md only',
    parts: {},
    change: (folder) => put(folder, 'import.md', text(folder, 'import.md').replace(/\| 162\.\d+ \|/, '| 262.1118 |')),
    named: /Height scale is 262\.1118, not 162\.1118/,
  },
  {
    into: 'page',
    what: 'a value changed in import.html only',
    parts: {},
    change: (folder) =>
      put(
        folder,
        'import.html',
        text(folder, 'import.html').replace(/<td class="n">162\.\d+<\/td>/, '<td>262.1118</td>'),
      ),
    named: /import\.html contradicts import\.json: Height scale is 262\.1118/,
  },
  {
    into: 'page',
    what: 'the height of a spot changed in import.html only',
    parts: {},
    change: (folder) =>
      put(
        folder,
        'import.html',
        text(folder, 'import.html').replace(/(Highest<\/td>(?:<td[^>]*>[^<]*<\/td>){2}<td[^>]*>)[^<]*/, '$17.00'),
      ),
    named: /import\.html contradicts import\.json: Highest has another height/,
  },
  {
    into: 'page',
    what: 'a value changed in import.json only',
    parts: {},
    change: json((d) => ({ ...d, card: d.card.map((r) => (r.id === 'heightScale' ? { ...r, value: 262.1118 } : r)) })),
    named: /Height scale is typed as 262\.1118; it should be 162\.1118/,
  },
  {
    into: 'page',
    what: 'a spot’s code changed in import.md only',
    parts: {},
    change: (folder) =>
      put(folder, 'import.md', text(folder, 'import.md').replace(/\| \d+ \| kettle\.png \|/, '| 7 | kettle.png |')),
    named: /has another code/,
  },
  {
    into: 'page',
    what: 'another spacing',
    parts: {},
    change: page((d) => ({ ...d, fit: { ...d.fit, spacing: { x: 5, y: 5 } } })),
    named: /the spacing is 5 × 5 m/,
  },
  {
    into: 'page',
    what: 'another layout',
    parts: { fit: { size: 253 } },
    change: page((d) => ({ ...d, layout: { quads: 63, patches: 1, componentsX: 4, componentsY: 4 } })),
    named: /the page has 4 × 4 components/,
  },
  {
    into: 'page',
    what: 'another recipe in import.json than beside it',
    parts: {},
    change: page((d) => ({ ...d, recipe: { ...d.recipe, name: 'Gullsward' } })),
    named: /another recipe than recipe\.json/,
  },
  {
    into: 'page',
    what: 'a draft that calls itself the real thing',
    parts: {},
    change: (folder) => {
      const recipe = JSON.parse(text(folder, 'recipe.json')) as object;
      put(folder, 'recipe.json', JSON.stringify({ ...recipe, draft: 127 }));
    },
    named: /does not say that this is a draft/,
  },
  {
    into: 'page',
    what: 'a recipe of another size, without the source',
    parts: {},
    withoutSource: true,
    change: (folder) => {
      const recipe = JSON.parse(text(folder, 'recipe.json')) as { fit: object };
      put(folder, 'recipe.json', JSON.stringify({ ...recipe, fit: { ...recipe.fit, size: 253 } }));
    },
    named: /the page has 127 × 127 vertices, the recipe 253 × 253/,
  },
  {
    into: 'files',
    what: 'rows mirrored, without the source',
    parts: RAW,
    withoutSource: true,
    change: raw('kettle.raw', (codes) => {
      const rows = Array.from({ length: 257 }, (_, y) => codes.slice(y * 257, (y + 1) * 257)).reverse();
      rows.forEach((row, y) => codes.set(row, y * 257));
    }),
    named: /check spots show another height/,
  },
  {
    into: 'source',
    what: 'another source than the pack was made of',
    parts: RAW,
    reference: () => pngSource(hills(SIDE, SIDE, 2), SIDE),
    named: /hold another code/,
  },
  // values
  ...(
    [
      ['verticesX', 128, /Vertices, east–west is typed as 128/],
      ['quads', 255, /Quads per patch is typed as 255/],
      ['bitDepth', 8, /Bit depth is typed as 8/],
      ['companionQuads', 127, /Mask edge to edge, quads is typed as 127/],
    ] as const
  ).map(([id, value, named]): Fault => ({
    into: 'values',
    what: `${id} typed wrong`,
    parts: {},
    typed: { [id]: value },
    named,
  })),
  ...(
    [
      ['byteOrder', 'big', /Byte order is typed as big; it should be little/],
      ['rowOrder', 'south', /First row is typed as south; it should be north/],
      ['fileSize', 4, /Bytes in a file is typed as 4/],
      ['northOffset', 70, /North offset is typed as 70\.00 m/],
    ] as const
  ).map(([id, value, named]): Fault => ({
    into: 'values',
    what: `${id} typed wrong`,
    parts: RAW,
    typed: { [id]: value },
    named,
  })),
];

const listed = faultTable('packs');

test.each([
  ['resampled', {}],
  ['cropped', CROP],
  ['padded', PAD],
  ['tiles', TILES],
  ['4000–4015 m', narrow(4000, 4015)],
  ['8000–8001 m', narrow(8000, 8001)],
  ['exaggerated', { height: { exaggeration: 1.5, offset: 'survey' } }],
  ['range of the ground', { fit: { size: 253 }, height: { range: 'ground' } }],
] as const)('without a fault it holds: %s', async (_, parts) => {
  const proof = await proofWith({ parts });
  expect(proof.checks.filter((c) => c.state === 'fault')).toEqual([]);
  expect(proof.holds).toBe(true);
  expect(proof.places!.compared).toBeGreaterThanOrEqual(1000);
  const { halfStep, typing, arithmetic } = proof.encodingError.budget;
  expect(halfStep).toBe(proof.step / 2);
  expect(typing).toBeLessThanOrEqual(proof.step / 10);
  expect(arithmetic).toBeLessThanOrEqual(proof.step / 10);
});

test.each(FAULTS.map((f) => [f.into, f.what, f] as const))('%s: %s', async (into, what, fault) => {
  let said: string[];
  try {
    const proof = await proofWith(fault);
    expect(proof.holds).toBe(false);
    said = proof.checks.filter((c) => c.state === 'fault').map((c) => c.message);
  } catch (reason) {
    // a page that lacks what nothing can be read without is refused with a typed error
    if (!(reason instanceof Error && 'remedy' in reason)) throw reason;
    said = [reason.message];
  }
  expect(said.join('\n')).toMatch(fault.named);
  const named = said.find((m) => fault.named.test(m)) ?? said[0] ?? '';
  listed(into, what, named);
});
