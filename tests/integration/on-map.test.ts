/**
 * Where written files lie on the map of their source: worked out here by hand, read by another program's reader, and
 * proved; a pack that says another place turns the proof red.
 */
import { fromArrayBuffer } from 'geotiff';
import { MemoryFolder, memorySource, type ByteSource } from '@/core/base';
import type * as OnMap from '@/core/plan/on-map';
import { prove, type Proof } from '@/core/proof';
import type { Recipe } from '@/core/recipe';
import { run } from '@/core/run';
import { degrees } from '../helpers/ground-in-degrees';
import { recipeWith } from '../helpers/rasters';
import { writeTiff } from '../helpers/write-tiff';

jest.setTimeout(60_000);

let mockSlip: 'none' | 'north' | 'row' = 'none';
jest.mock('@/core/plan/on-map', () => {
  const real = jest.requireActual<typeof OnMap>('@/core/plan/on-map');
  return {
    ...real,
    placeOnMap: (...args: Parameters<typeof real.placeOnMap>) => {
      const found = real.placeOnMap(...args);
      if (!found || mockSlip === 'none') return found;
      const { origin, down } = found;
      return mockSlip === 'north'
        ? { ...found, down: [-down[0], -down[1]] }
        : { ...found, origin: [origin[0] + down[0], origin[1] + down[1]] };
    },
  };
});
beforeEach(() => {
  mockSlip = 'none';
});

const [W, H] = [61, 47];
const [EAST, NORTH, STEP] = [412_000.5, 4_800_250.25, 7.3];
/** Of the map: metres, by a code of a system. */
const KEYS = [1, 1, 0, 4, 1024, 0, 1, 1, 1025, 0, 1, 2, 3072, 0, 1, 32733, 3076, 0, 1, 9001];

const stated = (keys: readonly number[] = KEYS): ByteSource =>
  memorySource(
    'kettle.tif',
    writeTiff(
      {
        width: W,
        height: H,
        type: 'float',
        bits: 32,
        tags: [
          [33550, 12, [STEP, STEP, 0]],
          [33922, 12, [0, 0, 0, EAST, NORTH, 0]],
          [34735, 3, keys],
        ],
      },
      (x, y) => Math.fround(900 + 3 * x + 70 * Math.sin(y / 7 + x / 11)),
    ),
  );

const recipe = (parts: {
  steps?: Recipe['steps'];
  fit: object;
  split?: { across: number; down: number };
  format?: 'tiff' | 'png' | 'asc';
}): Recipe => {
  const made = recipeWith({
    target: 'exchange',
    fit: parts.fit,
    ...(parts.split ? { split: { ...parts.split, edges: 'shared' } } : {}),
    output:
      parts.format === 'png' || parts.format === 'asc'
        ? { format: parts.format, byteOrder: 'little', rows: 'north' }
        : { format: 'tiff', encoding: 'f32', byteOrder: 'little', rows: 'north', compression: 'deflate' },
  });
  return {
    ...made,
    source: { ...made.source, heights: { as: 'elevations', unit: 'metre' }, spacing: STEP },
    steps: [...(parts.steps ?? [])],
  };
};

async function packOf(given: Recipe): Promise<MemoryFolder> {
  const folder = new MemoryFolder();
  await run(given, stated(), folder);
  return folder;
}
const proofOf = async (folder: MemoryFolder, more = {}): Promise<Proof> =>
  (await prove({ file: (n) => folder.source(n), reference: stated(), ...more })).proof;
const faults = ({ checks }: Proof): string[] =>
  checks.filter((c) => c.state === 'fault').map((c) => `${c.id}: ${c.message}`);

