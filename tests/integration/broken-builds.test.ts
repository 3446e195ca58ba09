/**
 * Builds that are broken where run and proof share what they do: every sample of such a pack is what the pipeline gives,
 * and only the slow twin can tell. Each must turn the proof red.
 */
import { joinedSources, MemoryFolder, memorySource, type ByteSource } from '@/core/base';
import type * as Fit from '@/core/chain/fit';
import type * as Quantise from '@/core/height/quantise';
import type * as Mesh from '@/core/formats/mesh/read';
import type { PlacedPart } from '@/core/mosaic';
import type * as Mosaic from '@/core/mosaic/mosaic';
import { prove, type Proof } from '@/core/proof';
import type { Recipe } from '@/core/recipe';
import type * as Curves from '@/core/raster/curve';
import { run } from '@/core/run';
import type * as Grids from '@/core/squares/grid';
import type * as Squares from '@/core/squares/squared';
import { faultTable } from '../helpers/fault-table';
import { degrees, groundAt } from '../helpers/ground-in-degrees';
import { recipeWith } from '../helpers/rasters';
import { groundMesh, plyOf } from '../helpers/write-mesh';

jest.setTimeout(120_000);

/** What becomes of the rows of a raster: `rows` are those from the north, each a copy. */
type Harm = (row: Float32Array, y: number, before: Float32Array | null) => void;
interface Slips {
  fit?: Harm;
  squares?: Harm;
  mesh?: Harm;
  mosaic?: (part: PlacedPart, i: number) => Partial<PlacedPart>;
  /** Of one of the files. */
  part?: { readonly index: number; readonly harm: Harm };
  grid?: (grid: Grids.SquareGrid) => Grids.SquareGrid;
  curve?: true;
  /** What is clipped is not counted. */
  tally?: true;
}
let mockSlips: Slips = {};

interface Streamed {
  readonly width: number;
  readonly bands: (job?: never) => AsyncGenerator<{ y: number; rows: number; data: ArrayLike<number> }>;
}
function mockHarmed<T extends object>(raster: T, width: number, harm: Harm | undefined): T {
  if (!harm) return raster;
  const { bands } = raster as unknown as Streamed;
  return {
    ...raster,
    async *bands(job?: never) {
      let before: Float32Array | null = null;
      for await (const { y, rows, data } of bands.call(raster, job)) {
        const copy = Float32Array.from(data);
        for (let r = 0; r < rows; r++) {
          const row = copy.subarray(r * width, (r + 1) * width);
          const own = row.slice();
          harm(row, y + r, before);
          before = own;
        }
        yield { y, rows, data: copy };
      }
    },
  };
}

jest.mock('@/core/chain/fit', () => {
  const real = jest.requireActual<typeof Fit>('@/core/chain/fit');
  const fittedGround: typeof real.fittedGround = (...args) => {
    const ground = real.fittedGround(...args);
    return mockHarmed(ground, ground.width, mockSlips.fit);
  };
  return { ...real, fittedGround };
});
jest.mock('@/core/squares/squared', () => {
  const real = jest.requireActual<typeof Squares>('@/core/squares/squared');
  const squared: typeof real.squared = (raster, squares, plain) => {
    const made = real.squared(raster, squares, plain);
    return mockHarmed(made, made.info.width, mockSlips.squares);
  };
  return { ...real, squared };
});
jest.mock('@/core/squares/grid', () => {
  const real = jest.requireActual<typeof Grids>('@/core/squares/grid');
  const gridOf: typeof real.gridOf = (...args) => (mockSlips.grid ?? ((g) => g))(real.gridOf(...args));
  return { ...real, gridOf };
});
jest.mock('@/core/formats/mesh/read', () => {
  const real = jest.requireActual<typeof Mesh>('@/core/formats/mesh/read');
  const openMesh: typeof real.openMesh = async (...args) => {
    const made = await real.openMesh(...args);
    return mockHarmed(made, made.info.width, mockSlips.mesh);
  };
  return { ...real, openMesh };
});
jest.mock('@/core/mosaic/mosaic', () => {
  const real = jest.requireActual<typeof Mosaic>('@/core/mosaic/mosaic');
  const mosaic: typeof real.mosaic = (parts, placed) =>
    real.mosaic(
      parts.map((p, i) => {
        const { part } = mockSlips;
        return part?.index === i ? { ...p, raster: mockHarmed(p.raster, p.raster.info.width, part.harm) } : p;
      }),
      placed.map((p, i) => ({ ...p, ...(mockSlips.mosaic?.(p, i) ?? {}) })),
    );
  return { ...real, mosaic };
});
jest.mock('@/core/raster/curve', () => {
  const real = jest.requireActual<typeof Curves>('@/core/raster/curve');
  const straightener: typeof real.straightener = (info, ends, curve) =>
    real.straightener(info, ends, mockSlips.curve ? 1 : curve);
  return { ...real, straightener };
});

