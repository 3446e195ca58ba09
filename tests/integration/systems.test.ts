/** Coordinates that are no true metres of ground: feet by a code, maps that stretch, ground on both sides of 180°. */
import { joinedSources, MemoryFolder, memorySource, sideBySide, type ByteSource } from '@/core/base';
import { madeMetric, withReprojection } from '@/core/edits';
import { holdersOf } from '@/core/mosaic';
import { prove, type Proof } from '@/core/proof';
import { countSource, openReading, run } from '@/core/run';
import { groundSpacing } from '@/core/raster';
import { proposedSquares, withSystem, type Squares } from '@/core/squares';
import { enteringFrom, samplesOf } from '../helpers/entering';
import { recipeWith } from '../helpers/rasters';
import { writeTiff } from '../helpers/write-tiff';

// whole packs are written and proved here: that takes a while on a busy machine
jest.setTimeout(60_000);

const bare = {
  format: 'tiff',
  width: 33,
  height: 33,
  channels: 1,
  bitDepth: 32,
  sampleType: 'float',
  byteOrder: 'little',
  warnings: [],
} as const;

const A = 6378137;
const FLATTENING = 1 / 298.257223563;
const ECCENTRICITY = FLATTENING * (2 - FLATTENING);
const radians = (degrees: number): number => (degrees * Math.PI) / 180;

/** Heights by longitude and latitude. */
const ground = (longitude: number, latitude: number): number =>
  900 + 300 * Math.sin((longitude - 80.3) * 210) * Math.cos((latitude + 47.2) * 190);

const SIDE = 201;
/** A picture of the usual map of the world, 20 of its metres from sample to sample, its north-west at 80.3°, −47.2°. */
const map = { x: A * radians(80.3), y: A * Math.log(Math.tan(Math.PI / 4 + radians(-47.2) / 2)), d: 20 };
const placed = (
  code: number,
  { x, y, d }: { x: number; y: number; d: number },
  linear?: number,
): [number, 3 | 12, number[]][] => [
  [33550, 12, [d, d, 0]],
  [33922, 12, [0, 0, 0, x, y, 0]],
  [
    34735,
    3,
    [
      ...[1, 1, 0, linear === undefined ? 3 : 4, 1024, 0, 1, 1, 1025, 0, 1, 2, 3072, 0, 1, code],
      ...(linear === undefined ? [] : [3076, 0, 1, linear]),
    ],
  ],
];
const world = memorySource(
  'world.tif',
  writeTiff({ width: SIDE, height: SIDE, type: 'float', bits: 32, tags: placed(3857, map) }, (x, y) => {
    const longitude = ((map.x + x * map.d) / A) * (180 / Math.PI);
    const latitude = (2 * Math.atan(Math.exp((map.y - y * map.d) / A)) - Math.PI / 2) * (180 / Math.PI);
    return ground(longitude, latitude);
  }),
);

/** A source made metric. */
const metric = async (source: ByteSource, squares: Squares) =>
  enteringFrom(await openReading(source, {}), madeMetric(recipeWith({ source: { low: undefined } }), squares));

async function packed(source: ByteSource): Promise<Proof> {
  const { facts } = await countSource(source);
  const recipe = withReprojection(
    recipeWith({
      source: { low: undefined, high: undefined },
      fit: { size: 127, method: 'resample' },
      height: { range: 'ground' },
    }),
    proposedSquares(facts.info),
    facts.info,
  );
  const folder = new MemoryFolder();
  await run({ ...recipe, fit: { ...recipe.fit, size: 127, method: 'resample' } }, source, folder);
  return (await prove({ file: (n) => folder.source(n), reference: source })).proof;
}