/** What another reader finds: the coordinates of a sample of a file, and the keys. */
async function readPlace(folder: MemoryFolder, name: string) {
  const bytes = folder.files.get(name)!;
  const image = await (await fromArrayBuffer(bytes.slice().buffer)).getImage();
  const directory = image.fileDirectory as unknown as {
    getValue?: (tag: string) => ArrayLike<number> | undefined;
  } & Record<string, ArrayLike<number> | undefined>;
  const tag = (name_: string): ArrayLike<number> | undefined => directory.getValue?.(name_) ?? directory[name_];
  const matrix = tag('ModelTransformation');
  const scale = tag('ModelPixelScale');
  const tie = tag('ModelTiepoint');
  const at = (x: number, y: number): [number, number] =>
    matrix
      ? [matrix[0]! * x + matrix[1]! * y + matrix[3]!, matrix[4]! * x + matrix[5]! * y + matrix[7]!]
      : [tie![3]! + x * scale![0]!, tie![4]! - y * scale![1]!];
  return {
    at,
    turned: matrix !== undefined,
    keys: image.getGeoKeys(),
    width: image.getWidth(),
    height: image.getHeight(),
  };
}
const near = (found: readonly number[], [east, north]: readonly [number, number]): void => {
  expect(found[0]).toBeCloseTo(east, 6);
  expect(found[1]).toBeCloseTo(north, 6);
};
/** Coordinates of a sample of the source. */
const sample = (column: number, row: number): [number, number] => [EAST + column * STEP, NORTH - row * STEP];

test('resampled, in tiles: each file says its own corner, and the system', async () => {
  const folder = await packOf(recipe({ fit: { size: [101, 73] }, split: { across: 2, down: 3 } }));
  const name = [...folder.files.keys()].find((n) => /r02c01/.test(n))!;
  const { at, turned, keys, width, height } = await readPlace(folder, name);
  expect(turned).toBe(false);
  expect(keys).toMatchObject({ ProjectedCSTypeGeoKey: 32733, GTModelTypeGeoKey: 1, GTRasterTypeGeoKey: 2 });
  // the tile in the south-east: it begins in the middle of the 101 columns, and at two thirds of the 73 rows
  near(at(0, 0), sample((50 / 100) * (W - 1), (48 / 72) * (H - 1)));
  near(at(width - 1, height - 1), sample(W - 1, H - 1));
  expect(faults(await proofOf(folder))).toEqual([]);
});

const [LEFT, TOP, WIDE, TALL] = [9, 4, 31, 23];
const CROPPED = {
  size: [WIDE, TALL] as [number, number],
  method: 'crop' as const,
  at: [LEFT, TOP] as [number, number],
};
/** The sample of the source that vertex (x, y) of the crop is, by how the ground was laid before. */
const LAID: readonly [string, Recipe['steps'], (x: number, y: number) => [number, number]][] = [
  ['as it lies', [], (x, y) => [LEFT + x, TOP + y]],
  ['turned clockwise', [{ op: 'turn', quarters: 1 }], (x, y) => [TOP + y, H - 1 - (LEFT + x)]],
  ['turned by half', [{ op: 'turn', quarters: 2 }], (x, y) => [W - 1 - (LEFT + x), H - 1 - (TOP + y)]],
  ['mirrored', [{ op: 'mirror', axis: 'x' }], (x, y) => [W - 1 - (LEFT + x), TOP + y]],
  ['axes exchanged', [{ op: 'swap-axes' }], (x, y) => [TOP + y, LEFT + x]],
  [
    'turned and mirrored',
    [
      { op: 'turn', quarters: 3 },
      { op: 'mirror', axis: 'y' },
    ],
    // after the quarter turn rows run along columns from the east, and the mirror takes them from the other end
    (x, y) => [W - 1 - (W - 1 - (TOP + y)), LEFT + x],
  ],
];

test.each(LAID)('%s: places follow, as a matrix where rows do not run from west to east', async (_, steps, from) => {
  const folder = await packOf(recipe({ steps, fit: CROPPED }));
  const name = [...folder.files.keys()].find((n) => n.endsWith('.tiff'))!;
  const { at, turned } = await readPlace(folder, name);
  expect(turned).toBe(steps.length > 0);
  for (const [x, y] of [
    [0, 0],
    [WIDE - 1, 0],
    [5, TALL - 1],
  ] as const)
    near(at(x, y), sample(...from(x, y)));
  const proof = await proofOf(folder);
  expect(faults(proof)).toEqual([]);
  expect(proof.checks.find((c) => c.id === 'on-map')).toMatchObject({ state: 'holds' });
});