jest.mock('@/core/height/quantise', () => {
  const real = jest.requireActual<typeof Quantise>('@/core/height/quantise');
  const quantise: typeof real.quantise = (out, heights, q, tally) => {
    real.quantise(out, heights, q, tally);
    if (mockSlips.tally) tally.below = 0;
  };
  return { ...real, quantise };
});

type Parts = Parameters<typeof recipeWith>[0];

/** Metres as floats, wider than high. */
function metres(width: number, height: number): ByteSource {
  const heights = Float32Array.from({ length: width * height }, (_, i) => groundAt(i % width, Math.floor(i / width)));
  return memorySource('fells.raw', new Uint8Array(heights.buffer));
}
const raw = (width: number, height: number) => ({ width, height, type: 'f32', byteOrder: 'little', skip: 0 }) as const;
const elevations = (width: number, height: number) =>
  ({ heights: { as: 'elevations', unit: 'metre' }, spacing: 3.7, raw: raw(width, height) }) as const;

/** Ground in degrees, as text. */
const [WIDE, HIGH] = [171, 153];
const reproject = (spacing: number | 'rung') => ({ op: 'reproject', zone: 44, south: true, spacing }) as const;

const mesh = (): ByteSource =>
  memorySource(
    'arch.ply',
    plyOf(
      groundMesh(171, 139, 2, (x, y) => groundAt(x, y) / 9),
      'little',
    ),
  );

const curved = (): ByteSource => {
  const codes = Uint16Array.from({ length: 193 * 157 }, (_, i) => groundAt(i % 193, Math.floor(i / 193)) * 40);
  return memorySource('fells.r16', new Uint8Array(codes.buffer));
};

/** Four files side by side, of unlike sizes. */
const [WEST, NORTH] = [94, 70];
const fourDegrees = (): ByteSource =>
  joinedSources([
    degrees('fells-nw.asc', 0, 0, WEST, NORTH),
    degrees('fells-ne.asc', WEST, 0, WIDE - WEST, NORTH),
    degrees('fells-sw.asc', 0, NORTH, WEST, HIGH - NORTH),
    degrees('fells-se.asc', WEST, NORTH, WIDE - WEST, HIGH - NORTH),
  ]);
const WHERE = [
  { name: 'fells-nw.asc', at: [0, 0] },
  { name: 'fells-ne.asc', at: [WEST, 0] },
  { name: 'fells-sw.asc', at: [0, NORTH] },
  { name: 'fells-se.asc', at: [WEST, NORTH] },
] satisfies NonNullable<Recipe['source']['files']>;
const degreesAsMetres = { heights: { as: 'elevations', unit: 'metre' }, spacing: 25 } as const;