test('the usual map of the world: its metres are told as what they are on the ground, and become squares', async () => {
  const { facts } = await countSource(world);
  const middle = map.y - ((SIDE - 1) / 2) * map.d;
  const phi = 2 * Math.atan(Math.exp(middle / A)) - Math.PI / 2;
  // radii of the ellipsoid along the parallel and the meridian, against those of the sphere that the map is of
  const across = Math.sqrt(1 - ECCENTRICITY * Math.sin(phi) ** 2);
  const east = (20 * Math.cos(phi)) / across;
  const north = (20 * Math.cos(phi) * (1 - ECCENTRICITY)) / across ** 3;
  const spacing = groundSpacing(facts.info)!;
  expect(spacing.east).toBeCloseTo(east, 4);
  expect(spacing.north).toBeCloseTo(north, 3);
  const told = facts.warnings.find((w) => w.code === 'degrees')!;
  expect(told.message).toContain('20 m of it are 13.61 m east–west and 13.57 m north–south');
  expect(told.repair!.args).toMatchObject({ zone: 44, south: true, spacing: Math.round(north * 100) / 100 });
  const squares = proposedSquares(facts.info)!;
  const made = await metric(world, squares);
  expect(made.info.georeference).toMatchObject({ degrees: false, metres: 1, crs: 'EPSG:32744' });
  // 20 m of the map are 13.6 m of ground: 4 km of it are 2.7 km
  expect((made.info.width - 1) * squares.spacing).toBeGreaterThan(2650);
  expect((made.info.width - 1) * squares.spacing).toBeLessThan(2740);
  const proof = await packed(world);
  expect(proof.checks.filter((c) => c.state === 'fault')).toEqual([]);
  expect(proof.checks.find((c) => c.id === 'reproject')?.state).toBe('holds');
});

test('the heights of such squares are those of their places', async () => {
  const { facts } = await countSource(world);
  const squares = proposedSquares(facts.info)!;
  const made = await metric(world, squares);
  const { inverse } = (await import('@/core/squares')).projector(squares);
  const { width, georeference: g } = made.info;
  let worst = 0;
  for await (const { y, rows, data } of made.bands())
    for (let i = 0; i < rows * width; i++) {
      const [longitude, latitude] = inverse(g!.x + (i % width) * g!.dx, g!.y - (y + Math.floor(i / width)) * g!.dy);
      worst = Math.max(worst, Math.abs(Number(data[i]) - ground(longitude, latitude)));
    }
  // 300 m of hills of 220 samples; at the rim the raster is taken between 2 × 2 samples
  expect(worst).toBeLessThan(0.1);
});

test.each([
  ['a code whose unit is the foot of surveys', 2225, undefined, 1200 / 3937],
  ['the file itself names the foot', 2225, 9002, 0.3048],
  ['a code in metres', 32744, undefined, 1],
  ['a code that nothing is known of', 1234, undefined, 1],
])('units by the system: %s', async (_, code, linear, metres) => {
  const source = memorySource(
    'feet.tif',
    writeTiff(
      {
        width: 40,
        height: 30,
        type: 'float',
        bits: 32,
        tags: placed(
          code,
          { x: code === 32744 ? 350_000 : 6_500_000, y: code === 32744 ? 4_772_000 : 2_000_000, d: 3 },
          linear,
        ),
      },
      (x, y) => x + y,
    ),
  );
  const { info } = await openReading(source, {});
  expect(groundSpacing(info)!.east).toBeCloseTo(3 * metres, 9);
  expect(proposedSquares(info)).toBeNull();
});

test.each(['fells.asc', 'fells.bil'])('well-known text beside %s: feet, and a map that stretches', async (name) => {
  const grid =
    name === 'fells.asc'
      ? new TextEncoder().encode('ncols 3\nnrows 2\nxllcorner 8938955\nyllcorner -5974000\ncellsize 20\n1 2 3\n4 5 6\n')
      : new Uint8Array(12).map((_, i) => (i % 2 === 0 ? i : 0));
  const header =
    'ncols 3\nnrows 2\nnbits 16\npixeltype unsignedint\nbyteorder I\nulxmap 8938965\nulymap -5973970\nxdim 20\nydim 20\n';
  const opened = async (text: string) =>
    (
      await openReading(
        joinedSources(
          sideBySide([
            memorySource(name, grid),
            memorySource('fells.prj', new TextEncoder().encode(text)),
            ...(name === 'fells.bil' ? [memorySource('fells.hdr', new TextEncoder().encode(header))] : []),
          ]),
        ),
        {},
      )
    ).info;
  const geographic =
    'GEOGCS["Fells",DATUM["D",SPHEROID["S",6378137,298.257223563]],PRIMEM["Zero",0],UNIT["Degree",0.0174532925199433]]';
  const cylinder = (unit: string, factor: number): string =>
    `PROJCS["Fells Grid",${geographic},PROJECTION["Transverse_Mercator"],PARAMETER["False_Easting",8938955],PARAMETER["False_Northing",-5974000],PARAMETER["Central_Meridian",80.3],PARAMETER["Scale_Factor",1],PARAMETER["Latitude_Of_Origin",-47.2],UNIT["${unit}",${factor}]]`;
  expect(groundSpacing(await opened(cylinder('Foot', 0.3048)))!.east).toBeCloseTo(6.096, 9);
  expect((await opened(cylinder('Foot', 0.3048))).georeference?.system).toBeUndefined();
  const mercator = `PROJCS["Fells Map",${geographic},PROJECTION["Mercator"],PARAMETER["False_Easting",0],PARAMETER["False_Northing",0],PARAMETER["Central_Meridian",0],PARAMETER["Standard_Parallel_1",0],UNIT["Meter",1]]`;
  const stretched = await opened(mercator);
  expect(stretched.georeference?.system).toBe(mercator);
  // cos φ at −47.2°, with the flattening of the ellipsoid
  expect(groundSpacing(stretched)!.east).toBeGreaterThan(13.4);
  expect(groundSpacing(stretched)!.east).toBeLessThan(13.8);
  // text that means nothing is as if there were none
  const nonsense = await opened(`PROJCS["${'['.repeat(300)}`);
  expect(nonsense.georeference?.system).toBeUndefined();
});