test('ground that was cut before it was turned keeps its place', async () => {
  const folder = await packOf(
    recipe({
      steps: [
        { op: 'crop', at: [3 * STEP, 5 * STEP], size: [40 * STEP, 30 * STEP] },
        { op: 'turn', quarters: 2 },
      ],
      fit: { size: [41, 31], method: 'crop', at: [0, 0] },
    }),
  );
  const { at } = await readPlace(
    folder,
    [...folder.files.keys()].find((n) => n.endsWith('.tiff'))!,
  );
  near(at(0, 0), sample(43, 35));
  near(at(40, 30), sample(3, 5));
  expect(faults(await proofOf(folder))).toEqual([]);
});

test('turned by an angle, files say no place, and nobody asks for one', async () => {
  const folder = await packOf(
    recipe({ steps: [{ op: 'rotate', degrees: 7, about: [200, 150] }], fit: { size: [53, 37], voids: 800 } }),
  );
  const page = JSON.parse(new TextDecoder().decode(folder.files.get('import.json'))) as { map?: unknown };
  expect(page.map).toBeUndefined();
  expect((await proofOf(folder)).checks.some((c) => c.id === 'on-map')).toBe(false);
});

test.each([10, 'rung'] as const)(
  'metric ground made of degrees has its place in metres: spacing %s',
  async (spacing) => {
    const source = degrees('tarrowen.asc', 0, 0, 90, 70);
    const made = recipe({ fit: { size: [41, 33], voids: 800 } });
    const steps: Recipe['steps'] = [{ op: 'reproject', zone: 44, south: true, spacing }];
    const folder = new MemoryFolder();
    await run({ ...made, source: { ...made.source, spacing: 30 }, steps }, source, folder);
    const page = JSON.parse(new TextDecoder().decode(folder.files.get('import.json'))) as {
      map: { origin: [number, number]; across: [number, number]; down: [number, number]; degrees: boolean };
      fit: { spacing: { x: number; y: number } };
    };
    // 80.3° east lies 0.7° west of the middle of zone 44, which has 500 km; 47.2° south is 5 228 km from the pole side's zero
    expect(page.map.origin[0]).toBeGreaterThan(440_000);
    expect(page.map.origin[0]).toBeLessThan(450_000);
    expect(page.map.origin[1]).toBeGreaterThan(4_760_000);
    expect(page.map.origin[1]).toBeLessThan(4_780_000);
    expect(page.map).toMatchObject({ degrees: false, across: [expect.closeTo(page.fit.spacing.x, 6), 0] });
    expect(page.map.down[1]).toBeCloseTo(-page.fit.spacing.y, 6);
    const { proof } = await prove({ file: (n) => folder.source(n), reference: degrees('tarrowen.asc', 0, 0, 90, 70) });
    expect(faults(proof)).toEqual([]);
    expect(proof.checks.find((c) => c.id === 'on-map')).toMatchObject({ state: 'holds' });
  },
);

test('heights are said to be metres where they are, and a system without a code of the register is said by its name', async () => {
  const made = recipe({ fit: CROPPED });
  const read = async (given: Recipe, source: ByteSource) => {
    const folder = new MemoryFolder();
    await run(given, source, folder);
    return (
      await readPlace(
        folder,
        [...folder.files.keys()].find((n) => n.endsWith('.tiff'))!,
      )
    ).keys;
  };
  expect(await read(made, stated())).toMatchObject({ VerticalUnitsGeoKey: 9001 });
  const codes: Recipe = { ...made, output: { ...made.output, encoding: 'u16' } };
  expect(await read(codes, stated())).not.toHaveProperty('VerticalUnitsGeoKey');
  const beyond = stated(KEYS.map((k) => (k === 32733 ? 61234 : k)));
  expect(await read(made, beyond)).toMatchObject({ ProjectedCSTypeGeoKey: 32767, PCSCitationGeoKey: 'EPSG:61234' });
});