interface Kind {
  readonly source: () => ByteSource;
  readonly recipe: Parts;
}
const KINDS = {
  'larger, 1009 × 2017': {
    source: () => metres(640, 480),
    recipe: { source: elevations(640, 480), target: 'component-grid', fit: { size: [1009, 2017] } },
  },
  'smaller, 505 × 253': {
    source: () => metres(1311, 977),
    recipe: { source: elevations(1311, 977), fit: { size: [505, 253], filter: 'area' } },
  },
  'padded, 2017 × 1009': {
    source: () => metres(1951, 965),
    recipe: { source: elevations(1951, 965), fit: { size: [2017, 1009], method: 'pad', at: [35, 20], rim: 700 } },
  },
  'metric ground': {
    source: () => degrees('fells.asc', 0, 0, WIDE, HIGH),
    recipe: {
      source: { heights: { as: 'elevations', unit: 'metre' }, spacing: 25 },
      steps: [reproject(25)],
      fit: { size: [127, 253], voids: 600 },
    },
  },
  'metric at the vertices': {
    source: () => degrees('fells.asc', 0, 0, WIDE, HIGH),
    recipe: {
      source: { heights: { as: 'elevations', unit: 'metre' }, spacing: 25 },
      steps: [reproject('rung')],
      fit: { size: [127, 253] },
    },
  },
  'stored as metres': {
    source: () => metres(611, 477),
    recipe: {
      source: elevations(611, 477),
      target: 'exchange',
      fit: { size: [505, 253] },
      output: { format: 'raw', encoding: 'f32' },
    },
  },
  'stored as shares': {
    source: () => metres(611, 477),
    recipe: {
      source: elevations(611, 477),
      target: 'exchange',
      fit: { size: [253, 505] },
      output: { format: 'tiff', encoding: 'f32-share' },
    },
  },
  'clipped at both ends': {
    source: () => metres(611, 477),
    recipe: {
      source: elevations(611, 477),
      fit: { size: [505, 253] },
      height: { range: 'pinned', low: 580, high: 1425 },
    },
  },
  'metric ground of four files': {
    source: fourDegrees,
    recipe: {
      source: { ...degreesAsMetres, files: WHERE },
      steps: [reproject(25)],
      fit: { size: [127, 253], voids: 600 },
    },
  },
  'metric at the vertices, of four files that place themselves': {
    source: fourDegrees,
    recipe: { source: degreesAsMetres, steps: [reproject('rung')], fit: { size: [127, 253] } },
  },
  'four files as they lie, larger': {
    source: fourDegrees,
    recipe: { source: { ...degreesAsMetres, files: WHERE }, fit: { size: [1513, 1261], voids: 600 } },
  },
  'a mesh': {
    source: mesh,
    recipe: {
      source: { heights: { as: 'elevations' }, spacing: 2, mesh: { up: 'z', metres: 1 } },
      fit: { size: [253, 127] },
    },
  },
  'a display curve': {
    source: curved,
    recipe: {
      source: {
        heights: { as: 'ends', low: 10, high: 999.7 },
        spacing: 3,
        raw: { ...raw(193, 157), type: 'u16' },
      },
      steps: [{ op: 'linearise', curve: 'srgb' }],
      fit: { size: [253, 127] },
    },
  },
} satisfies Record<string, Kind>;
type Name = keyof typeof KINDS;

async function proofOf(name: Name, slips: Slips): Promise<Proof> {
  const { source, recipe }: Kind = KINDS[name];
  const from = source();
  mockSlips = slips;
  const folder = new MemoryFolder();
  await run(recipeWith(recipe), from, folder);
  const { proof } = await prove({ file: (n) => folder.source(n), reference: from });
  // it is the very pack that this build makes
  expect(proof.differentSamples).toBe(0);
  return proof;
}
const faultsOf = ({ checks }: Proof): string[] => checks.filter((c) => c.state === 'fault').map((c) => c.message);

test.each(Object.keys(KINDS) as Name[])('the right build holds: %s', async (name) => {
  expect(faultsOf(await proofOf(name, {}))).toEqual([]);
});

const rowFromAbove =
  (at: number): Harm =>
  (row, y, before) => {
    if (y === at && before) row.set(before);
  };
const columnFrom =
  (at: number, by: number): Harm =>
  (row) => {
    row[at] = row[at + by]!;
  };
const rowTurned =
  (at: number): Harm =>
  (row, y) => {
    if (y === at) row.reverse();
  };
const rowRaised =
  (at: number, by: number): Harm =>
  (row, y) => {
    if (y === at) for (let x = 0; x < row.length; x++) row[x]! += by;
  };
const columnRaised =
  (at: number, by: number): Harm =>
  (row) => {
    row[at]! += by;
  };
const voidAt =
  (at: number): Harm =>
  (row, y) => {
    if (y === at) row.fill(NaN);
  };