test('blocks on both sides of 180° are neighbours; a place is found from either side', async () => {
  const side = 121;
  const step = 1 / 1200;
  const block = (name: string, west: number): ByteSource =>
    memorySource(
      name,
      new TextEncoder().encode(
        `ncols ${side}\nnrows ${side}\nxllcenter ${west}\nyllcenter -47.3\ncellsize ${step}\nNODATA_value -9999\n` +
          Array.from({ length: side }, (_, y) =>
            Array.from({ length: side }, (_v, x) => {
              const longitude = west + x * step;
              return ground((longitude < 0 ? longitude + 360 : longitude) - 99.7, -47.2 - y * step).toFixed(3);
            }).join(' '),
          ).join('\n'),
      ),
    );
  const source = joinedSources([block('east.asc', -180), block('west.asc', 179.9)]);
  const { facts } = await countSource(source);
  expect(facts.arrangement).toMatchObject({ by: 'ground', edges: 'shared', uncovered: 0 });
  expect(facts.info).toMatchObject({ width: 2 * side - 1, height: side });
  expect(facts.arrangement!.seams.largest).toBe(0);
  const squares = proposedSquares(facts.info)!;
  expect([1, 60]).toContain(squares.zone);
  const made = await metric(source, squares);
  expect((await samplesOf(made)).filter((v) => Number.isNaN(v))).toEqual([]);
  // 0.2° at 47.25° S are 15 146 m; 3° beside the middle of a zone, rows lie 2.2° aslant, which takes 213 m at either end
  expect((made.info.width - 1) * squares.spacing).toBeGreaterThan(14_500);
  expect((made.info.width - 1) * squares.spacing).toBeLessThan(14_800);
  for (const longitude of [179.95, -180.05])
    expect(holdersOf([{ name: 'all', ...facts.info }], longitude, -47.25)).toEqual([
      { name: 'all', column: 60, row: 60 },
    ]);
  const proof = await packed(source);
  expect(proof.checks.filter((c) => c.state === 'fault')).toEqual([]);
});

test('every code that is known opens, wherever its coordinates lie', async () => {
  const { default: list } = await import('proj4-list');
  // nothing may be said in between: what a command prints is a document
  const said = jest.spyOn(console, 'log').mockImplementation(() => undefined);
  const codes = Object.keys(list);
  expect(codes.length).toBeGreaterThan(5000);
  const faults: string[] = [];
  for (const crs of codes)
    for (const [x, y] of [
      [0, 0],
      [500_000, 4_800_000],
      [-9e6, 2e7],
    ] as const) {
      const georeference = { x, y, dx: 5, dy: 5, metres: 1, degrees: false, crs };
      const info = { ...bare, georeference };
      const known = await withSystem(info).catch((e: unknown) => (faults.push(`${crs}: ${String(e)}`), null));
      const spacing = !known || known.georeference?.degrees ? { east: 1, north: 1 } : groundSpacing(known);
      if (!spacing || !(spacing.east > 0) || !(spacing.north > 0)) faults.push(`${crs}: no spacing`);
    }
  expect(faults).toEqual([]);
  expect(said).not.toHaveBeenCalled();
  said.mockRestore();
});

test('coordinates that are made up for a narrow zone change nothing', async () => {
  const georeference = { x: 9e6, y: 100, dx: 5, dy: 5, metres: 1, degrees: false, crs: 'EPSG:32744' };
  const known = await withSystem({ ...bare, georeference });
  expect(known.georeference).toEqual(georeference);
});