test('a picture cannot say it, and the page tells so', async () => {
  const folder = await packOf(recipe({ fit: CROPPED, format: 'png' }));
  const page = new TextDecoder().decode(folder.files.get('import.md'));
  expect(page).toMatch(/On the map \(EPSG:32733\): .* a PNG can’t say so/);
  expect(faults(await proofOf(folder))).toEqual([]);
});

/** Keys and numbers of the head of an ASCII grid. */
const headOf = (folder: MemoryFolder, name: string): Record<string, number> =>
  Object.fromEntries(
    new TextDecoder()
      .decode(folder.files.get(name))
      .split('\n')
      .slice(0, 7)
      .filter((line) => /^[a-zA-Z_]+ /.test(line))
      .map((line) => line.split(' '))
      .map(([key = '', value]) => [key, Number(value)]),
  );

test('text grids in tiles say the place of their south-western sample, and both distances where they differ', async () => {
  const folder = await packOf(recipe({ fit: { size: [101, 73] }, split: { across: 2, down: 3 }, format: 'asc' }));
  const name = [...folder.files.keys()].find((n) => /r01c01/.test(n))!;
  const head = headOf(folder, name);
  expect(head).toMatchObject({ ncols: 51, nrows: 25 });
  near([head.xllcenter!, head.yllcenter!], sample((50 / 100) * (W - 1), (48 / 72) * (H - 1)));
  near([head.dx!, head.dy!], [(STEP * (W - 1)) / 100, (STEP * (H - 1)) / 72]);
  const proof = await proofOf(folder);
  expect(faults(proof)).toEqual([]);
  const page = JSON.parse(new TextDecoder().decode(folder.files.get('import.json'))) as {
    checks: { id: string; state: string }[];
  };
  expect(page.checks.find((c) => c.id === 'square-cells')).toMatchObject({ state: 'caution' });
});

test('a text grid that was turned stands in the world of the target, and the page says that it can’t say more', async () => {
  const folder = await packOf(recipe({ steps: [{ op: 'turn', quarters: 1 }], fit: CROPPED, format: 'asc' }));
  const head = headOf(
    folder,
    [...folder.files.keys()].find((n) => n.endsWith('.asc'))!,
  );
  expect(head).toMatchObject({ xllcenter: 0, yllcenter: 0, cellsize: STEP });
  expect(new TextDecoder().decode(folder.files.get('import.md'))).toMatch(
    /On the map .* an ASCII grid that is turned can’t say so/,
  );
  expect(faults(await proofOf(folder))).toEqual([]);
});

test.each(['north', 'row'] as const)('a build that is off in its %s is red', async (slip) => {
  mockSlip = slip;
  const folder = await packOf(recipe({ fit: CROPPED }));
  expect(faults(await proofOf(folder)).join('\n')).toMatch(/on-map: the page has the first sample at|on-map: /);
});

test('a file that says another place than its page is red, and so is one that is packed otherwise', async () => {
  const folder = await packOf(recipe({ fit: { size: [101, 73] }, split: { across: 2, down: 1 } }));
  const [first, second] = [...folder.files.keys()].filter((n) => n.endsWith('.tiff'));
  const own = folder.files.get(second!)!;
  folder.files.set(second!, folder.files.get(first!)!);
  expect(faults(await proofOf(folder, { ignoreChecksums: true })).join('\n')).toMatch(
    /has its first sample at 412000\.5/,
  );
  folder.files.set(second!, own);
  const plainly = await packOf({
    ...recipe({ fit: { size: [101, 73] }, split: { across: 2, down: 1 } }),
    output: { format: 'tiff', encoding: 'f32', byteOrder: 'little', rows: 'north' },
  });
  folder.files.set(first!, plainly.files.get(first!)!);
  expect(faults(await proofOf(folder, { ignoreChecksums: true })).join('\n')).toMatch(/packed in another way/);
});