const BROKEN: readonly (readonly [Name, string, Slips, RegExp])[] = [
  ['larger, 1009 × 2017', 'a row taken from the one above it', { fit: rowFromAbove(889) }, /worked out again/],
  ['larger, 1009 × 2017', 'the last row taken from the one above it', { fit: rowFromAbove(2016) }, /worked out again/],
  ['larger, 1009 × 2017', 'a column taken from its neighbour', { fit: columnFrom(657, -1) }, /worked out again/],
  [
    'larger, 1009 × 2017',
    'the last column taken from its neighbour',
    { fit: columnFrom(1008, -1) },
    /worked out again/,
  ],
  ['larger, 1009 × 2017', 'the first column taken from its neighbour', { fit: columnFrom(0, 1) }, /worked out again/],
  ['larger, 1009 × 2017', 'a row the other way round', { fit: rowTurned(1501) }, /worked out again/],
  // floats are told apart to far less than the two centimetres that a code may hide
  ['stored as metres', 'a row raised by 2 cm', { fit: rowRaised(101, 0.02) }, /hold another height/],
  ['stored as metres', 'a column raised by 2 cm', { fit: columnRaised(77, 0.02) }, /hold another height/],
  ['stored as shares', 'a row raised by 2 cm', { fit: rowRaised(303, 0.02) }, /hold another height/],
  ['smaller, 505 × 253', 'a row taken from the one above it', { fit: rowFromAbove(101) }, /worked out again/],
  ['smaller, 505 × 253', 'a column taken from its neighbour', { fit: columnFrom(333, 1) }, /worked out again/],
  ['padded, 2017 × 1009', 'a row of the rim raised', { fit: rowRaised(1005, 0.7) }, /worked out again/],
  ['padded, 2017 × 1009', 'the first row of the rim raised', { fit: rowRaised(0, 0.7) }, /worked out again/],
  ['padded, 2017 × 1009', 'a row taken from the one above it', { fit: rowFromAbove(617) }, /worked out again/],
  [
    'padded, 2017 × 1009',
    'the last row of ground taken from the one above',
    { fit: rowFromAbove(984) },
    /worked out again/,
  ],
  [
    'metric ground',
    'a row of squares taken from the one above',
    { squares: rowFromAbove(131) },
    /Squares are not what/,
  ],
  [
    'metric ground',
    'the first column of squares taken from the next',
    { squares: columnFrom(0, 1) },
    /Squares are not what/,
  ],
  ['metric ground', 'a row of squares without a height', { squares: voidAt(77) }, /are void where there is ground/],
  [
    'metric ground',
    'squares that lie one further east',
    { grid: (g) => ({ ...g, east: g.east + 25, width: g.width - 1 }) },
    /does not lie where its outline puts it/,
  ],
  ['metric ground', 'a row of squares too few', { grid: (g) => ({ ...g, height: g.height - 1 }) }, /where its outline/],
  ['metric at the vertices', 'a row taken from the one above it', { fit: rowFromAbove(201) }, /worked out again/],
  ['metric at the vertices', 'a column taken from its neighbour', { fit: columnFrom(11, 1) }, /worked out again/],
  [
    'metric at the vertices',
    'ground without its last row',
    { grid: (g) => ({ ...g, height: g.height - 1 }) },
    /where its outline/,
  ],
  ['clipped at both ends', 'what is clipped is not counted', { tally: true }, /were counted; worked out again/],
  ...(
    [
      ['metric ground of four files', /Squares are not what|where its outline/],
      ['metric at the vertices, of four files that place themselves', /worked out again|where its outline/],
      ['four files as they lie, larger', /worked out again|should enter the fit/],
    ] as const
  ).flatMap(([name, named]) =>
    (
      [
        ['a file a row late', { mosaic: ({ at: [x, y] }, i) => (i === 1 ? { at: [x, y + 1] } : {}) }],
        ['a file a column early', { mosaic: ({ at: [x, y] }, i) => (i === 3 ? { at: [x - 1, y] } : {}) }],
        ['a file mirrored', { part: { index: 2, harm: (row) => row.reverse() } }],
        [
          'the row of a file next to a seam taken from the one above',
          { part: { index: 0, harm: rowFromAbove(NORTH - 1) } },
        ],
        ['the column of a file next to a seam raised', { part: { index: 3, harm: columnRaised(0, 0.5) } }],
      ] as [string, Slips][]
    ).map(([what, slips]) => [name, what, slips, named] as const),
  ),
  ['a mesh', 'a row taken from the one above it', { mesh: rowFromAbove(53) }, /highest surface/],
  ['a mesh', 'the first column taken from the next', { mesh: columnFrom(0, 1) }, /highest surface/],
  ['a mesh', 'a row a centimetre too high', { mesh: rowRaised(138, 0.01) }, /highest surface/],
  ['a display curve', 'the curve forgotten', { curve: true }, /worked out again|linearise/],
];
const listed = faultTable('broken-builds');
test.each(BROKEN)('%s: %s', async (name, what, slips, named) => {
  const proof = await proofOf(name, slips);
  expect(proof.holds).toBe(false);
  const faults = faultsOf(proof);
  expect(faults.join('\n')).toMatch(named);
  listed(`build: ${name}`, what, faults.find((f) => named.test(f)) ?? '');
});
